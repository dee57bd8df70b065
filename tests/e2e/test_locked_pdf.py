"""A PDF that needs a password: asked for, opened, and its improved copy locked again."""

import io
import re

import pikepdf
import pytest
from PIL import Image
from playwright.sync_api import expect
from reportlab.lib.utils import ImageReader
from reportlab.pdfgen.canvas import Canvas

from tests.e2e.conftest import answer_shown, follow


@pytest.fixture
def locked(tmp_path, live):
    """A locked PDF with a poor image of a picture on the demo's shelf."""
    with Image.open(live.shelf / "slipway.jpg") as original:
        poor = original.convert("RGB")
        poor.thumbnail((300, 300))
    out = io.BytesIO()
    canvas = Canvas(out, pagesize=(400, 400))
    canvas.drawImage(ImageReader(poor), 20, 20, 240, 240 * poor.height / poor.width)
    canvas.save()
    path = tmp_path / "harbour dues.pdf"
    with pikepdf.open(io.BytesIO(out.getvalue())) as pdf:
        pdf.save(path, encryption=pikepdf.Encryption(owner="master", user="quay 17"))
    return path


def test_a_locked_pdf_is_opened_and_improved(page, locked, tmp_path):
    page.goto("/documents")
    page.locator("#files").set_input_files(locked)
    row = page.locator(".document-row", has_text="harbour dues.pdf").first
    expect(row).to_have_attribute("data-state", "failed")
    follow(row)
    expect(page.get_by_role("alert")).to_contain_text("is encrypted and needs a password")
    page.get_by_label("Password of this PDF").fill("wrong")
    page.get_by_role("button", name="Open").click()
    expect(page.locator("#notice")).to_contain_text("this is not its password")
    page.get_by_label("Password of this PDF").fill("quay 17")
    page.get_by_role("button", name="Open").click()
    expect(page.locator(".document-head")).to_contain_text("1 page, 1 image")
    expect(page.get_by_label("Password of this PDF")).to_have_count(0)
    follow(page.get_by_role("link", name="Improve"))
    with answer_shown(page, "/improve/find"):
        page.get_by_role("button", name="Find originals").click()
    expect(page.locator("#plan tbody tr")).to_contain_text(re.compile("slipway"))
    with answer_shown(page, "/improve/copy"):
        page.get_by_role("button", name="Make improved copy").click()
    made = page.get_by_role("region", name="Improved copies").locator(".made").first
    expect(made).to_have_attribute("data-state", "done")
    expect(made).to_contain_text("The copy has the same encryption and permissions")
    with page.expect_download() as download:
        made.get_by_role("link", name="Download").click()
    copy = tmp_path / "copy.pdf"
    download.value.save_as(copy)
    with pytest.raises(pikepdf.PasswordError):
        pikepdf.open(copy)
    with pikepdf.open(copy, password="quay 17") as pdf:
        assert next(iter(pdf.pages[0].images.values())).Width > 300
    follow(made.get_by_role("link", name="Check of the copy"))
    expect(page.locator(".document-head")).to_contain_text("1 page, 1 image")
