"""Handing over: presets, the print house, two outputs compared, packs, and rows to pages."""

import json
import subprocess
import zipfile

import pytest
from PIL import Image
from playwright.sync_api import expect

from tests.e2e.conftest import answer_shown, follow, job_address, text_form, text_of
from tests.e2e.test_output import LONG, finished, got
from tests.support.pictures import photo

CSV = "name,picture\nStorm watch,storm-watch.jpg\nFog,fog-signal.jpg\nLost,not-there.jpg\n"


@pytest.fixture
def output_view(page, own_job):
    """The output of a job that no other test looks at; its gate is open."""
    page.goto(f"{own_job}/output")
    return page


@pytest.fixture
def own_job(page, tmp_path):
    """A job of three pages, opened from a pack written by hand; its address."""
    path = tmp_path / "three cards.zip"
    frame = {"x_pt": 10, "y_pt": 10, "width_pt": 270, "height_pt": 180}
    names = [f"swell-{seed}.jpg" for seed in (71, 72, 73)]
    job = {
        "format": "harnet job",
        "version": 1,
        "title": f"Three cards {tmp_path.name}",
        "width_pt": 290,
        "height_pt": 200,
        "pictures": [{"name": name, "file": f"pictures/{name}"} for name in names],
        "pages": [{"items": [{"kind": "picture", "picture": name, **frame}]} for name in names],
    }
    with zipfile.ZipFile(path, "w") as pack:
        pack.writestr("job.json", json.dumps(job))
        for seed, name in zip((71, 72, 73), names, strict=True):
            Image.fromarray(photo(1800, 1200, seed=seed)).save(tmp_path / name, quality=90)
            pack.write(tmp_path / name, f"pictures/{name}")
    page.goto("/jobs")
    page.locator("[name=pack]").set_input_files(path)
    page.wait_for_url("**/pages", timeout=LONG)
    return page.url.removesuffix("/pages")


def chosen(page, label, value):
    """Chooses in the form and waits for what follows from it."""
    with answer_shown(page, "/output?"):
        page.get_by_label(label).select_option(value)


def made_pdf(page, words):
    """The PDF that is asked for now, once it is done; there may be others of the same settings."""
    done = page.locator(".made[data-state=done]")
    before = done.count()
    page.get_by_role("button", name="Export PDF").click()
    expect(done).to_have_count(before + 1, timeout=LONG)
    return finished(page, words)


def test_what_is_predicted_is_what_it_weighs(output_view, tmp_path):
    page = output_view
    page.get_by_text("Keep every pixel").click()
    predicted = page.locator("#predicted")
    expect(predicted).to_contain_text("measured on 3 pictures", timeout=LONG)
    figure, unit = predicted.locator("b").inner_text().split()
    bytes_said = float(figure) * {"kB": 1e3, "MB": 1e6}[unit]
    size = got(page, made_pdf(page, "every pixel kept"), tmp_path / "kept.pdf").stat().st_size
    assert bytes_said == pytest.approx(size, rel=0.15)


def test_for_a_print_house_by_a_preset_until_it_accepts(output_view, tmp_path):
    page = output_view
    page.get_by_text("Keep every pixel").click()
    plain = made_pdf(page, "every pixel kept")
    plain.get_by_text("Send to a print house").click()
    plain.get_by_role("button", name="Skerry Press").click()
    answer = plain.locator("[data-answer=refused]")
    expect(answer).to_contain_text("refused", timeout=LONG)
    answer.get_by_text("Why?").click()
    expect(answer).to_contain_text("does not say that it is PDF/X-4")
    # The settings that it wants, kept under a name.
    chosen(page, "Standard", "pdf-x-4")
    chosen(page, "Colours", "intent")
    page.get_by_label("crop marks").check()
    page.get_by_text("Save these settings as a preset").click()
    page.get_by_label("Name of the preset").fill("Skerry")
    follow(page.get_by_role("button", name="Save", exact=True))
    expect(page.get_by_label("Preset", exact=True)).to_have_value("1")
    expect(page.get_by_label("Standard")).to_have_value("pdf-x-4")
    path = got(page, made_pdf(page, "PDF/X-4, converted to the output intent"), tmp_path / "x4.pdf")
    assert path.read_bytes().startswith(b"%PDF-1.6")
    boxes = subprocess.run(["pdfinfo", "-box", path], capture_output=True, text=True, check=True)
    assert "MediaBox:" in boxes.stdout
    page.get_by_role("link", name="Receipt").first.click()
    expect(page.locator("tr", has_text="standard").last).to_contain_text("PDF/X-4")
    expect(page.locator("tr", has_text="output intent").last).to_contain_text("Generic CMYK")
    # On another job the preset is there, out and in again as a file.
    page.goto(job_address(page, "Shop catalogue").replace("/pages", "/output"))
    with page.expect_navigation():
        page.get_by_label("Preset", exact=True).select_option(label="Skerry")
    expect(page.get_by_label("crop marks")).to_be_checked()
    page.get_by_text("Presets", exact=True).click()
    with page.expect_download() as download:
        page.get_by_role("link", name="Export as JSON").click()
    download.value.save_as(tmp_path / "presets.json")
    with page.expect_navigation():
        page.get_by_role("button", name="Delete the preset Skerry").click()
    expect(page.get_by_label("Preset", exact=True)).to_have_count(0)
    page.get_by_text("Save these settings as a preset").click()
    page.locator("[name=presets_file]").set_input_files(tmp_path / "presets.json")
    expect(page.get_by_role("status").filter(has_text="Imported: Skerry.")).to_be_visible()


def test_two_outputs_page_by_page_with_a_wipe(output_view):
    page = output_view
    page.get_by_text("Keep every pixel").click()
    made_pdf(page, "every pixel kept")
    page.get_by_text("Light to send").click()
    made_pdf(page, "light")
    follow(page.get_by_role("link", name="Compare two"))
    figures = page.locator(".two-outputs figure")
    expect(figures).to_have_count(2)
    expect(figures.nth(1)).to_contain_text("% of the other")
    for index in range(2):
        image = figures.nth(index).locator("img")
        expect(image).to_have_js_property("complete", True, timeout=LONG)
        assert image.evaluate("image => image.naturalWidth") == 2400
    page.get_by_role("button", name="wipe").click()
    wipe = page.get_by_label("Wipe position")
    wipe.fill("250")
    clip = figures.nth(1).evaluate("figure => getComputedStyle(figure).clipPath")
    assert clip == "inset(0px 0px 0px 25%)"
    follow(page.get_by_role("link", name="Page 2", exact=True))
    expect(page.locator(".page-steps b")).to_have_text("Page 2")


def test_a_pack_written_by_hand_is_a_job_and_leaves_as_a_pack_again(page, tmp_path):
    placed = {"x_pt": 30, "y_pt": 30, "width_pt": 72, "height_pt": 48}
    job = {
        "format": "harnet job",
        "version": 1,
        "title": "Harbour card",
        "width_pt": 300,
        "height_pt": 200,
        "pictures": [{"name": "swell.png", "file": "pictures/swell.png"}],
        "pages": [{"items": [{"kind": "picture", "picture": "swell.png", **placed}]}],
    }
    Image.fromarray(photo(300, 200, seed=77)).save(tmp_path / "swell.png")
    path = tmp_path / "by hand.zip"
    with zipfile.ZipFile(path, "w") as pack:
        pack.writestr("job.json", json.dumps(job))
        pack.write(tmp_path / "swell.png", "pictures/swell.png")
    page.goto("/jobs")
    page.locator("[name=pack]").set_input_files(path)
    page.wait_for_url("**/pages", timeout=LONG)
    # 300 pixels on an inch.
    expect(page.get_by_text("1 placed · 1 full")).to_be_visible()
    follow(page.get_by_role("link", name="Output"))
    follow(page.get_by_role("link", name="Handoff pack"))
    page.get_by_role("button", name="Export pack").click()
    made = finished(page, "pack with the PDF")
    expect(made).to_contain_text("1 picture in the pack")
    with zipfile.ZipFile(got(page, made, tmp_path / "again.zip")) as pack:
        assert {"report.pdf", "credits.csv", "Harbour card.pdf"} <= set(pack.namelist())
        [item] = json.loads(pack.read("job.json"))["pages"][0]["items"]
        assert {name: item[name] for name in placed} == placed
        assert pack.read("pictures/swell.png") == (tmp_path / "swell.png").read_bytes()


def test_what_is_no_pack_is_told(page, tmp_path):
    path = tmp_path / "holiday.zip"
    with zipfile.ZipFile(path, "w") as pack:
        pack.writestr("beach.txt", "sand")
    page.goto("/jobs")
    page.locator("[name=pack]").set_input_files(path)
    expect(page.get_by_text("holiday.zip: it contains no job.json.")).to_be_visible()


def test_rows_become_pages_and_one_undo_takes_them_back(page, tmp_path):
    table = tmp_path / "things.csv"
    table.write_text(CSV)
    page.goto("/jobs/new")
    page.get_by_label("Title").fill("Price cards")
    page.get_by_role("button", name="Create job").click()
    page.wait_for_url("**/pages")
    # The pattern: a frame and a text that names a column.
    for kind, box in (
        ("Picture frame", (0.2, 0.2, 0.6, 0.4)),
        ("Text", (0.2, 0.6, 0.6, 0.7)),
    ):
        page.get_by_role("button", name="Add", exact=True).click()
        page.get_by_role("button", name=kind, exact=True).click()
        sheet = page.locator("#canvas").bounding_box()
        with answer_shown(page, "/draw"):
            page.mouse.move(
                sheet["x"] + box[0] * sheet["width"], sheet["y"] + box[1] * sheet["height"]
            )
            page.mouse.down()
            page.mouse.move(
                sheet["x"] + box[2] * sheet["width"], sheet["y"] + box[3] * sheet["height"]
            )
            page.mouse.up()
    words = text_of(page)
    words.fill("{name}")
    with answer_shown(page, "/style"):
        text_form(page).get_by_role("button", name="Apply").click()
    follow(page.get_by_role("link", name="From rows"))
    page.locator("#rows-file").set_input_files(table)
    rows = page.locator("#rows")
    expect(rows).to_contain_text("3 records, 2 columns")
    expect(rows).to_contain_text("1 picture is not on any shelf: not-there.jpg")
    expect(rows.get_by_label("frame 1, empty")).to_have_value("picture")
    page.get_by_role("button", name="Make 3 pages").click()
    page.wait_for_url("**/pages?page=1")
    expect(page.get_by_text("2 placed")).to_be_visible()
    expect(page.locator("#canvas")).to_contain_text("Storm watch")
    follow(page.get_by_role("link", name="Preflight"))
    finding = page.get_by_text("not found on any shelf")
    expect(finding.first).to_be_visible()
    page.go_back()
    with page.expect_response("**/undo"):
        page.get_by_role("button", name="Undo").click()
    expect(page.locator("#canvas")).to_contain_text("{name}")


def test_a_table_that_is_none_is_told(page, tmp_path):
    table = tmp_path / "things.csv"
    table.write_text("name,picture\nLamp\n")
    page.goto(job_address(page, "Shop catalogue").replace("/pages", "/rows"))
    page.locator("#rows-file").set_input_files(table)
    expect(page.locator("#notice")).to_contain_text("Row 2 has 1 cells where the first row names 2")
