"""Check a PDF: dropped, read by the worker, looked at page by page, judged by another target."""

import json
import re

import pypdf
import pytest
from PIL import Image
from playwright.sync_api import expect
from reportlab.lib.utils import ImageReader
from reportlab.pdfgen.canvas import Canvas

from tests.e2e.conftest import follow, job_address, middle, open_document
from tests.support.pictures import photo

LONG = 180_000


@pytest.fixture
def leaflet(tmp_path):
    path = tmp_path / "ferry times.pdf"
    canvas = Canvas(str(path), pagesize=(400, 300))
    for seed, ppi in ((1, 300), (2, 150)):
        width = 300 / ppi * 72
        canvas.drawImage(
            ImageReader(Image.fromarray(photo(300, 200, seed=seed))), 20, 20, width, width * 2 / 3
        )
        canvas.showPage()
    canvas.save()
    return path


def test_dropped_read_and_judged(page, leaflet, tmp_path):
    no_pdf = tmp_path / "timetable.txt"
    no_pdf.write_text("every hour")
    page.goto("/jobs")
    follow(page.get_by_role("link", name="Check a document"))
    page.locator("#files").set_input_files([leaflet, no_pdf])
    uploads = page.locator("#uploads")
    expect(uploads).to_contain_text("timetable.txt: its content is not a document", timeout=LONG)
    row = page.locator(".document-row", has_text="ferry times.pdf")
    expect(row).to_contain_text("2 images", timeout=LONG)
    row.click()
    list_of_pictures = page.locator(".document-rows")
    expect(list_of_pictures.locator("tbody tr")).to_have_count(2)
    # The one that falls short stands first.
    expect(list_of_pictures.locator("tbody tr").first).to_contain_text("150")
    expect(page.locator("polygon.line-full")).to_have_count(1)
    page.get_by_role("link", name="Next page").click()
    expect(page.locator("polygon.line-thin")).to_have_count(1)
    picture = page.locator(".document-page image")
    answer = page.request.get(picture.get_attribute("href"))
    assert answer.headers["content-type"] == "image/png"
    # What if it went to a newspaper? Nothing is kept until it is said.
    page.get_by_label("Target", exact=True).select_option("newsprint")
    expect(page.locator("polygon.line-full")).to_have_count(1)
    page.get_by_role("button", name="Use this target").click()
    expect(page.get_by_label("Target", exact=True)).to_have_value("newsprint")
    expect(page.get_by_role("button", name="Use this target")).to_have_count(0)
    page.get_by_role("button", name="Delete").click()
    expect(page.locator(".document-row", has_text="ferry times.pdf")).to_have_count(0)


def test_a_cut_picture_is_one_and_says_its_pieces(page):
    open_document(page, "harbour festival leaflet.pdf")
    whole = page.locator(".whole-found")
    expect(whole).to_contain_text("2 fonts are not embedded · no bleed on page 1 · 1 accepted")
    expect(whole).to_contain_text("No trim box, accepted by I. Varga")
    whole.locator("summary").click()
    expect(whole.get_by_text("Export the PDF again with bleed.")).to_be_visible()
    page.locator(".document-rows .name", has_text="1 500 × 1 000").click()
    expect(page.locator(".document-rows")).to_contain_text("split into 8 pieces")
    expect(page.locator(".document-rows")).to_contain_text("Its pieces: 1 500 × 125")
    expect(page.locator("polygon.on")).to_have_count(1)
    dot = page.locator(".ruler circle.on")
    expect(dot).to_have_count(1)


def test_the_flag_is_dragged_and_the_dots_are_brushed(page):
    open_document(page, "harbour festival leaflet.pdf")
    ruler, thin = (
        page.locator(".ruler.of-document"),
        page.locator(".document-filters .chip", has_text="thin"),
    )
    expect(thin).to_have_text(re.compile("2 thin"))
    start = middle(page.locator("#flag rect").nth(1))
    page.mouse.move(*start)
    page.mouse.down()
    page.mouse.move(start[0] + 100, start[1], steps=6)
    # Counts and list follow while the button is still down; nothing is kept.
    expect(ruler).to_contain_text("Trying")
    expect(thin).to_have_text(re.compile("4 thin"))
    page.mouse.up()
    expect(page).to_have_url(re.compile("try="))
    page.get_by_role("link", name="Back to 300").click()
    expect(thin).to_have_text(re.compile("2 thin"))
    box = ruler.locator("svg").bounding_box()
    y = box["y"] + box["height"] * 0.4
    page.mouse.move(box["x"] + box["width"] * 0.3, y)
    page.mouse.down()
    page.mouse.move(box["x"] + box["width"] * 0.5, y, steps=6)
    page.mouse.up()
    expect(page.locator(".document-rows tbody tr")).to_have_count(2)
    page.get_by_role("link", name="Show all").click()
    expect(page.locator(".document-rows tbody tr")).to_have_count(8)


def test_sorted_filtered_by_page_and_turned_by_keys(page):
    open_document(page, "harbour festival leaflet.pdf")
    names, steps = page.locator(".document-rows .name"), page.locator(".page-steps")
    expect(names.first).to_have_text("420 × 280")
    page.get_by_role("link", name="Pixels").click()
    expect(names.first).to_have_text("300 × 200")
    page.get_by_role("link", name="Pixels").click()
    expect(names.first).to_have_text("2 088 × 2 916")
    page.get_by_role("link", name="this page only").click()
    expect(names).to_have_count(3)
    page.keyboard.press(".")
    expect(steps).to_contain_text("Page 2 of 3")
    expect(names.first).to_have_text("1 450 × 1 054")
    page.keyboard.press(",")
    expect(steps).to_contain_text("Page 1 of 3")


def test_a_picture_alone_and_the_report_with_every_finding(page, tmp_path):
    open_document(page, "harbour festival leaflet.pdf")
    page.locator(".document-rows .name", has_text="420 × 280").click()
    expect(page.locator(".found-row")).to_contain_text("216 ppi at 49.4 × 32.9 mm")
    follow(page.get_by_role("link", name="Open this image alone"))
    picture = page.locator(".alone img")
    assert picture.evaluate("one => [one.naturalWidth, one.naturalHeight]") == [420, 280]
    follow(page.get_by_role("link", name="harbour festival leaflet.pdf"))
    page.get_by_role("button", name="Export").click()
    follow(page.get_by_role("link", name="Report every finding"))
    expect(page.locator(".report-finding")).to_have_count(5)
    expect(page.locator(".report-finding svg image")).to_have_count(2)
    with page.expect_download() as download:
        page.get_by_role("link", name="PDF", exact=True).click()
    download.value.save_as(tmp_path / "report.pdf")
    text = " ".join(one.extract_text() for one in pypdf.PdfReader(tmp_path / "report.pdf").pages)
    assert "2 fonts are not embedded" in text and "84 short of 300" in text


def test_a_finding_is_accepted_with_a_reason_and_taken_back(page):
    open_document(page, "harbour festival leaflet.pdf")
    page.get_by_role("button", name="Export").click()
    follow(page.get_by_role("link", name="Report every finding"))
    fonts = page.locator(".report-finding", has_text="fonts are not embedded")
    fonts.get_by_text("Accept as is…").click()
    fonts.get_by_label("Reason").fill("The print house has both")
    fonts.get_by_label("Your name").fill("Edda Voss")
    fonts.get_by_label("Your name").press("Enter")
    expect(fonts.get_by_role("button", name="Withdraw acceptance")).to_be_visible()
    expect(fonts).to_contain_text("The print house has both")
    # One was accepted before.
    expect(page.get_by_role("button", name="Withdraw acceptance")).to_have_count(2)
    page.reload()
    expect(fonts).to_contain_text("Edda Voss")
    fonts.get_by_role("button", name="Withdraw acceptance").click()
    expect(page.get_by_role("button", name="Withdraw acceptance")).to_have_count(1)
    expect(fonts.get_by_text("Accept as is…")).to_be_visible()


def test_a_review_link_shows_findings_and_nothing_to_change(page, browser, live):
    page.goto(job_address(page, "Tarnholm Light: visitor handbook").replace("/pages", "/report"))
    follow(page.get_by_role("link", name="Review links"))
    page.get_by_label("For whom").fill("Print house")
    page.get_by_role("button", name="Create link").click()
    address = page.get_by_label("Address of the link for Print house").input_value()
    outside = browser.new_page(base_url=live.address)
    outside.goto(address)
    expect(outside.get_by_text("For Print house, read-only until")).to_be_visible()
    expect(outside.get_by_text("gull-close.png").first).to_be_visible()
    assert outside.locator("button, form, input, nav a").count() == 0
    page.get_by_role("button", name="Revoke").click()
    expect(page.locator("[data-open=no]")).to_contain_text("revoked")
    assert outside.goto(address).status == 404
    outside.close()


def test_a_pdf_leaves_with_notes_and_as_data(page, tmp_path):
    open_document(page, "harbour festival leaflet.pdf")
    page.get_by_role("button", name="Export").click()
    with page.expect_download() as download:
        page.get_by_role("link", name="Copy with notes").click()
    download.value.save_as(tmp_path / "noted.pdf")
    notes = [len(one.get("/Annots", [])) for one in pypdf.PdfReader(tmp_path / "noted.pdf").pages]
    assert sum(notes) > 0
    page.reload()
    page.get_by_role("button", name="Export").click()
    with page.expect_download() as download:
        page.get_by_role("link", name="Report as JSON").click()
    download.value.save_as(tmp_path / "report.json")
    report = json.loads((tmp_path / "report.json").read_text())
    assert report["summary"]["thin"] == sum(notes)


def test_dropped_on_the_first_screen(page, leaflet):
    page.goto("/jobs")
    page.locator("#files").set_input_files(leaflet)
    follow(page.get_by_role("link", name="is being read; see it"))
    expect(page.get_by_role("heading", name="ferry times.pdf")).to_be_visible()
    expect(page.locator(".document-rows tbody tr")).to_have_count(2, timeout=LONG)
    page.get_by_role("button", name="Delete").click()
    expect(page.get_by_role("heading", name="Check a document")).to_be_visible()


def test_a_program_gets_a_token_and_loses_it(page, leaflet):
    page.goto("/jobs")
    page.get_by_role("button", name="Studio").click()
    follow(page.get_by_role("link", name="API tokens"))
    page.get_by_label("Program").fill("nightly check")
    page.get_by_role("button", name="Create token").click()
    token = page.get_by_label("Token for nightly check", exact=True).input_value()
    headers = {"Authorization": f"Bearer {token}"}
    file = {"name": "by program.pdf", "mimeType": "application/pdf"}
    file["buffer"] = leaflet.read_bytes()
    form = {"file": file, "ppi": "300"}
    asked = page.request.post("/api/v1/checks", headers=headers, multipart=form)
    assert asked.status == 202
    # What the program handed in is seen by people.
    page.goto("/documents")
    row = page.locator(".document-row", has_text="by program.pdf")
    expect(row).to_contain_text("2 images", timeout=90_000)
    address = f"/api/v1/checks/{asked.json()['id']}"
    found = page.request.get(address, headers=headers).json()
    assert (found["state"], found["verdicts"]["thin"], found["verdicts"]["full"]) == ("done", 1, 1)
    assert page.request.delete(address, headers=headers).status == 204
    page.goto("/tokens")
    assert token not in page.content()
    page.get_by_role("button", name="Revoke the token of nightly check").click()
    expect(page.locator("[data-open=no]")).to_contain_text("revoked")
    assert page.request.get("/api/v1/jobs", headers=headers).status == 401
