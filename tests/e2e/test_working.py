"""Working in the demo job: batch scaling, undo, keys, conflicts, missing files, the look."""

import shutil

import pytest
from playwright.sync_api import Page, expect

from harnet.demo.many import lay_out_many
from harnet.standins.studio import open_studio
from harnet.studio.jobs.jobs import NewJob, make_job
from harnet.studio.pictures.picture import all_pictures
from tests.e2e.conftest import answer_shown, drag, follow, job_address, middle

HANDBOOK = "Tarnholm Light: visitor handbook"


@pytest.fixture
def handbook(page):
    return job_address(page, HANDBOOK)


def choose(page: Page, handbook: str, number: int, name: str) -> None:
    page.goto(f"{handbook}?page={number}")
    page.get_by_role("button", name=f"{name},").first.click()
    expect(page.locator(".card-title h2")).to_have_text(name)


def ppi(page: Page):
    return page.locator("#card-ppi")


def test_scaling_and_undoing_it_survives_a_reload(page, handbook):
    choose(page, handbook, 6, "lamp-room.jpg")
    expect(ppi(page)).to_have_text("236")
    page.get_by_role("button", name="Scale to reach").click()
    expect(ppi(page)).to_have_text("300")
    page.reload()
    expect(ppi(page)).to_have_text("300")
    page.keyboard.press("Control+z")
    expect(ppi(page)).to_have_text("236")
    page.keyboard.press("Control+y")
    expect(ppi(page)).to_have_text("300")
    page.get_by_role("button", name="Undo").click()
    expect(ppi(page)).to_have_text("236")


def test_what_gives_way(page, handbook):
    choose(page, handbook, 6, "lamp-room.jpg")
    width = page.locator("input[name=width]").input_value()
    page.get_by_label("frame stays, crop changes").check()
    page.get_by_role("button", name="Scale to reach").click()
    expect(ppi(page)).to_have_text("300")
    expect(page.locator("input[name=width]")).to_have_value(width)
    page.keyboard.press("Control+z")
    expect(ppi(page)).to_have_text("236")


def test_evening_out_an_uneven_picture(page, handbook):
    choose(page, handbook, 7, "keeper-1931.tif")
    expect(ppi(page)).to_have_text("171 / 148")
    page.get_by_label("Even out by").select_option("y")
    page.get_by_role("button", name="Even out").click()
    expect(ppi(page)).to_have_text("148")
    expect(page.get_by_role("button", name="Even out")).to_have_count(0)
    page.keyboard.press("Control+z")
    expect(ppi(page)).to_have_text("171 / 148")


def test_several_at_once_from_the_ledger(page, handbook):
    page.goto(handbook.replace("/pages", "/ledger?verdict=thin"))
    expect(page.locator("#ledger tbody tr")).to_have_count(5)
    for name in ("north-gallery.jpg", "tide-steps.jpg"):
        page.get_by_role("checkbox", name=f"Select {name}").check()
    expect(page.locator("[data-chosen-count]")).to_have_text("2 selected")
    page.locator(".batch").get_by_role("button", name="Scale to reach").click()
    dialog = page.get_by_role("dialog", name="What would change")
    expect(dialog).to_contain_text("2 pictures would change")
    expect(dialog.locator("tr", has_text="north-gallery.jpg")).to_contain_text("212 ppi")
    # Nothing is written until it is confirmed.
    expect(page.locator(".job-counts")).to_contain_text("5 thin")
    dialog.get_by_role("button", name="Scale to reach").click()
    expect(page.locator("#ledger tbody tr")).to_have_count(3)
    expect(page.locator(".job-counts")).to_contain_text("3 thin")
    page.get_by_role("button", name="Undo").click()
    expect(page.locator("#ledger tbody tr")).to_have_count(5)


def test_another_target_changes_every_verdict_at_once(page, handbook):
    page.goto(handbook.replace("/pages", "/ledger"))
    page.get_by_role("button", name="Coated press").click()
    page.get_by_label("Custom target in ppi").fill("200")
    page.get_by_role("button", name="Use this target").click()
    expect(page.locator(".chip", has_text="Custom figure · 200 ppi")).to_be_visible()
    expect(page.locator("tbody tr", has_text="north-gallery.jpg")).to_contain_text("+6 %")
    page.get_by_role("button", name="Undo").click()
    expect(page.locator(".chip", has_text="Coated press · 300 ppi")).to_be_visible()


def test_keys_alone(page, handbook):
    page.goto(f"{handbook}?page=4")
    page.keyboard.press(".")
    expect(page.locator(".film .on")).to_have_text("5")
    page.get_by_role("button", name="north-gallery.jpg,").focus()
    page.keyboard.press("Enter")
    expect(ppi(page)).to_have_text("212")
    before = page.locator("input[name=x]").input_value()
    for _ in range(3):
        page.keyboard.press("ArrowRight")
    expect(page.locator("input[name=x]")).not_to_have_value(before)
    page.keyboard.press("r")
    expect(ppi(page)).to_have_text("300")
    page.keyboard.press("e")
    expect(ppi(page)).to_have_text("72")
    for expected in ("300", "212", "212"):
        # What is undone is answered with the view, asked for anew.
        with answer_shown(page, "/pages"):
            page.keyboard.press("Control+z")
        expect(ppi(page)).to_have_text(expected)
    expect(page.locator("input[name=x]")).to_have_value(before)
    page.keyboard.press("Escape")
    expect(page.locator(".card-side h2")).to_have_text("Place a picture")


def test_two_windows_get_a_clear_conflict(page, handbook, context):
    choose(page, handbook, 5, "north-gallery.jpg")
    other = context.new_page()
    other.goto(page.url)
    other.get_by_role("button", name="Scale to reach").click()
    expect(ppi(other)).to_have_text("300")
    page.get_by_role("button", name="Scale to native").click()
    expect(page.locator("#notice")).to_contain_text("changed in another window")
    expect(ppi(page)).to_have_text("212")
    page.reload()
    expect(ppi(page)).to_have_text("300")
    page.keyboard.press("Control+z")
    expect(ppi(page)).to_have_text("212")


def test_taking_a_picture_off_and_a_page_away_can_be_undone(page, handbook):
    choose(page, handbook, 11, "map-inset.png")
    page.keyboard.press("Delete")
    expect(page.get_by_role("button", name="map-inset.png,")).to_have_count(0)
    expect(page.locator(".job-counts")).to_contain_text("23 placed")
    page.get_by_role("button", name="Remove", exact=True).click()
    expect(page.locator(".film [data-film]")).to_have_count(11)
    page.keyboard.press("Control+z")
    expect(page.locator(".film [data-film]")).to_have_count(12)
    page.keyboard.press("Control+z")
    expect(page.locator(".job-counts")).to_contain_text("24 placed")


def test_moving_text_and_rectangles(page, handbook):
    page.goto(f"{handbook}?page=9")
    drag(page, middle(page.locator(".sheet[data-page='9'] .item.text")), (12, -20))
    expect(page.locator(".card-side h2")).to_have_text("Text frame")
    expect(page.locator("input[name=x]")).not_to_have_value("14")
    page.keyboard.press("Control+z")
    expect(page.locator("input[name=x]")).to_have_value("14")


def test_a_missing_file_is_found_shown_and_mended(page, handbook, live):
    page.goto(handbook.replace("/pages", "/preflight"))
    follow(page.locator(".finding", has_text="missing from its shelf"))
    expect(page.locator(".finding-side")).to_contain_text("no longer where it was linked")
    follow(page.get_by_role("link", name="Show it on page 3"))
    page.get_by_label("Picture to relink to").select_option(label="storm-watch.jpg")
    page.get_by_role("button", name="Relink").click()
    expect(page.locator(".card-title h2")).to_have_text("storm-watch.jpg")
    page.keyboard.press("Control+z")
    expect(page.locator(".card-title h2")).to_have_text("tide-table.png")
    away = live.settings.data_folder / "moved away" / "tide-table.png"
    shutil.copy2(away, live.shelf / "tide-table.png")
    page.reload()
    expect(page.locator(".kv")).to_contain_text("in place")
    (live.shelf / "tide-table.png").unlink()


def test_findings_by_key_and_a_fix_in_place(page, handbook):
    page.goto(handbook.replace("/pages", "/preflight"))
    expect(page.locator(".finding.on")).to_contain_text("gull-close.png")
    for key, name in [("n", "tower-postcard.gif"), ("n", "keeper-1931.tif")]:
        with page.expect_navigation():
            page.keyboard.press(key)
        expect(page.locator(".finding.on")).to_contain_text(name)
    for _ in range(2):
        with page.expect_navigation():
            page.keyboard.press("p")
    short = page.locator(".finding", has_text="gull-close.png").filter(has_text="short of 300")
    page.get_by_role("button", name="11.7 × 8.5 mm").click()
    expect(short).to_have_count(0)
    page.get_by_role("button", name="Undo the last change").click()
    expect(short).to_have_count(1)


VIEWS = [
    "pages?page=1",
    "pages?page=8",
    "ledger",
    "preflight",
    "output",
    "output?kind=image&page=2",
    "report",
]


@pytest.mark.parametrize("view", VIEWS)
@pytest.mark.parametrize("width, height", [(1280, 800), (1920, 1080), (960, 600)])
def test_no_view_scrolls_sideways(page, handbook, view, width, height):
    page.set_viewport_size({"width": width, "height": height})
    page.goto(handbook.replace("pages", view))
    page.wait_for_load_state("networkidle")
    wide = page.evaluate("document.documentElement.scrollWidth - innerWidth")
    assert wide <= 0
    broken = page.evaluate(
        "[...document.images].filter((i) => i.complete && !i.naturalWidth).map((i) => i.src)"
    )
    assert broken == []


def test_the_demo_holds_one_of_everything(page, handbook):
    page.goto(handbook.replace("/pages", "/ledger"))
    expect(page.locator(".job-name")).to_contain_text("12 pages")
    rows = page.locator("tbody tr")
    assert rows.count() >= 20
    marks = {
        mark.split()[-1]
        for mark in page.locator("tbody tr > td:nth-child(2) .grain").evaluate_all(
            "(marks) => marks.map((mark) => mark.getAttribute('class'))"
        )
    }
    assert marks == {"coarse", "thin", "near", "full", "surplus", "line"}
    for words in ("uneven", "CMYK", "1-bit", "grey", "palette", "missing"):
        assert rows.filter(has_text=words).count() >= 1, words
    page.goto("/pictures")
    page.locator(".tile[data-name='keeper-1931.tif']").click()
    expect(page.locator(".kv")).to_contain_text("grey · 16-bit")


@pytest.fixture(scope="module")
def long_job(live):
    """A job of 1 040 placements; its address."""
    studio = open_studio(live.settings)
    with studio.session() as session:
        new = NewJob.measured("Tide tables, all years", 210, 297, pages=40)
        job_id = make_job(session, new).id
        [picture] = [one for one in all_pictures(session) if one.file_name == "lamp-room.jpg"]
        lay_out_many(session, job_id, [picture], 26)
    studio.engine.dispose()
    return f"/jobs/{job_id}/ledger"


def test_more_placements_than_a_request_should_change(page, long_job):
    page.goto(long_job)
    before = page.locator(".job-counts .sub").inner_text()
    page.get_by_role("checkbox", name="Select all").check()
    page.get_by_role("button", name="select all 1 040").click()
    expect(page.locator("[data-chosen-count]")).to_have_text("1 040 selected")
    page.locator(".batch").get_by_role("button", name="Scale to reach").click()
    dialog = page.get_by_role("dialog", name="What would change")
    expect(dialog).to_contain_text("pictures would change")
    with page.expect_navigation(url="**/batches/*"):
        dialog.get_by_role("button", name="Scale to reach").click()
    expect(page.locator(".note[role=status]")).to_contain_text("changed. One undo reverts it.")
    expect(page.locator(".job-counts")).to_contain_text("1 040 full")
    with page.expect_navigation(url="**/batches/*"):
        page.get_by_role("button", name="Undo").click()
    expect(page.locator(".note[role=status]")).to_have_text("Undone.")
    expect(page.locator(".job-counts .sub")).to_have_text(before)
