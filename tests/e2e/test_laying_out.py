"""The Pages view under a real pointer: zoom, several at once, turning, snapping, drawing, links."""

import re
import shutil

import pytest
from PIL import Image
from playwright.sync_api import expect

from tests.e2e.conftest import (
    answer_shown,
    drag,
    field,
    follow,
    job_address,
    measured,
    middle,
    paste_picture,
    place,
    serious_faults,
    text_form,
    text_of,
    to_place,
)
from tests.support.pictures import photo

LONG = 180_000


@pytest.fixture
def sheet(page):
    """A new A4 job of two pages on the Pages view; its address."""
    page.goto("/jobs/new")
    page.get_by_label("Title").fill("Laying out")
    page.get_by_role("button", name="A4", exact=True).click()
    page.get_by_label("Pages", exact=True).fill("2")
    follow(page.get_by_role("button", name="Create job"))
    return page.url.split("?")[0]


def done(page):
    page.wait_for_function("!document.activeElement.closest('.figures input')")
    page.keyboard.press("Escape")
    expect(page.locator(".card-side h2").first).to_have_text("Place a picture")


def set_field(page, name, text):
    field(page, name).fill(text)
    with answer_shown(page, "/figures"):
        field(page, name).press("Enter")


def rubber_band(page, start, end):
    page.mouse.move(*start)
    page.mouse.down()
    page.mouse.move(*end, steps=6)
    with answer_shown(page, "/pages?"):
        page.mouse.up()


def test_zooming_keeps_signs_their_size(page, sheet):
    place(page, "fog-signal.jpg")
    label = page.locator("#zoom-label")
    expect(label).to_contain_text("Fit page")
    badge = page.locator(".badge-plate .plate").first
    before = badge.bounding_box()["height"]
    page.mouse.move(*middle(page.locator(".item.selected .outline").first))
    page.keyboard.down("Control")
    page.mouse.wheel(0, -300)
    page.keyboard.up("Control")
    expect(label).not_to_contain_text("Fit page")
    assert badge.bounding_box()["height"] == pytest.approx(before, abs=0.6)
    zoomed = label.inner_text()
    with answer_shown(page, "/stack"):
        page.get_by_role("button", name="Move to front").click()
    assert page.locator("#zoom-label").inner_text() == zoomed, "an edit keeps the view"
    label.click()
    page.get_by_role("button", name="Fit selection").click()
    outline = page.locator(".item.selected polygon.outline").bounding_box()
    assert outline["width"] > 500 or outline["height"] > 400
    label.click()
    page.get_by_role("button", name="200 %").click()
    # 100 % is a CSS pixel for 1/96 inch: an A4 page at 200 % is 1 587 px wide
    expect(page.locator("#zoom-label")).to_have_text("200 %")
    assert page.locator(".trim").bounding_box()["width"] == pytest.approx(1587, abs=3)


def test_several_are_chosen_moved_copied_and_taken_off(page, sheet):
    place(page, "gull-close.png")
    set_field(page, "x", "20")
    set_field(page, "y", "30")
    done(page)
    place(page, "tower-postcard.gif")
    set_field(page, "x", "20")
    set_field(page, "y", "130")
    done(page)
    trim = page.locator(".trim").bounding_box()
    rubber_band(
        page,
        (trim["x"] + 4, trim["y"] + 4),
        (trim["x"] + trim["width"] - 4, trim["y"] + trim["height"] - 4),
    )
    expect(page.locator(".card-side h2")).to_have_text("2 selected")
    drag(page, middle(page.locator(".item.selected").first), (40, 30))
    expect(page.locator(".card-side h2")).to_have_text("2 selected")
    page.keyboard.press("Control+c")
    page.locator("[data-film='2']").click()
    expect(page.locator(".film .on")).to_have_text("2")
    page.evaluate("document.dispatchEvent(new ClipboardEvent('paste', {bubbles: true}))")
    expect(page.locator(".card-side h2")).to_have_text("2 selected")
    expect(page.locator(".item")).to_have_count(2)
    page.keyboard.press("Control+d")
    expect(page.locator(".item")).to_have_count(4)
    page.keyboard.press("Delete")
    expect(page.locator(".item")).to_have_count(2)
    page.keyboard.press("Control+z")
    expect(page.locator(".item")).to_have_count(4)
    # With shift held, single ones come and go.
    with answer_shown(page, "select="):
        page.locator(".item").nth(0).click(position={"x": 3, "y": 40})
    expect(page.locator(".card-title")).to_be_visible()
    page.locator(".item").nth(1).click(position={"x": 3, "y": 40}, modifiers=["Shift"])
    expect(page.locator(".card-side h2")).to_have_text("2 selected")


def test_turning_mirroring_and_stacking(page, sheet):
    place(page, "fog-signal.jpg")
    x, y = middle(page.locator("[data-handle=turn]"))
    cx, cy = middle(page.locator(".item.selected polygon.outline"))
    page.keyboard.down("Shift")
    drag(page, (x, y), (cx - x + (cy - y), cy - y))
    page.keyboard.up("Shift")
    expect(field(page, "rotation")).to_have_value("90")
    density = page.locator("#card-ppi").inner_text()
    with answer_shown(page, "/mirror"):
        page.get_by_role("button", name="Mirror left–right").click()
    expect(page.locator("#card-ppi")).to_have_text(density)
    matrix = page.locator(".item.selected .seen").get_attribute("transform")
    a, b, c, d = [float(one) for one in matrix[7:].split()[:4]]
    assert a * d - b * c < 0, "mirrored"
    with answer_shown(page, "/shape"):
        page.get_by_label("Frame shape").select_option("ellipse")
    assert "C" in page.locator("[id^=clip-] path").get_attribute("d")
    page.keyboard.press("Control+z")
    expect(page.get_by_label("Frame shape")).to_have_value("rectangle")


def test_things_come_to_rest_on_edges_and_guides_show_it(page, sheet):
    place(page, "gull-close.png")
    x, y = middle(page.locator(".item.selected polygon.outline"))
    px_pt = float(page.locator("#canvas").get_attribute("data-px-pt"))
    to_edge = -float(field(page, "x").input_value()) * 72 / 25.4 / px_pt
    page.mouse.move(x, y)
    page.mouse.down()
    # Three pixels short of the page's edge, and with alt held free of it.
    page.mouse.move(x + to_edge + 3, y + 23, steps=6)
    expect(page.locator(".guides line").first).to_be_attached()
    with answer_shown(page, "/gesture"):
        page.mouse.up()
    expect(field(page, "x")).to_have_value("0")
    page.keyboard.down("Alt")
    drag(page, (x + to_edge, y + 23), (3, 0))
    page.keyboard.up("Alt")
    expect(field(page, "x")).not_to_have_value("0")


def test_figures_understand_sums_and_refuse_nonsense(page, sheet):
    place(page, "fog-signal.jpg")
    set_field(page, "x", "210mm/2 - 5")
    expect(field(page, "x")).to_have_value("100")
    set_field(page, "width", "1in + 10")
    expect(field(page, "width")).to_have_value("35.4")
    field(page, "x").fill("10 +")
    field(page, "x").press("Enter")
    expect(page.locator("#notice")).to_contain_text("“10 +” is not a length")
    expect(field(page, "width")).to_have_value("35.4")


def test_the_reach_bar_is_pulled(page, sheet):
    place(page, "fog-signal.jpg")
    bar = page.locator(".reach-bar").bounding_box()
    page.mouse.move(bar["x"] + bar["width"] * 0.5, bar["y"] + bar["height"] * 0.5)
    page.mouse.down()
    page.mouse.move(bar["x"] + bar["width"] * 0.6, bar["y"] + 30, steps=5)
    measured(page)
    live = page.locator("#card-ppi").inner_text()
    assert live != "300"
    with answer_shown(page, "/gesture"):
        page.mouse.up()
    expect(page.locator("#card-ppi")).to_have_text(live)
    page.keyboard.press("Control+z")
    expect(page.locator("#card-ppi")).to_have_text("300")


def draw(page, kind, start, end):
    page.get_by_role("button", name="Add", exact=True).click()
    page.get_by_role("button", name=kind, exact=True).click()
    trim = page.locator(".trim").bounding_box()
    points = [
        (trim["x"] + x * trim["width"], trim["y"] + y * trim["height"]) for x, y in (start, end)
    ]
    page.mouse.move(*points[0])
    page.mouse.down()
    page.mouse.move(*points[1], steps=5)
    with answer_shown(page, "/draw"):
        page.mouse.up()


def test_frames_text_and_shapes_are_drawn(page, sheet):
    draw(page, "Picture frame", (0.1, 0.1), (0.6, 0.4))
    expect(page.locator(".badge-plate")).to_contain_text(
        re.compile(r"needs [\d\s]+ × [\d\s]+ px at 300")
    )
    page.locator(".card-side .place", has_text="fog-signal.jpg").click()
    expect(page.locator(".card-title h2")).to_have_text("fog-signal.jpg")
    done(page)
    draw(page, "Text", (0.1, 0.5), (0.5, 0.6))
    text_of(page).fill("Boats leave at every full hour. " * 2)
    page.get_by_label("Family").select_option(label="Bitter")
    page.get_by_label("Link").fill("https://tarnholm.example/boats")
    text_form(page).get_by_role("button", name="Apply").click()
    expect(page.locator(".item.text text").first).to_have_class("font-slab-400")
    expect(page.locator(".overflow-mark")).to_have_count(0)
    text_of(page).fill("Boats leave at every full hour. " * 60)
    text_form(page).get_by_role("button", name="Apply").click()
    expect(page.locator(".overflow-mark")).to_contain_text("text does not fit")
    page.get_by_label("Link").fill("javascript:alert(1)")
    text_form(page).get_by_role("button", name="Apply").click()
    expect(page.locator("#notice")).to_contain_text("is not a link")
    done(page)
    draw(page, "Rectangle", (0.6, 0.7), (0.9, 0.9))
    expect(page.locator(".card-side h2")).to_have_text("Rectangle")
    draw(page, "Line", (0.1, 0.95), (0.9, 0.95))
    expect(page.locator(".card-side h2")).to_have_text("Line")
    expect(page.locator(".item")).to_have_count(4)


class TestSeeingTruthfully:
    def test_placeholder_light_and_exact(self, page, sheet):
        place(page, "fog-signal.jpg")
        done(page)
        for quality, shown in [("placeholder", ".placeholder-name"), ("exact", ".exact image")]:
            page.get_by_role("button", name=re.compile("^Preview:")).click()
            with page.expect_navigation():
                page.locator(".tool-menu button", has_text=quality.capitalize()).first.click()
            expect(page.locator(shown).first).to_be_attached(timeout=LONG)
        few = page.locator(".exact image").count()
        page.mouse.move(*middle(page.locator(".item.picture")))
        page.keyboard.down("Control")
        page.mouse.wheel(0, -900)
        page.keyboard.up("Control")
        tiles = page.locator(".exact image")
        # Every pixel at this zoom, and only what is on screen.
        expect(tiles.first).to_have_attribute("data-tile", re.compile("^0/"))
        assert 0 < tiles.count() < 60 and few > 0
        page.get_by_role("button", name=re.compile("^Preview:")).click()
        with page.expect_navigation():
            page.locator(".tool-menu button", has_text="Light").first.click()

    def test_preview_or_picture(self, page, sheet):
        place(page, "gull-close.png")
        page.get_by_text("Target, preview, link").click()
        page.get_by_role("button", name="Preview or picture?").click()
        said = page.locator("#why .note")
        expect(said).to_contain_text("of the file’s 312")
        expect(said).to_have_attribute("data-cause", "picture")

    def test_true_size_after_matching_a_bank_card(self, page, sheet):
        page.get_by_role("button", name="True size").click()
        slider = page.get_by_label("Width of the outline in pixels")
        slider.fill("428")
        card = page.locator(".bank-card").bounding_box()
        # ISO/IEC 7810, ID-1 (from memory): 85.60 × 53.98 mm
        assert card["width"] / card["height"] == pytest.approx(85.60 / 53.98, rel=0.02)
        page.get_by_role("button", name="The card fits").click()
        # 428 px for 85.6 mm are 5 px a millimetre: an A4 page is 1 050 px wide
        assert page.locator(".trim").bounding_box()["width"] == pytest.approx(1050, abs=3)


class TestLinks:
    def test_a_pasted_picture_is_loose_and_put_out(self, page, sheet, live, tmp_path):
        Image.fromarray(photo(150, 100, seed=61)).save(tmp_path / "clip.png", dpi=(300, 300))
        paste_picture(page, tmp_path / "clip.png")
        expect(page.locator(".card-title h2")).to_contain_text("pasted")
        expect(page.locator("#card-ppi")).to_have_text("300")
        expect(page.locator(".note.warn")).to_contain_text("its source file is not known")
        page.get_by_text("Target, preview, link").click()
        page.get_by_role("button", name="Save to My pictures").click()
        expect(page.locator(".kv").first).to_contain_text("in place")

    def test_carried_changed_and_missing(self, page, sheet, live):
        path = live.shelf / "going-away.jpg"
        Image.fromarray(photo(600, 400, seed=71)).save(path, dpi=(150, 150))
        try:
            page.goto("/pictures")
            page.get_by_role("button", name="Check for new files").click()
            expect(page.locator(".tile[data-name='going-away.jpg'] img")).to_be_visible(
                timeout=LONG
            )
            page.goto(sheet)
            place(page, "going-away.jpg")
            Image.fromarray(photo(1200, 800, seed=72)).save(path, dpi=(150, 150))
            page.reload()
            expect(page.locator(".note.warn")).to_contain_text("changed after it was placed")
            page.get_by_role("button", name="Update").click()
            expect(page.locator("#card-ppi")).to_have_text("300")
            page.get_by_text("Target, preview, link").click()
            page.get_by_role("button", name="Carry in the job").click()
            expect(page.locator(".kv").first).to_contain_text("carried")
            path.unlink()
            page.reload()
            expect(page.locator(".kv").first).to_contain_text("carried")
        finally:
            path.unlink(missing_ok=True)

    def test_all_missing_pictures_are_looked_for_in_a_folder(self, page, live, tmp_path):
        handbook = job_address(page, "visitor handbook")
        page.goto(f"{handbook}?page=3")
        folder = tmp_path / "archive"
        folder.mkdir()
        moved = live.settings.data_folder / "moved away" / "tide-table.png"
        shutil.copy2(moved, folder / "tides of 2019.png")
        page.get_by_label("Folder to look in").fill(str(folder))
        page.get_by_role("button", name="Relink all").click()
        expect(page.locator("#notice")).to_contain_text("1 relinked, 0 still missing")
        expect(page.get_by_role("button", name="tides of 2019.png,")).to_be_visible()
        page.keyboard.press("Control+z")
        expect(page.get_by_role("button", name="tide-table.png,")).to_be_visible()


def test_history_is_a_list_to_go_back_in(page, sheet):
    place(page, "fog-signal.jpg")
    with answer_shown(page, "/mirror"):
        page.get_by_role("button", name="Mirror top–bottom").click()
    set_field(page, "x", "33")
    page.reload()
    page.get_by_role("button", name="History").click()
    entries = page.locator(".history .dropdown-item")
    expect(entries).to_have_count(4)
    with answer_shown(page, "/history/"):
        page.locator(".history .dropdown-item", has_text="Place fog-signal.jpg").click()
    page.get_by_role("button", name=re.compile("^fog-signal.jpg,")).click()
    expect(field(page, "x")).not_to_have_value("33")
    page.get_by_role("button", name="History").click()
    expect(page.locator(".history .undone")).to_have_count(2)
    with answer_shown(page, "/history/"):
        page.locator(".history .dropdown-item", has_text="Set figures").click()
    page.get_by_role("button", name=re.compile("^fog-signal.jpg,")).click()
    expect(field(page, "x")).to_have_value("33")


def test_pages_are_copied_and_dragged_into_order(page, sheet):
    place(page, "fog-signal.jpg")
    done(page)
    page.get_by_role("button", name="Copy", exact=True).click()
    expect(page.locator(".film [data-film]")).to_have_count(3)
    expect(page.locator(".item")).to_have_count(1)
    page.locator("[data-film='2']").drag_to(page.locator("[data-film='3']"))
    expect(page.locator(".film .on")).to_have_text("3")
    expect(page.locator(".item")).to_have_count(1)
    page.get_by_text("Page 3", exact=True).click()
    page.get_by_label("facing pages").check()
    expect(page.locator(".sheet")).to_have_count(2)


def test_keys_alone_from_placing_to_checking(page, sheet):
    to_place(page, "fog-signal.jpg").focus()
    page.keyboard.press("Enter")
    expect(page.locator(".card-title h2")).to_have_text("fog-signal.jpg")
    field(page, "width").focus()
    page.keyboard.press("Control+a")
    page.keyboard.type("100")
    with answer_shown(page, "/figures"):
        page.keyboard.press("Enter")
    expect(field(page, "width")).to_have_value("100")
    page.locator("#deselect").focus()
    with answer_shown(page, "/scale"):
        page.keyboard.press("e")
    expect(page.locator("#card-ppi")).to_have_text("300")
    page.get_by_role("link", name="Preflight").focus()
    page.keyboard.press("Enter")
    expect(page.locator(".gate")).to_contain_text("Gate open")


def test_a_job_is_duplicated_archived_deleted_and_brought_back(page, sheet):
    page.goto("/jobs")
    row = page.locator(".job-line", has_text="Laying out").first
    row.get_by_role("button").click()
    follow(row.get_by_role("button", name="Duplicate"))
    expect(page.locator(".job-name")).to_contain_text("Laying out, copy")
    shown = "open"
    for action, there in [("Archive", "archived"), ("Delete", "deleted"), ("Reopen", "open")]:
        page.goto(f"/jobs?status={shown}")
        row = page.locator(".job-line", has_text="Laying out, copy").first
        row.get_by_role("button").first.click()
        follow(row.get_by_role("button", name=action))
        page.goto(f"/jobs?status={there}")
        expect(page.locator(".job-line", has_text="Laying out, copy").first).to_be_visible()
        shown = there


@pytest.mark.parametrize(
    "view",
    ["/jobs", "/jobs/new", "/pictures", "/pictures/6", "/pictures/6/copy", "/agency",
     "/compare?one=1&other=2", "pages?page=4", "SELECTED", "ledger", "ledger?try=200", "preflight",
     "output", "report", "/targets", "/targets/coated", "/jobs/4/matches/28",
     "LOUPE", "text-styles", "output?kind=image", "/guide", "/documents/1",
     "/documents/2", "/documents/3?page=2", "/documents/3/improve", "/documents/3/report",
     "/documents/4", "/documents/4/improve", "/documents", "/people", "/activity", "/running",
     "/tokens", "/comments/job/1", "/comments/document/1"],
)  # fmt: skip
def test_no_serious_fault_of_accessibility(browser, live, view):
    # The page's own policy forbids foreign scripts, so it is lifted for the checker alone.
    # A low window, so that what can scroll does: such a region must be reached by the keyboard.
    low = {"width": 1280, "height": 560}
    context = browser.new_context(base_url=live.address, bypass_csp=True, viewport=low)
    page = context.new_page()
    if view.startswith("/"):
        page.goto(view)
    else:
        address = job_address(page, "visitor handbook")
        page.goto(address if view.isupper() else address.replace("pages", view))
        if view == "SELECTED":
            page.locator(".item.picture").first.click()
            expect(page.locator("#card-ppi")).to_be_visible()
        if view == "LOUPE":
            page.get_by_role("button", name="Loupe", exact=True).click()
            page.locator("#loupe").get_by_text("Press settings").click()
            expect(page.locator("#loupe")).to_contain_text("as it prints")
    page.wait_for_load_state("networkidle")
    expect(page.get_by_text("Measuring…")).to_have_count(0)
    faults = serious_faults(page)
    context.close()
    assert faults == []


def test_the_keys_are_shown_under_a_question_mark(page, sheet):
    page.keyboard.press("?")
    expect(page.locator("#keys")).to_contain_text("scale to reach")
    page.keyboard.press("Escape")
    expect(page.locator("#keys")).not_to_be_visible()


def test_the_preview_store_is_cleared_and_fills_again(page, live):
    page.goto("/pictures")
    page.get_by_role("button", name="Shelves").click()
    expect(page.locator(".preview-store")).to_contain_text("MB")
    # What unfolds moves under the pointer until it has unfolded.
    expect(page.locator(".collapse.show .preview-store")).to_be_visible()
    with page.expect_response(lambda answer: "clear-previews" in answer.url):
        page.get_by_role("button", name="Clear previews").click()
    # A damaged picture of another test never has a preview and does not wait for one.
    being_made = page.get_by_label("preview being made")
    expect(being_made.first).to_be_attached(timeout=180_000)
    expect(being_made).to_have_count(0, timeout=180_000)
    expect(page.locator(".tile img").first).to_be_visible()


def test_new_pictures_come_at_their_reach_and_a_page_has_its_own_target(page, sheet):
    page.get_by_text("Page 1", exact=True).click()
    with answer_shown(page, "/target"):
        page.get_by_label("Target of page 1").select_option(label="Slides, 96 ppi")
    with page.expect_navigation():
        page.get_by_label("Place new pictures").select_option(label="at their reach")
    place(page, "gull-close.png")
    expect(page.locator("#card-ppi")).to_have_text("96")
    expect(page.locator(".card-title")).to_contain_text("own target 96 ppi")
    expect(page.locator(".film .on")).to_contain_text("◦")
    done(page)
    with page.expect_navigation():
        page.get_by_label("Place new pictures").select_option(label="at native size")


def test_files_dropped_on_a_page_are_kept_and_placed(page, sheet, tmp_path):
    for name, seed in (("first drop.png", 81), ("second drop.png", 82)):
        Image.fromarray(photo(160, 120, seed=seed)).save(tmp_path / name, dpi=(150, 150))
    files = [list((tmp_path / name).read_bytes()) for name in ("first drop.png", "second drop.png")]
    x, y = middle(page.locator(".trim"))
    page.evaluate(
        """([files, x, y]) => {
            const transfer = new DataTransfer();
            files.forEach((data, index) => transfer.items.add(
                new File([new Uint8Array(data)], `dropped ${index}.png`),
            ));
            const at = { dataTransfer: transfer, clientX: x, clientY: y, bubbles: true };
            document.querySelector(".trim").dispatchEvent(new DragEvent("drop", at));
        }""",
        [files, x, y],
    )
    expect(page.locator(".item")).to_have_count(2, timeout=LONG)
    expect(page.locator(".badge-plate").first).to_contain_text("150 ppi")
