"""Pages of somebody else's PDF as images: the pixels first, then files with their density tag."""

import io
import re
from zipfile import ZipFile

from PIL import Image
from playwright.sync_api import expect

from tests.e2e.conftest import answer_shown, follow, open_document


def images_of(page, name):
    """The view of a PDF's pages as images, reached as a designer does."""
    open_document(page, name)
    page.get_by_role("button", name="Export").click()
    follow(page.get_by_role("link", name=re.compile("^Pages as images")))
    return page


def made(page):
    return page.locator("#page-images-made .made")


def test_the_pixels_are_told_first_and_kept(page):
    images_of(page, "quay fair programme.pdf")
    pixels = page.locator("#page-pixels")
    # The form opens as it was left, and other tests leave it otherwise.
    page.get_by_role("radio", name="all 2").check()
    page.get_by_role("radio", name="150 ppi", exact=True).check()
    # A5 at 150 ppi: 148 mm / 25.4 × 150 = 874.02, 210 mm / 25.4 × 150 = 1240.16.
    expect(pixels.locator("tbody tr")).to_have_count(1)
    expect(pixels).to_contain_text("874 × 1 240 px")
    page.get_by_role("combobox", name="Format").select_option("jpeg")
    count = made(page).count()
    page.get_by_role("button", name="Export images").click()
    expect(made(page)).to_have_count(count + 1)
    first = made(page).first
    expect(first).to_have_attribute("data-state", "done")
    with page.expect_download() as download:
        first.get_by_role("link", name="Download").click()
    with ZipFile(download.value.path()) as pack:
        names = pack.namelist()
        assert names == [f"quay fair programme page {n}.jpg" for n in (1, 2)]
        for name in names:
            with Image.open(io.BytesIO(pack.read(name))) as image:
                assert (image.size, image.info["dpi"]) == ((874, 1240), (150, 150))


def test_one_page_by_its_width_is_a_file_of_its_own(page):
    images_of(page, "quay fair programme.pdf")
    page.get_by_role("combobox", name="Format").select_option("png")
    page.get_by_role("textbox", name="Pages by number").fill("2")
    page.get_by_role("radio", name="pages").check()
    with answer_shown(page, "/images/pixels"):
        page.get_by_role("textbox", name="Pixels wide").fill("1000")
    row = page.locator("#page-pixels tbody tr")
    expect(row).to_have_count(1)
    expect(row.locator("td").first).to_have_text("2")
    expect(row).to_contain_text("1 000 × 1 419 px")
    count = made(page).count()
    page.get_by_role("button", name="Export images").click()
    expect(made(page)).to_have_count(count + 1)
    expect(made(page).first).to_contain_text("quay fair programme page 2.png")
    expect(made(page).first).to_have_attribute("data-state", "done")


def test_what_cannot_be_is_said_and_nothing_is_made(page):
    images_of(page, "quay fair programme.pdf")
    page.get_by_role("textbox", name="Pages by number").fill("7")
    page.get_by_role("radio", name="pages").check()
    expect(page.locator("#page-pixels")).to_contain_text("There are pages 1 to 2, not 7")
    count = made(page).count()
    page.get_by_role("button", name="Export images").click()
    expect(page.locator("#notice")).to_contain_text("There are pages 1 to 2, not 7")
    expect(made(page)).to_have_count(count)
