"""Improving somebody's PDF: originals found on the shelves, a proven copy, images as files."""

import io
import json
import re
import subprocess
from zipfile import ZipFile

import pytest
from PIL import Image
from playwright.sync_api import expect

from tests.e2e.conftest import answer_shown, follow, open_document

LOOK = re.compile("^(Find originals|Look again)$")
"""The second name where originals were looked for before."""


def improve(page, name):
    """The Improve page of a PDF that the demo was sent."""
    open_document(page, name)
    follow(page.get_by_role("link", name="Improve"))
    return page


@pytest.fixture
def programme(page):
    return improve(page, "quay fair programme.pdf")


@pytest.fixture
def leaflet(page):
    return improve(page, "harbour festival leaflet.pdf")


def downloaded(page, link):
    with page.expect_download() as download:
        link.click()
    return download.value


def test_from_poor_images_to_a_proven_copy(programme, tmp_path):
    page = programme
    with answer_shown(page, "/improve/find"):
        page.get_by_role("button", name=LOOK).click()
    # All sure ones are chosen already.
    expect(page.get_by_role("button", name="Look again")).to_be_visible()
    rows = page.locator("#plan tbody tr")
    expect(rows).to_have_count(7)
    # Whole, cropped, turned, in grey, in CMYK and mirrored; of the last there is no picture.
    names = ["harbour-morning", "storm-watch", "slipway", "rope-store", "gallery-2417", "fog-sig"]
    for row, name in zip(rows.all(), names, strict=False):
        expect(row).to_contain_text(name)
        expect(row).to_contain_text("surely the same shot")
    expect(rows.last).to_contain_text("no original found")
    expect(rows.locator("input[name=image]:checked")).to_have_count(6)
    with answer_shown(page, "/improve/copy"):
        page.get_by_role("button", name="Make improved copy").click()
    made = page.get_by_role("region", name="Improved copies").locator(".made").first
    expect(made).to_have_attribute("data-state", "done")
    expect(made).to_contain_text("6 images changed")
    copy = tmp_path / "copy.pdf"
    downloaded(page, made.get_by_role("link", name="Download")).save_as(copy)
    follow(made.get_by_role("link", name="Receipt"))
    expect(page.locator("#images tbody tr")).to_have_count(8)
    # The copy's findings stand beside the first one's.
    few = page.locator(".beside tr", has_text="Too few pixels").locator("td")
    expect(few.nth(1)).to_have_text("7")
    expect(few.nth(2)).to_have_text("1")
    first = page.locator("#images tbody tr").first
    expect(first).to_contain_text("replaced by a part of harbour-morning.jpg")
    receipt = json.loads(downloaded(page, page.get_by_role("link", name="JSON")).path().read_text())
    assert receipt["is_proven"]
    printed = downloaded(page, page.get_by_role("link", name="PDF", exact=True)).path()
    text = subprocess.run(["pdftotext", "-layout", printed, "-"], capture_output=True, text=True)
    assert "no original found" in text.stdout
    page.go_back()
    changed = [row for row in receipt["images"] if row["fate"] == "replaced"]
    listed = subprocess.run(["pdfimages", "-list", copy], capture_output=True, text=True)
    found = [line.split() for line in listed.stdout.splitlines()[2:]]
    assert len(changed) == 6
    for row in changed:
        size = str(row["new_px_w"]), str(row["new_px_h"])
        there = next(cells for cells in found if (cells[3], cells[4]) == size)
        assert float(there[12]) == pytest.approx(row["new_ppi"], abs=1), "as poppler sees it"
        assert row["new_ppi"] == pytest.approx(450, abs=1)
    # The copy is a checked PDF itself, and but one image in it is dense enough.
    follow(made.get_by_role("link", name="Check of the copy"))
    expect(page.locator("h1")).to_have_text("quay fair programme improved.pdf")
    expect(page.locator(".ruler-head")).to_contain_text("1 below")


def test_images_as_files(leaflet):
    page = leaflet
    with answer_shown(page, "/improve/images"):
        page.get_by_role("button", name="Extract all images").click()
    made = page.get_by_role("region", name="Extract images").locator(".made")
    expect(made).to_contain_text("15 images and a table")
    path = downloaded(page, made.get_by_role("link", name="Download")).path()
    with ZipFile(path) as pack:
        names = pack.namelist()
        assert len(names) == 16
        assert "images.csv" in names
        with Image.open(io.BytesIO(pack.read("page 1 image 01.png"))) as image:
            assert image.size == (1890, 1260)


def test_nothing_is_made_of_nothing(leaflet):
    page = leaflet
    with answer_shown(page, "/improve/find"):
        page.get_by_role("button", name=LOOK).click()
    expect(page.get_by_role("button", name="Look again")).to_be_visible()
    for box in page.locator("input[name=image]").all():
        box.uncheck()
    page.get_by_role("button", name="Make improved copy").click()
    expect(page.locator("#notice")).to_contain_text("Choose an image to replace")


def test_chosen_images_as_files(leaflet):
    page = leaflet
    page.get_by_text("Choose images").click()
    page.get_by_role("button", name="Extract chosen").click()
    expect(page.locator("#notice")).to_contain_text("Choose the images to extract")
    page.get_by_role("checkbox", name="Image 1 on page 1", exact=True).check()
    page.get_by_role("checkbox", name="Image 2 on page 1", exact=True).check()
    with answer_shown(page, "/improve/images"):
        page.get_by_role("button", name="Extract chosen").click()
    made = page.get_by_role("region", name="Extract images").locator(".made")
    expect(made).to_contain_text("2 images and a table")
    with ZipFile(downloaded(page, made.get_by_role("link", name="Download")).path()) as pack:
        names = sorted(name.rpartition(".")[0] for name in pack.namelist())
    assert names == ["images", "page 1 image 01", "page 1 image 02"]


def test_an_image_lies_over_the_part_of_its_original(programme):
    page = programme
    with answer_shown(page, "/improve/find"):
        page.get_by_role("button", name=LOOK).click()
    row = page.locator("#plan tbody tr", has_text="storm-watch")
    follow(row.get_by_role("link", name="look closer"))
    expect(page.locator(".facts")).to_contain_text("surely the same shot")
    expect(page.locator(".facts")).to_contain_text("4.10 × the pixels")
    over = page.locator(".laid-over svg")
    expect(over).to_have_count(2)
    wipe = page.get_by_role("slider", name="Wipe position")
    wipe.focus()
    page.keyboard.press("Home")
    expect(over.last).to_have_css("clip-path", "inset(0px 0px 0px 0%)")
    page.keyboard.press("End")
    expect(over.last).to_have_css("clip-path", "inset(0px 0px 0px 100%)")
