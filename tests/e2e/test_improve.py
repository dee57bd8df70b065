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
    # All that would look as before are chosen already.
    expect(page.get_by_role("button", name="Look again")).to_be_visible()
    rows = page.locator("#plan tbody tr")
    expect(rows).to_have_count(9)
    # Whole, cropped, turned, in grey, in CMYK and mirrored; then in another tone, and edited.
    for name in (
        *("harbour-morning", "storm-watch", "slipway", "rope-store", "north-gallery", "fog-sig"),
        "lamp-room",
    ):
        row = rows.filter(has_text=name)
        expect(row).to_contain_text(re.compile("same|tone carried over"))
        expect(row.locator("input[name=image]")).to_be_checked()
    expect(rows.filter(has_text="lamp-room")).to_contain_text("tone carried over (darker")
    edited = rows.filter(has_text="cover-dusk")
    expect(edited).to_contain_text("edited: look")
    expect(edited.locator("input[name=image]")).not_to_be_checked()
    expect(rows.filter(has_text="no original found")).to_have_count(1)
    expect(rows.locator("input[name=image]:checked")).to_have_count(7)
    with answer_shown(page, "/improve/copy"):
        page.get_by_role("button", name="Make improved copy").click()
    made = page.get_by_role("region", name="Improved copies").locator(".made").first
    expect(made).to_have_attribute("data-state", "done")
    expect(made).to_contain_text("7 images changed")
    copy = tmp_path / "copy.pdf"
    downloaded(page, made.get_by_role("link", name="Download")).save_as(copy)
    follow(made.get_by_role("link", name="Receipt"))
    expect(page.locator("#images tbody tr")).to_have_count(10)
    # The copy's findings stand beside the first one's.
    few = page.locator(".beside tr", has_text="Too few pixels").locator("td")
    expect(few.nth(1)).to_have_text("9")
    expect(few.nth(2)).to_have_text("2")
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
    assert len(changed) == 7
    assert {row["outcome"] for row in changed} == {"same", "another-tone"}
    for row in changed:
        size = str(row["new_px_w"]), str(row["new_px_h"])
        there = next(cells for cells in found if (cells[3], cells[4]) == size)
        assert float(there[12]) == pytest.approx(row["new_ppi"], abs=1), "as poppler sees it"
        # At most 1.5 times the target; one original has not quite as many pixels.
        assert 425 < row["new_ppi"] <= 451
    # The copy is a checked PDF itself, and all but two images in it are dense enough.
    follow(made.get_by_role("link", name="Check of the copy"))
    expect(page.locator("h1")).to_have_text("quay fair programme improved.pdf")
    expect(page.locator(".ruler-head")).to_contain_text("2 below")


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
    expect(page.locator(".facts")).to_contain_text("same")
    expect(page.locator(".facts")).to_contain_text("in the mean")
    expect(page.locator(".facts")).to_contain_text("4.10 × the pixels")
    over = page.locator(".laid-over svg")
    expect(over).to_have_count(2)
    wipe = page.get_by_role("slider", name="Wipe position")
    wipe.focus()
    page.keyboard.press("Home")
    expect(over.last).to_have_css("clip-path", "inset(0px 0px 0px 0%)")
    page.keyboard.press("End")
    expect(over.last).to_have_css("clip-path", "inset(0px 0px 0px 100%)")


def test_what_was_edited_is_outlined_under_the_glass(programme):
    page = programme
    with answer_shown(page, "/improve/find"):
        page.get_by_role("button", name=LOOK).click()
    row = page.locator("#plan tbody tr", has_text="cover-dusk")
    follow(row.get_by_role("link", name="look closer"))
    expect(page.locator(".facts")).to_contain_text("edited: look")
    expect(page.get_by_role("img", name=re.compile("^Outlines of"))).to_be_visible()
    assert page.locator(".differing rect").count() >= 1
