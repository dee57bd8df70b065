"""Targets, ledger, density ruler, preflight, gate and report, driven as designers do."""

import csv
import io
import json
import re
import subprocess
import sys
from pathlib import Path

import pytest
from playwright.sync_api import expect

from tests.e2e.conftest import answer_shown, drag, follow, job_address, middle

HARNET = Path(sys.executable).with_name("harnet")
LONG = 180_000


@pytest.fixture
def handbook(page):
    return job_address(page, "visitor handbook")


@pytest.fixture
def board(page):
    return job_address(page, "Quay notice board")


def ledger_of(page, address, query=""):
    page.goto(address.replace("/pages", f"/ledger{query}"))


def rows(page):
    return page.locator("#ledger tbody tr")


def undo(page):
    with page.expect_response("**/undo"):
        page.get_by_role("button", name="Undo", exact=True).click()


class TestLedger:
    def test_filters_and_orders_stay_in_the_address(self, page, handbook):
        ledger_of(page, handbook)
        expect(rows(page)).to_have_count(24)
        page.get_by_label("Colour").select_option(label="CMYK (1)")
        expect(rows(page)).to_have_count(1)
        page.reload()
        expect(rows(page)).to_contain_text(["signal-flags.tif"])
        page.get_by_role("link", name="Show all").click()
        expect(rows(page)).to_have_count(24)
        page.get_by_label("Search by name").fill("STEPS")
        expect(rows(page)).to_have_count(1)
        page.get_by_label("Search by name").fill("")
        expect(rows(page)).to_have_count(24)
        page.get_by_role("link", name="Pixels").click()
        expect(rows(page).first).to_contain_text("crest.svg")
        page.get_by_role("link", name="Pixels ↑").click()
        expect(rows(page).first).to_contain_text(re.compile("harbour-morning|map-inset"))
        assert "sort=pixels" in page.url and "order=down" in page.url

    def test_nothing_found_says_so(self, page, handbook):
        ledger_of(page, handbook, "?text=walrus")
        expect(page.locator(".empty")).to_contain_text("No picture matches these filters")

    def test_denser_pictures_in_a_batch_with_one_undo(self, page, handbook):
        ledger_of(page, handbook)
        for name in ("north-gallery.jpg", "gull-close.png", "lamp-room.jpg"):
            page.get_by_role("checkbox", name=f"Select {name}").check()
        page.get_by_role("button", name="Find denser pictures").click()
        dialog = page.get_by_role("dialog", name="What would change")
        expect(dialog).to_contain_text("2 pictures would change")
        expect(dialog.locator("tr", has_text="gull-close.png")).to_contain_text("gull-2093.jpg")
        expect(dialog.locator(".left-list")).to_contain_text(
            "no shelf has a denser picture of this shot"
        )
        dialog.get_by_role("button", name="Swap pictures").click()
        expect(dialog).not_to_be_visible()
        expect(rows(page).filter(has_text="gull-2093.jpg")).to_have_count(1)
        expect(page.locator(".job-counts")).not_to_contain_text("coarse")
        undo(page)
        expect(rows(page).filter(has_text="gull-close.png")).to_have_count(1)
        expect(page.locator(".job-counts")).to_contain_text("1 coarse")

    def test_print_copies_are_made_and_placed_as_one_step(self, page, handbook):
        ledger_of(page, handbook, "?verdict=surplus")
        page.get_by_label("Select all").check()
        page.get_by_role("button", name="More").click()
        page.get_by_role("button", name="Make print copies").click()
        dialog = page.get_by_role("dialog", name="What would change")
        expect(dialog).to_contain_text("become")
        dialog.get_by_role("button", name="Make print copies").click()
        expect(page.locator("#batch-progress")).to_contain_text(
            "1 print copy was placed as one step", timeout=LONG
        )
        follow(page.get_by_role("link", name="Refresh the ledger"))
        expect(page.locator(".job-counts")).not_to_contain_text("surplus")
        undo(page)
        expect(page.locator(".job-counts")).to_contain_text("1 surplus")

    def test_print_view_and_csv_hold_what_is_shown(self, page, handbook):
        ledger_of(page, handbook, "?verdict=thin")
        with page.expect_download() as download:
            page.get_by_role("link", name="CSV").click()
        lines = list(csv.DictReader(io.StringIO(Path(download.value.path()).read_text())))
        assert len(lines) == 5 and {line["verdict"] for line in lines} == {"thin"}
        follow(page.get_by_role("link", name="print"))
        expect(page.locator("tbody tr")).to_have_count(5)


class TestRuler:
    def test_the_flag_tries_targets_and_writes_nothing(self, page, handbook):
        ledger_of(page, handbook)
        flag = page.locator("#flag")
        x, y = middle(flag)
        page.mouse.move(x, y - 30)
        page.mouse.down()
        page.mouse.move(x - 60, y - 30, steps=6)
        # Counts and list follow while the hand still holds the flag.
        expect(page.locator(".tried")).to_contain_text("Trying")
        expect(page.locator(".pill", has_text="thin")).not_to_contain_text("5")
        page.mouse.move(x - 90, y - 30, steps=6)
        page.mouse.up()
        expect(page).to_have_url(re.compile(r"try=\d+"))
        expect(page.locator(".job-counts")).to_contain_text("5 thin")
        page.get_by_role("link", name="Back to 300").click()
        expect(page.locator(".pill", has_text="thin")).to_contain_text("5")

    def test_a_tried_target_is_used_and_taken_back(self, page, handbook):
        ledger_of(page, handbook)
        page.get_by_label("Try another target").select_option(label="Office printer, 220 ppi")
        expect(page.locator(".tried")).to_contain_text("Office printer")
        expect(page.locator(".tried")).to_contain_text(re.compile(r"\d+ findings? instead of \d+"))
        tried = page.locator(".pills").inner_text()
        page.get_by_role("button", name="Use this target").first.click()
        expect(page.locator(".chip", has_text="Office printer · 220 ppi")).to_be_visible()
        assert page.locator(".pills").inner_text() == tried
        undo(page)
        expect(page.locator(".chip", has_text="Coated press · 300 ppi")).to_be_visible()

    def test_by_key(self, page, handbook):
        ledger_of(page, handbook)
        page.locator("#flag").focus()
        with answer_shown(page, "try=299"):
            page.keyboard.press("ArrowLeft")
        expect(page.locator(".tried")).to_contain_text("299")
        with answer_shown(page, "try=274"):
            page.keyboard.press("PageDown")

    def test_brushing_shows_only_those(self, page, handbook):
        ledger_of(page, handbook)
        box = page.locator(".ruler svg").bounding_box()
        y = box["y"] + box["height"] * 0.4
        page.mouse.move(box["x"] + 30, y)
        page.mouse.down()
        page.mouse.move(box["x"] + box["width"] * 0.4, y, steps=5)
        page.mouse.up()
        expect(rows(page)).to_have_count(3)
        expect(rows(page).first).to_contain_text("gull-close.png")
        page.locator(".ledger-filters .chip", has_text="ppi ×").click()
        expect(rows(page)).to_have_count(24)

    def test_a_dot_chooses_its_row(self, page, handbook):
        ledger_of(page, handbook)
        page.get_by_role("link", name=re.compile("^north-gallery.jpg, page 5, 212 ppi")).click()
        expect(page.locator("tr.chosen")).to_contain_text("north-gallery.jpg")
        expect(page.locator("[data-chosen-count]")).to_have_text("1 selected")


class TestPreflight:
    def test_accepting_opens_the_gate_and_taking_back_closes_it(self, page, board):
        page.goto(board.replace("/pages", "/preflight"))
        expect(page.locator(".gate")).to_contain_text("Gate held: 3 findings block")
        expect(page.locator(".finding.accepted")).to_contain_text("I. Varga")
        follow(page.locator(".finding", has_text="pasted gull.png").first)
        page.get_by_text("Give a reason…").click()
        page.get_by_label("Reason").fill("The client insists on it.")
        page.get_by_label("Your name").fill("J. Okafor")
        page.get_by_role("button", name="Accept", exact=True).click()
        expect(page.locator(".gate")).to_contain_text("Gate held: 2 findings block")
        taken = page.locator(".finding.accepted", has_text="The client insists on it.")
        expect(taken).to_contain_text("J. Okafor")
        # The name is offered the next time.
        page.get_by_text("Give a reason…").click()
        expect(page.get_by_label("Your name")).to_have_value("J. Okafor")
        taken.get_by_role("button", name="Withdraw acceptance").click()
        expect(page.locator(".gate")).to_contain_text("Gate held: 3 findings block")

    def test_fixes_on_the_spot(self, page, board):
        page.goto(board.replace("/pages", "/preflight"))
        follow(page.locator(".finding", has_text="lines of 5 do not fit"))
        page.get_by_role("button", name="Make it taller").click()
        expect(page.locator(".finding", has_text="do not fit")).to_have_count(0)
        page.get_by_role("button", name="Undo the last change").click()
        expect(page.locator(".finding", has_text="do not fit")).to_have_count(1)
        follow(page.locator(".finding", has_text="short of the bleed"))
        page.get_by_role("button", name="Extend the picture").click()
        expect(page.locator(".finding", has_text="short of the bleed")).to_have_count(0)
        page.get_by_role("button", name="Undo the last change").click()
        expect(page.locator(".finding", has_text="short of the bleed")).to_have_count(1)

    def test_everything_that_can_go_wrong_is_found(self, page, board, handbook):
        found = set()
        for address in (board, handbook):
            reply = page.request.get(address.replace("/pages", "/report/report.json")).json()
            found |= {one["rule"] for one in reply["findings"] + reply["accepted"]}
        assert found >= {
            "density-below-floor", "density-below-tolerance", "density-above-ceiling",
            "uneven-scale", "detail-below-pixels", "profile-missing", "palette-picture",
            "lossy-quality", "format-unfit", "drawn-in-pixels", "file-missing", "file-changed",
            "file-loose", "rights-unknown", "text-overflow", "bleed-not-reached", "off-page",
            "hidden-picture", "empty-frame",
        }  # fmt: skip

    def test_by_page_and_checked_again(self, page, handbook):
        page.goto(handbook.replace("/pages", "/preflight"))
        follow(page.locator(".gate-links").get_by_role("link", name="page"))
        expect(page.locator("h2.group").first).to_contain_text("Page 1")
        page.get_by_role("button", name="Check again").click()
        expect(page.locator(".gate")).to_contain_text("all up to date")

    def test_the_same_shot_is_swapped_in(self, page, handbook):
        page.goto(handbook.replace("/pages", "/preflight"))
        follow(page.get_by_role("link", name=re.compile("^Open .* match")))
        expect(page.locator(".match").first).to_contain_text("same shot")
        follow(page.locator(".match").first.get_by_role("button", name="Swap"))
        short = page.locator(".finding", has_text="61 ppi, 239 short")
        expect(page.locator(".gate")).to_contain_text("Gate held: 1 finding blocks")
        expect(short).to_have_count(0)
        page.get_by_role("button", name="Undo the last change").click()
        expect(short).to_have_count(1)

    def test_findings_follow_the_hand_on_the_page(self, page, handbook):
        page.goto(f"{handbook}?page=5")
        count = page.locator(".views b")
        before = int(count.inner_text())
        page.get_by_role("button", name="north-gallery.jpg,").click()
        expect(page.locator(".card-findings")).to_contain_text("212 ppi, 88 short of 300")
        page.get_by_role("button", name="Scale to reach").click()
        expect(count).to_have_text(str(before - 1))
        expect(page.locator(".card-findings", has_text="short of 300")).to_have_count(0)
        drag(page, middle(page.locator("[data-handle=se]")), (60, 44))
        expect(count).to_have_text(str(before))
        for _ in range(2):
            undo(page)
        expect(page.locator("#card-ppi")).to_have_text("212")


def test_the_gate_is_passed_with_a_reason_that_is_kept(page, handbook, tmp_path):
    page.goto(handbook.replace("/pages", "/output"))
    expect(page.locator("#gate")).to_contain_text("Gate held: 2 findings block the PDF")
    page.get_by_role("button", name="Export PDF anyway").click()
    expect(page.locator("#notice")).to_contain_text("give a reason and a name")
    page.get_by_label("Reason").fill("A dummy for the meeting on Friday.")
    page.get_by_label("Your name").fill("J. Okafor")
    page.get_by_role("button", name="Export PDF anyway").click()
    made = page.locator(".made[data-state=done]").first
    expect(made).to_be_visible(timeout=LONG)
    expect(made).to_contain_text("J. Okafor: A dummy for the meeting on Friday.")
    with page.expect_download() as download:
        made.get_by_role("link", name="Download").click()
    got = tmp_path / "handbook.pdf"
    download.value.save_as(got)
    follow(made.get_by_role("link", name="Receipt"))
    passed = page.locator(".note.warn", has_text="Exported despite blocking findings")
    expect(passed).to_contain_text("A dummy for the meeting on Friday.")
    # What the command finds in the PDF is what the ledger says, picture by picture.
    run = subprocess.run(
        [HARNET, "check", got, "--target", "coated", "--format", "json"],
        capture_output=True,
        text=True,
    )
    in_pdf = sorted(
        (image["page"], round(image["ppi_min"], 2), image["verdict"])
        for image in json.loads(run.stdout)["images"]
    )
    text = page.request.get(handbook.replace("/pages", "/ledger/ledger.csv")).text()
    in_ledger = sorted(
        (int(line["page"]), round(float(line["ppi_min"]), 2), line["verdict"])
        for line in csv.DictReader(io.StringIO(text))
        if line["ppi_min"] and line["file"] != "missing"
    )
    assert in_pdf == in_ledger
    # The report prints the reason; poppler reads it.
    report = tmp_path / "report.pdf"
    report.write_bytes(page.request.get(handbook.replace("/pages", "/report/report.pdf")).body())
    words = subprocess.run(
        ["pdftotext", "-layout", report, "-"], capture_output=True, text=True, check=True
    ).stdout
    assert "A dummy for the meeting on Friday." in " ".join(words.split())
    assert "61 ppi, 239 short of 300" in " ".join(words.split())
    listed = subprocess.run(
        ["pdfimages", "-list", report], capture_output=True, text=True, check=True
    ).stdout
    assert len(listed.splitlines()) > 6, "pictures of the poor spots"


class TestTargets:
    def test_a_copy_is_filled_in_by_the_calculators_and_used(self, page, handbook):
        page.goto("/targets")
        page.get_by_role("button", name="More for Large format").click()
        follow(page.get_by_role("button", name="Copy"))
        page.get_by_role("textbox", name="Name").fill("Quay wall, seen from 2 m")
        page.get_by_role("textbox", name="Seen from").fill("2000 mm")
        page.get_by_role("button", name="Fill in").nth(1).click()
        # one arc minute at 2 m: 1 / (78.74 in · tan(1/60°)) = 43.66 ppi
        expect(page.get_by_role("textbox", name="Density ppi")).to_have_value("43.659")
        page.get_by_role("textbox", name="Line screen").fill("120")
        page.get_by_role("button", name="Fill in").first.click()
        expect(page.get_by_role("textbox", name="Density ppi")).to_have_value("180")
        expect(page.get_by_role("textbox", name="Floor")).to_have_value("60")
        page.get_by_label("pictures whose licence is not stated").select_option("off")
        with page.expect_navigation():
            page.get_by_role("button", name="Save target").click()
        line = page.locator("tr", has_text="Quay wall, seen from 2 m")
        expect(line).to_contain_text("180 ppi")
        page.goto(handbook.replace("/pages", "/ledger"))
        page.get_by_role("button", name="Coated press").click()
        page.get_by_label("Quay wall, seen from 2 m").check()
        page.locator(".target-menu").get_by_role("button", name="Use this target").click()
        expect(page.locator(".chip", has_text="Quay wall, seen from 2 m")).to_be_visible()
        page.goto(handbook.replace("/pages", "/preflight"))
        expect(page.locator(".finding", has_text="no licence stated")).to_have_count(0)
        page.get_by_role("button", name="Undo the last change").click()
        expect(page.locator(".chip", has_text="Coated press · 300 ppi")).to_be_visible()

    def test_files_of_targets(self, page, tmp_path):
        page.goto("/targets")
        with page.expect_download() as download:
            page.get_by_role("link", name="Export all").click()
        file = json.loads(Path(download.value.path()).read_text())
        one = {**file["targets"][0], "key": "from-a-file", "name": "From a file"}
        path = tmp_path / "one.json"
        path.write_text(json.dumps({**file, "targets": [one]}))
        page.locator("#targets-file").set_input_files(path)
        expect(page.locator("#targets .note")).to_contain_text("1 target imported: From a file")
        path.write_text(json.dumps({**file, "targets": [{**one, "tolerance": 7}]}))
        page.locator("#targets-file").set_input_files(path)
        expect(page.locator("#notice")).to_contain_text("targets → 0 → tolerance")
        page.get_by_role("button", name="More for From a file").click()
        page.on("dialog", lambda dialog: dialog.accept())
        page.get_by_role("button", name="Delete").click()
        expect(page.locator("#targets .note")).to_contain_text("was deleted")

    def test_figures_that_make_no_sense_are_told_and_nothing_is_lost(self, page):
        page.goto("/targets/newsprint")
        page.get_by_role("textbox", name="Floor").fill("400")
        page.get_by_role("button", name="Save target").click()
        expect(page.locator("#notice")).to_contain_text("The floor is above 0 and at most")
        expect(page.get_by_role("textbox", name="Floor")).to_have_value("400")
