"""Slide decks, texts and books: dropped, looked at slide by slide, reported, improved."""

import io
import json
import re
from uuid import uuid4
from zipfile import ZipFile

import pytest
from playwright.sync_api import expect
from pptx import Presentation
from pptx.util import Inches

from tests.e2e.conftest import answer_shown, follow, open_document
from tests.support.packages import picture

LONG = 180_000
FIND = re.compile("^(Find originals|Look again)$")


@pytest.fixture
def deck(tmp_path):
    """Two slides: one picture at 300 ppi, a cropped one at 100 ppi on the second."""
    made = Presentation()
    slide = made.slides.add_slide(made.slide_layouts[6])
    slide.shapes.add_picture(io.BytesIO(picture(600, 400)), 0, 0, Inches(2), Inches(4 / 3))
    slide = made.slides.add_slide(made.slide_layouts[6])
    shape = slide.shapes.add_picture(
        io.BytesIO(picture(600, 400, seed=2)), Inches(1), Inches(1), Inches(3), Inches(4)
    )
    shape.crop_left = 0.5
    path = tmp_path / "ferry plans.pptx"
    made.save(path)
    return path


def opened(page, name):
    open_document(page, name)
    return page


def test_a_deck_dropped_and_looked_at(page, deck):
    page.goto("/documents")
    page.locator("#files").set_input_files(deck)
    row = page.locator(".document-row", has_text="ferry plans.pptx")
    expect(row).to_contain_text("2 images", timeout=LONG)
    expect(row).to_contain_text("2 slides")
    follow(row)
    rows = page.locator(".document-rows tbody tr")
    expect(rows).to_have_count(2)
    # The one that falls short stands first, with what is cut off of it.
    expect(rows.first).to_contain_text("slide 2, “Picture 1”")
    expect(rows.first).to_contain_text("100")
    expect(page.get_by_text("Slide 1 of 2")).to_be_visible()
    expect(page.locator("polygon.line-full")).to_have_count(1)
    with answer_shown(page, "page=2"):
        page.get_by_role("link", name="Next slide").click()
    expect(page.get_by_text("Slide 2 of 2")).to_be_visible()
    # Its outline is what is seen of it: 3 × 4 in from the first inch.
    corners = page.locator("polygon.painted").get_attribute("points").split()
    xs = {round(float(one.split(",")[0])) for one in corners}
    ys = {round(float(one.split(",")[1])) for one in corners}
    assert xs == {72, 288} and ys == {72, 360}
    answer = page.request.get(page.locator(".document-page image").get_attribute("href"))
    assert answer.headers["content-type"] == "image/png"
    with answer_shown(page, "select="):
        page.locator(".document-rows a.name").first.click()
    expect(page.locator(".found-row")).to_contain_text("50 % of this picture is cropped off")
    # What is made of PDFs alone is not offered.
    page.get_by_role("button", name="Export").click()
    expect(page.get_by_role("link", name="Report as PDF")).to_be_visible()
    expect(page.get_by_role("link", name="Pages as images")).to_have_count(0)
    with page.expect_download() as download:
        page.get_by_role("link", name="Report as JSON").click()
    told = json.loads(download.value.path().read_text())
    assert told["document"]["format"] == "pptx"
    assert told["document"]["slides"] == 2
    assert [(one["page"], one["place"], one["ppi_min"]) for one in told["images"]] == [
        (1, "slide, “Picture 1”", 300.0),
        (2, "slide, “Picture 1”", 100.0),
    ]
    page.keyboard.press("Escape")
    page.get_by_role("button", name="Delete").click()
    expect(page.locator(".document-row", has_text="ferry plans.pptx")).to_have_count(0)


def test_a_text_has_no_pages_and_pretends_to_none(page):
    opened(page, "keepers of the light.docx")
    expect(page.get_by_text("1 section, 3 images")).to_be_visible()
    expect(page.get_by_role("link", name="Next")).to_have_count(0)
    rows = page.locator(".document-rows tbody tr")
    expect(rows.first).to_contain_text("under “What they wore”")
    with answer_shown(page, "select="):
        page.locator(".document-rows a.name", has_text="1 500 × 1 000").click()
    # The picture itself, with what is cropped off shaded.
    expect(page.locator(".image-alone image")).to_have_count(1)
    expect(page.locator(".cropped-off")).to_have_count(1)
    expect(page.locator(".image-alone")).to_contain_text("still in the file")
    answer = page.request.get(page.locator(".image-alone image").get_attribute("href"))
    assert answer.headers["content-type"] == "image/png"


def test_what_travels_along_is_told_and_accepted(page):
    opened(page, "winter talk for the trust.pptx")
    whole = page.locator(".whole-found")
    expect(whole).to_contain_text("shrunk to 220 ppi on saving")
    whole.locator("summary").click()
    expect(whole).to_contain_text("this file was shrunk on saving. Ask for the deck before that")
    expect(whole).to_contain_text("pictures.tarnholm.example/bay chart.jpg")
    expect(whole).to_contain_text("ppt/media/image7.jpg")
    page.get_by_role("button", name="Export").click()
    follow(page.get_by_role("link", name="Report every finding"))
    found = page.locator(".report-finding", has_text="shown nowhere")
    found.get_by_text("Accept as is…").click()
    found.get_by_label("Reason").fill("Taken out before it is sent on")
    found.get_by_label("Name").fill("I. Varga")
    found.get_by_role("button", name="Accept").click()
    passed = page.locator(".report-finding", has_text="Taken out before it is sent on")
    expect(passed).to_be_visible()
    with answer_shown(page, "/take-back/"):
        passed.get_by_role("button", name="Withdraw acceptance").click()
    expect(page.get_by_text("Taken out before it is sent on")).to_have_count(0)


def test_a_deck_gets_a_proven_copy(page):
    opened(page, "winter talk for the trust.pptx")
    follow(page.get_by_role("link", name="Improve"))
    with answer_shown(page, "/improve/find"):
        page.get_by_role("button", name=FIND).click()
    rows = page.locator("#plan tbody tr")
    expect(page.get_by_role("button", name="Look again")).to_be_visible(timeout=LONG)
    expect(rows).to_have_count(6)
    expect(rows.nth(1)).to_contain_text("lamp-room.jpg")
    expect(rows.nth(1)).to_contain_text("slide 2, “Lamp room”")
    page.get_by_label("cut away what is cropped off of 1 image").check()
    copies = page.get_by_role("region", name="Improved copies").locator(".made[data-state=done]")
    before = copies.count()
    with answer_shown(page, "/improve/copy"):
        page.get_by_role("button", name="Make improved copy").click()
    expect(copies).to_have_count(before + 1, timeout=LONG)
    made = copies.first
    expect(made).to_contain_text("winter talk for the trust improved.pptx")
    expect(made).to_contain_text("5 images changed")
    expect(made).to_contain_text("cropped-off parts cut away")
    with page.expect_download() as download:
        made.get_by_role("link", name="Download").click()
    copy = Presentation(download.value.path())
    shape = next(one for one in copy.slides[3].shapes if one.name == "Harbour")
    assert (shape.crop_left, shape.crop_right) == (0.0, 0.0)
    assert shape.image.size[0] > 1760 * 0.57
    follow(made.get_by_role("link", name="Receipt"))
    expect(page.get_by_text("part by part beside the first one")).to_be_visible()
    expect(page.locator("table").last).to_contain_text("slide 4, “Harbour”")


def test_the_images_of_a_book_leave_as_they_are(page):
    opened(page, "tide tables.epub")
    expect(page.get_by_text("2 sections, 2 images")).to_be_visible()
    expect(page.locator(".document-rows tbody tr").first).to_contain_text("size assumed")
    follow(page.get_by_role("link", name="Improve"))
    with answer_shown(page, "/improve/images"):
        page.get_by_role("button", name="Extract all images").click()
    made = page.get_by_role("region", name="Extract images").locator(".made")
    expect(made).to_have_attribute("data-state", "done", timeout=LONG)
    with page.expect_download() as download:
        made.get_by_role("link", name="Download").click()
    with ZipFile(download.value.path()) as file:
        assert sorted(file.namelist()) == [
            "images.csv",
            "page 1 image 01.jpg",
            "page 2 image 01.jpg",
        ]


def test_a_reviewer_reads_the_report_of_a_text(page, browser, live):
    opened(page, "keepers of the light.docx")
    page.get_by_role("button", name="Export").click()
    follow(page.get_by_role("link", name="Review links"))
    whom = f"The author, {uuid4().hex[:8]}"
    page.get_by_label("For whom").fill(whom)
    page.get_by_role("button", name="Create link").click()
    address = page.get_by_label(f"Address of the link for {whom}").input_value()
    outside = browser.new_page(base_url=live.address)
    outside.goto(address)
    expect(outside.get_by_role("heading", name="keepers of the light.docx")).to_be_visible()
    expect(outside.locator("table")).to_contain_text("under “What they wore”")
    source = outside.locator("img.thumb").first.get_attribute("src")
    assert outside.request.get(source).headers["content-type"] == "image/png"
    outside.close()
