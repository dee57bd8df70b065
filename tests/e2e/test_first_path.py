"""From a dropped file to a verified PDF, the way a designer goes."""

import json
import re
import subprocess
import sys
from pathlib import Path

import numpy as np
import pytest
from PIL import Image
from playwright.sync_api import Page, expect

from tests.e2e.conftest import (
    answer_shown,
    drag,
    follow,
    job_address,
    measured,
    middle,
    to_place,
)
from tests.support.files import svg, tiny_png_declaring
from tests.support.pictures import photo

HARNET = Path(sys.executable).with_name("harnet")


@pytest.fixture(scope="module")
def files(tmp_path_factory):
    """Two good pictures and one of each bad one."""
    folder = tmp_path_factory.mktemp("files")
    Image.fromarray(photo(1200, 800, seed=41)).save(folder / "breakwater.jpg", dpi=(72, 72))
    Image.fromarray(photo(600, 600, seed=42)).save(folder / "bell.png")
    whole = (folder / "breakwater.jpg").read_bytes()
    (folder / "cut.jpg").write_bytes(whole[: len(whole) // 2])
    (folder / "notes.png").write_text("Ask about the tides.")
    (folder / "empty.tif").write_bytes(b"")
    (folder / "huge.png").write_bytes(tiny_png_declaring(30_000, 30_000))
    (folder / "script.svg").write_bytes(svg("<script>alert(1)</script>"))
    (folder / "fetch.svg").write_bytes(svg('<image href="http://example.org/a.png"/>'))
    return folder


def upload(page: Page, *paths: Path) -> None:
    page.goto("/pictures")
    page.locator("#files").set_input_files([str(path) for path in paths])
    expect(page.locator(".upload-sum")).to_contain_text("added", timeout=180_000)


def test_dropping_good_and_bad_files(page, files):
    upload(page, *sorted(files.iterdir()))
    expect(page.locator(".upload-sum")).to_have_text("2 added · 6 refused, none saved")
    for name, words in {
        "cut.jpg": "is incomplete",
        "notes.png": "not a picture",
        "empty.tif": "empty",
        "huge.png": "900 megapixels",
        "script.svg": "<script>",
        "fetch.svg": "another file",
    }.items():
        expect(page.locator(".upload.refused", has_text=name)).to_contain_text(words)
    expect(page.locator(".tile[data-name='breakwater.jpg']")).to_contain_text("1 200 × 800 px")
    expect(page.locator(".tile[data-name='breakwater.jpg']")).to_contain_text("101.6 × 67.7 mm")
    page.reload()
    expect(page.locator(".tile[data-name='bell.png']")).to_be_visible()
    assert page.locator(".tile[data-name='notes.png']").count() == 0
    upload(page, files / "bell.png")
    expect(page.locator(".upload-sum")).to_have_text("0 added · 1 on the shelf already")


def test_many_files_tell_how_far_all_are_and_keep_the_wall_in_sight(page, tmp_path):
    paths = []
    for number in range(24):
        path = tmp_path / f"crate {number}.png"
        Image.fromarray(photo(90, 60, seed=500 + number)).save(path)
        paths.append(path)
    (tmp_path / "crate 24.png").write_text("No picture.")
    page.goto("/pictures")
    # What the line said is kept as it changes, since each figure stands there for a moment only.
    page.evaluate(
        """() => {
            window.told = [];
            const list = document.querySelector("#uploads");
            new MutationObserver(() => window.told.push([
                list.querySelector(".upload-sum").textContent,
                list.querySelectorAll(".upload:not(.refused)").length,
                document.querySelectorAll(".tile[data-name^='crate ']").length,
            ])).observe(list, { childList: true, subtree: true });
        }"""
    )
    page.locator("#files").set_input_files([*paths, tmp_path / "crate 24.png"])
    expect(page.locator(".upload-sum")).to_have_text("24 added · 1 refused, none saved")
    told = page.evaluate("window.told")
    seen = [int(words.split(" of ")[0]) for words, _, _ in told if words.endswith(" of 25")]
    assert seen == sorted(seen) and set(range(1, 25)) <= set(seen)
    assert max(rows for _, rows, _ in told) <= 3
    # Each is on the wall as soon as it counts as done.
    for words, _, tiles in told:
        if words.endswith(" of 25"):
            assert tiles >= int(words.split(" of ")[0]) - 1
    expect(page.locator("#uploads .upload")).to_have_count(1)
    expect(page.locator("#uploads .upload")).to_contain_text("crate 24.png")


def test_facts_and_reach(page, files):
    upload(page, files / "breakwater.jpg")
    page.locator(".tile[data-name='breakwater.jpg']").click()
    facts = page.locator(".kv")
    expect(facts).to_contain_text("1 200 × 800 · 1.0 megapixels")
    expect(facts).to_contain_text("72 ppi")
    expect(facts).to_contain_text("JPEG · quality ≈ 75 · lossy")
    # arithmetic: 1 200 px at 300 ppi are 4 in, 10.2 cm
    row = (
        page.locator(".reaches tr").filter(has_not_text="Uncoated").filter(has_text="Coated press")
    )
    expect(row).to_contain_text("10.16 × 6.77 cm")
    page.get_by_role("link", name="in", exact=True).click()
    expect(row).to_contain_text("4 × 2.66 in")


def test_from_a_new_job_to_a_verified_pdf(page, files, tmp_path):
    upload(page, files / "breakwater.jpg", files / "bell.png")

    page.goto("/jobs")
    follow(page.get_by_role("link", name="New job"))
    page.get_by_label("Title").fill("Quay flyer")
    page.get_by_role("button", name="A5", exact=True).click()
    follow(page.get_by_role("button", name="Create job"))
    expect(page.locator(".job-name")).to_contain_text("148 × 210 mm · bleed 3 mm")

    # Place by dragging from the list; it comes whole, half the page wide at most.
    entry = to_place(page, "breakwater.jpg")
    entry.drag_to(page.locator("#canvas"), target_position={"x": 422, "y": 200})
    expect(page.locator(".card-title h2")).to_have_text("breakwater.jpg")
    # arithmetic: 1 200 px over 74 mm
    expect(page.locator("#card-ppi")).to_have_text("412")

    # Pull a corner: frame and picture grow together, and the figures follow the hand.
    x, y = middle(page.locator("[data-handle='se']"))
    page.mouse.move(x, y)
    page.mouse.down()
    page.mouse.move(x + 90, y + 60, steps=6)
    expect(page.locator("#card-ppi")).not_to_have_text("412")
    measured(page)
    during = page.locator("#card-ppi").inner_text()
    assert int(during) < 412
    expect(page.locator(".selected .badge-plate text")).to_have_text(f"{during} ppi")
    with answer_shown(page, "/gesture"):
        page.mouse.up()
    expect(page.locator("#card-ppi")).to_have_text(during)

    # Pull an edge: the frame crops, the density stays.
    width = page.locator("input[name=width]").input_value()
    drag(page, middle(page.locator("[data-handle='e']")), (-40, 0))
    expect(page.locator("input[name=width]")).not_to_have_value(width)
    expect(page.locator("#card-ppi")).to_have_text(during)

    # Move by the mouse, then set everything by numbers.
    left = page.locator("input[name=x]").input_value()
    drag(page, middle(page.locator(".item.selected .frame")), (-30, 45))
    expect(page.locator("input[name=x]")).not_to_have_value(left)
    for name, value in {"x": "14", "y": "2 cm", "width": "120", "height": "80"}.items():
        page.locator(f"input[name={name}]").fill(value)
    # Each field is applied as it is left; what was left too soon goes with the next.
    page.locator("input[name=height]").press("Enter")
    expect(page.locator("input[name=y]")).to_have_value("20")
    expect(page.locator("input[name=width]")).to_have_value("120")
    page.get_by_role("button", name="cover the frame").click()
    # arithmetic: 1 200 px over 120 mm, 254 ppi
    expect(page.locator("#card-ppi")).to_have_text("254")
    expect(page.locator(".tag")).to_contain_text("Thin")

    # Pan the picture inside its frame: the frame stays.
    page.get_by_role("button", name="Pan inside").click()
    matrix = page.locator(".item.selected .seen").get_attribute("transform")
    drag(page, middle(page.locator(".item.selected .frame")), (25, 10))
    expect(page.locator(".item.selected .seen")).not_to_have_attribute("transform", matrix)
    expect(page.locator("input[name=x]")).to_have_value("14")
    expect(page.locator("#card-ppi")).to_have_text("254")
    page.get_by_role("button", name="Pan inside").click()

    # A second page with the other picture, at its native size as it has no tag.
    page.get_by_role("button", name="Add page").click()
    expect(page.locator(".film .on")).to_have_text("2")
    to_place(page, "bell.png").click()
    expect(page.locator(".kv")).to_contain_text("no tag, 72 ppi assumed")
    page.get_by_role("button", name="Scale to native 72").click()
    expect(page.locator("#card-ppi")).to_have_text("72")
    expect(page.locator(".tag")).to_contain_text("Coarse")

    # Ledger: worst first; preflight leads to the placement; scaling to reach cures it.
    follow(page.get_by_role("link", name="Ledger"))
    names = page.locator("tbody .name").all_inner_texts()
    assert [name.strip() for name in names] == ["bell.png", "breakwater.jpg"]
    follow(page.get_by_role("link", name="Preflight"))
    # Each is too thin, and nobody stated a licence; the one that was panned leaves a gap.
    expect(page.locator(".finding", has_text="breakwater.jpg")).to_have_count(3)
    expect(page.locator(".finding")).to_have_count(5)
    follow(page.locator(".finding", has_text="bell.png").first)
    follow(page.get_by_role("link", name="Show it on page 2"))
    expect(page.locator(".card-title h2")).to_have_text("bell.png")
    page.get_by_role("button", name="Scale to reach").click()
    expect(page.locator("#card-ppi")).to_have_text("300")
    expect(page.locator(".job-counts")).to_contain_text("2 placed · 1 full · 1 thin")

    # Out as PDF: read back, receipt, download, and the command agrees.
    follow(page.get_by_role("link", name="Output"))
    page.get_by_role("button", name="Export PDF").click()
    expect(page.locator(".made[data-state=done]")).to_be_visible(timeout=180_000)
    expect(page.locator(".made")).to_contain_text("2 of 2 pictures as promised · 2 of 2 pages")
    with page.expect_download() as download:
        page.get_by_role("link", name="Download").click()
    got = tmp_path / "flyer.pdf"
    download.value.save_as(got)
    assert download.value.suggested_filename == "Quay flyer.pdf"
    run = subprocess.run(
        [HARNET, "check", got, "--target", "300", "--format", "json"],
        capture_output=True,
        text=True,
    )
    images = json.loads(run.stdout)["images"]
    assert [(image["page"], round(image["ppi_min"])) for image in images] == [(1, 254), (2, 300)]
    assert [image["verdict"] for image in images] == ["thin", "full"] and run.returncode == 1
    page.get_by_role("link", name="Receipt").click()
    expect(page.locator(".note")).to_contain_text("Every promise was kept")
    row = page.locator("tbody tr", has_text="breakwater.jpg")
    expect(row).to_contain_text("254.0")
    expect(row).to_contain_text("passed through unchanged")


def test_a_page_leaves_as_png_at_its_density(page, tmp_path):
    page.goto(job_address(page, "Ticket-hall screens"))
    follow(page.get_by_role("link", name="Output"))
    follow(page.get_by_role("link", name="Page images"))
    # arithmetic: 1 920 × 1 080 px at 96 leave at 300 as 6 000 × 3 375
    expect(page.locator(".note")).to_contain_text("measures 20 × 11.25 in")
    own = page.locator(".sizes-table tr", has_text="the page’s own pixels")
    expect(own).to_contain_text("1 920 × 1 080 px")
    expect(page.locator(".sizes-table tr", has_text="300 ppi")).to_contain_text("6 000 × 3 375 px")
    page.locator("select[name=format]").select_option("png")
    page.get_by_role("radio", name="150 ppi", exact=True).check()
    page.get_by_role("button", name="Export images").click()
    made = page.locator(".made[data-state=done]", has_text="page 1.png").first
    expect(made).to_be_visible(timeout=180_000)
    with page.expect_download() as download:
        made.get_by_role("link", name="Download").click()
    got = tmp_path / "page.png"
    download.value.save_as(got)
    with Image.open(got) as image:
        assert image.size == (3000, 1688)
        assert image.info["dpi"] == pytest.approx((150, 150), abs=0.02)
        assert np.asarray(image).std() > 20
    page.get_by_label("Custom density in ppi").fill("9000")
    page.get_by_role("button", name="Export images").click()
    expect(page.locator("#notice")).to_contain_text("72 to 1200 ppi")


def test_a_job_in_inches_and_one_in_pixels(page):
    for title, width, height, unit, line in [
        ("Inch card", "5", "7", "in", "5 × 7 in"),
        ("Pixel card", "1280", "720", "px", "1280 × 720 px at 96 ppi"),
    ]:
        page.goto("/jobs/new")
        page.get_by_label("Title").fill(title)
        page.locator("#page-fields select[name=unit]").select_option(unit)
        shown = page.locator(f"input[name=shown_unit][value={unit}]")
        expect(shown).to_be_attached()
        page.get_by_label("Width").fill(width)
        page.get_by_label("Height").fill(height)
        page.locator("input[name=bleed]").fill("0")
        page.get_by_role("button", name="Create job").click()
        expect(page.locator(".job-name")).to_contain_text(line)


def test_a_job_that_makes_no_sense_keeps_what_was_typed(page):
    page.goto("/jobs/new")
    page.get_by_label("Title").fill("Nonsense")
    page.get_by_label("Width").fill("wide")
    page.get_by_role("button", name="Create job").click()
    expect(page.get_by_role("alert")).to_contain_text("“wide” is not a length")
    expect(page.get_by_label("Title")).to_have_value("Nonsense")


def test_the_calculators_two_modes(page):
    # every figure: arithmetic, and stated in practice
    page.goto("/pictures?words=harbour-morning.jpg")
    follow(page.locator(".tile"))
    said = page.locator("#calculator .note")
    expect(said).to_contain_text("packed closer: at 300 ppi this picture is 43.9 × 29.3 cm large")
    page.get_by_label("Density, ppi").fill("72")
    page.get_by_label("Density, ppi").press("Tab")
    expect(page.get_by_label("Width, cm")).to_have_value("182.88")
    page.get_by_label("Change the pixels").check()
    expect(said).to_contain_text("exactly the pixels it has")
    page.get_by_label("Density, ppi").fill("300")
    page.get_by_label("Density, ppi").press("Tab")
    expect(said).to_contain_text("needs 21 600 × 14 400 px")
    expect(said).to_contain_text("94 % of them would be interpolated")
    expect(said).to_contain_text("from 51.3 MiB to 889.9 MiB")
    page.get_by_label("Width, cm").fill("10")
    page.get_by_label("Width, cm").press("Tab")
    expect(said).to_contain_text("of the pixels would be discarded")
    page.get_by_label("Keep the pixels").check()
    page.locator("#calculator").get_by_label("Unit").select_option("in")
    page.get_by_label("Height, in").fill("-4")
    page.get_by_label("Height, in").press("Tab")
    expect(page.get_by_role("alert")).to_contain_text("must be above 0")
    expect(page.locator(".ladder img")).to_have_count(8)


def test_searching_sorting_and_filtering_the_shelf(page, live, tmp_path):
    page.goto("/pictures")
    page.get_by_label("Search by name").press_sequentially("tide")
    expect(page.locator(".tile", has_text="slipway.jpg")).to_have_count(0)
    assert all("tide" in tile for tile in page.locator(".tile").all_text_contents())
    for name in ("tide-table.png", "tide-steps.jpg"):
        expect(page.locator(f".tile[data-name='{name}']")).to_be_visible()
    assert "words=tide" in page.url
    page.get_by_label("Search by name").fill("")
    page.get_by_label("Kind").select_option("vector")
    expect(page.locator(".tile", has_text="slipway.jpg")).to_have_count(0)
    expect(page.locator(".tile[data-name='crest.svg']")).to_be_visible()
    page.get_by_label("Kind").select_option("")
    page.get_by_label("Colour").select_option("cmyk")
    expect(page.locator(".tile", has_text="crest.svg")).to_have_count(0)
    expect(page.locator(".tile", has_text="signal-flags.tif")).to_be_visible()
    page.get_by_label("Colour").select_option("lab")
    expect(page.locator("#wall")).to_contain_text("No picture matches")
    page.goto("/pictures?order=pixels")
    expect(page.locator(".tile").first).to_contain_text("harbour-morning.jpg")

    Image.fromarray(photo(300, 200, seed=77)).save(live.shelf / "from-elsewhere.jpg")
    (live.shelf / "spoilt.jpg").write_text("no picture")
    page.get_by_role("button", name="Check for new files").click()
    expect(page.locator(".looked")).to_contain_text("1 new picture found")
    expect(page.locator(".looked")).to_contain_text("spoilt.jpg: its content is not a picture")
    expect(page.locator(".tile[data-name='from-elsewhere.jpg']")).to_be_visible()
    (live.shelf / "spoilt.jpg").unlink()


def test_a_file_dropped_onto_the_page_goes_up(page, files):
    page.goto("/pictures")
    data = list((files / "bell.png").read_bytes())
    drop = page.evaluate_handle(
        """(data) => {
            const transfer = new DataTransfer();
            transfer.items.add(new File([new Uint8Array(data)], "dropped.png"));
            return transfer;
        }""",
        data,
    )
    page.dispatch_event("#drop", "drop", {"dataTransfer": drop})
    expect(page.locator(".upload-sum")).to_contain_text(" ")
    expect(page.locator(".upload")).to_contain_text(re.compile(r"dropped\.png.*(added|bell\.png)"))
