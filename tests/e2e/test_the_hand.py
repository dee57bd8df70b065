"""What the hand expects: fields that apply when they are left, Escape, units, spreads, undo."""

import json
import re
from itertools import pairwise

import pytest
from PIL import Image
from playwright.sync_api import expect

from tests.e2e.conftest import (
    ROOT,
    answer_shown,
    drag,
    field,
    follow,
    job_address,
    measured,
    middle,
    place,
    text_of,
)
from tests.support.pictures import photo

AXE = ROOT / "node_modules" / "axe-core" / "axe.min.js"


@pytest.fixture
def handbook(page):
    return job_address(page, "visitor handbook")


@pytest.fixture
def flyer(page):
    """A new A5 job of four facing pages; its address."""
    page.goto("/jobs/new")
    page.get_by_label("Title").fill("By hand")
    page.get_by_role("button", name="A5", exact=True).click()
    page.get_by_label("Pages", exact=True).fill("4")
    page.get_by_label("Facing pages").check()
    follow(page.get_by_role("button", name="Create job"))
    return page.url.split("?")[0]


class TestFields:
    def test_a_field_is_applied_when_it_is_left_and_only_that_one(self, page, flyer):
        place(page, "fog-signal.jpg")
        before = page.locator(".item.picture .frame").get_attribute("d")
        x = field(page, "x").input_value()
        field(page, "y").fill("33")
        with answer_shown(page, "/figures"):
            field(page, "y").press("Tab")
        expect(field(page, "y")).to_have_value("33")
        expect(field(page, "x")).to_have_value(x)
        # Tab goes on to the next field, which the answer brought anew.
        expect(field(page, "width")).to_be_focused()
        after = page.locator(".item.picture .frame").get_attribute("d")
        first, second = (re.match(r"M([\d.]+)", one)[1] for one in (before, after))
        assert first == second, "to the last digit"

    def test_a_press_on_the_page_applies_what_is_typed(self, page, flyer):
        place(page, "fog-signal.jpg")
        field(page, "x").fill("11")
        with answer_shown(page, "/pages?"):
            page.mouse.click(*middle(page.locator(".item.picture")))
        expect(field(page, "x")).to_have_value("11")
        page.reload()
        page.locator(".item.picture").click()
        expect(field(page, "x")).to_have_value("11")

    def test_typed_text_is_not_lost(self, page, flyer):
        page.get_by_role("button", name="Add", exact=True).click()
        page.locator("[data-draws=text]").click()
        box = page.locator(".trim").first.bounding_box()
        with answer_shown(page, "/draw"):
            page.mouse.move(box["x"] + 20, box["y"] + 20)
            page.mouse.down()
            page.mouse.move(box["x"] + 160, box["y"] + 120, steps=4)
            page.mouse.up()
        text_of(page).fill("Boats leave at noon")
        page.mouse.click(box["x"] + box["width"] - 12, box["y"] + box["height"] - 12)
        expect(page.locator(".item.text text").first).to_have_text("Boats leave at noon")
        expect(page.locator(".card-side h2").first).to_have_text("Place a picture")

    def test_proportion_scale_and_the_choice_that_is_remembered(self, page, flyer):
        place(page, "fog-signal.jpg")
        with answer_shown(page, "/figures"):
            page.get_by_label("keep proportion").check()
        field(page, "width").fill("60")
        with answer_shown(page, "/figures"):
            field(page, "width").press("Enter")
        # 2126 × 1417 px: 60 mm wide is 39.99 high
        expect(field(page, "height")).to_have_value("39.99")
        field(page, "scale").fill("50")
        with answer_shown(page, "/figures"):
            field(page, "scale").press("Enter")
        expect(page.locator("#card-ppi")).to_have_text("600")
        page.reload()
        page.locator(".item.picture").click()
        expect(page.get_by_label("keep proportion")).to_be_checked()


def test_escape_gives_up_what_the_hand_does(page, flyer):
    place(page, "fog-signal.jpg")
    item = page.locator(".item.picture")
    before = item.locator(".frame").get_attribute("d")
    x, y = middle(item)
    page.mouse.move(x, y)
    page.mouse.down()
    page.mouse.move(x + 60, y + 30, steps=5)
    measured(page)
    with answer_shown(page, "/pages?"):
        page.keyboard.press("Escape")
    page.mouse.up()
    expect(item.locator(".frame")).to_have_attribute("d", before)
    expect(page.locator("#undo")).to_be_visible()
    assert page.locator(".history .dropdown-item").count() == 2, "placing, and the initial state"


def test_over_the_fold_it_changes_its_page(page, flyer):
    page.goto(f"{flyer}?page=2")
    place(page, "gull-2093.jpg")
    width = page.locator(".trim").first.bounding_box()["width"]
    expect(page.locator(".item.picture")).to_have_attribute("data-page", "2")
    drag(page, middle(page.locator(".item.picture")), (width, 0))
    expect(page.locator(".item.picture")).to_have_attribute("data-page", "3")
    expect(page.locator(".card-title")).to_contain_text("page 3")


def test_keys_lead_from_finding_to_finding(page, handbook):
    page.goto(f"{handbook}?page=1")
    with answer_shown(page, "/finding"):
        page.keyboard.press("n")
    first = page.locator(".card-title h2").inner_text()
    with answer_shown(page, "/finding"):
        page.keyboard.press("n")
    expect(page.locator(".card-title h2")).not_to_have_text(first)
    with answer_shown(page, "/finding"):
        page.keyboard.press("p")
    expect(page.locator(".card-title h2")).to_have_text(first)


class TestUndo:
    def test_another_windows_step_is_told_and_left(self, page, flyer):
        place(page, "fog-signal.jpg")
        other = page.context.new_page()
        other.goto(flyer)
        place(other, "gull-2093.jpg")
        page.get_by_role("button", name="Undo", exact=True).click()
        expect(page.locator("#notice")).to_contain_text("“Place gull-2093.jpg” came last")
        page.get_by_role("button", name="Reload to see their change").click()
        expect(page.locator(".item.picture")).to_have_count(2)
        other.close()

    def test_beyond_the_page_in_view_leads_to_the_right_one(self, page, flyer):
        with answer_shown(page, "/add"):
            page.get_by_role("button", name="Add page").click()
        page.goto(f"{flyer}?page=5")
        place(page, "fog-signal.jpg")
        for _ in range(2):
            with page.expect_response("**/undo"):
                page.get_by_role("button", name="Undo", exact=True).click()
            page.wait_for_load_state("networkidle")
        expect(page.locator("#canvas")).to_be_visible()
        expect(page.locator(".film [data-film]")).to_have_count(4)


class TestUnits:
    def test_chosen_once_they_hold_everywhere(self, page, handbook):
        page.goto(f"{handbook}?page=5")
        with page.expect_navigation():
            page.get_by_label("Unit of length").select_option("in")
        page.get_by_role("button", name="north-gallery.jpg,").click()
        expect(page.get_by_label("Width, in")).to_be_visible()
        expect(page.locator("#card-head")).to_contain_text(
            re.compile(r"Frame\s+[\d.]+ × [\d.]+ in")
        )
        expect(page.locator(".job-name .sub")).to_contain_text("5.83 × 8.27 in")
        page.goto(handbook.replace("/pages", "/ledger"))
        expect(page.locator("#ledger tbody tr").first).to_contain_text(re.compile(r"[\d.]+ in"))

    def test_a_new_jobs_figures_follow_its_unit(self, page):
        page.goto("/jobs/new")
        page.get_by_role("button", name="A4", exact=True).click()
        expect(page.get_by_label("Width", exact=True)).to_have_value("210")
        page.locator("#page-fields select[name=unit]").select_option("in")
        expect(page.get_by_label("Width", exact=True)).to_have_value("8.268")
        expect(page.get_by_label("Bleed, in")).to_have_value("0.118")
        expect(page.locator(".fillings")).to_contain_text("a 12-megapixel photograph, at")
        page.get_by_role("button", name="Swap portrait and landscape").click()
        expect(page.get_by_label("Height", exact=True)).to_have_value("8.268")

    def test_a_unit_chosen_before_the_common_size_is_shown(self, page):
        page.goto("/jobs/new")
        page.route("**/jobs/new/page*", lambda route: None, times=1)
        page.get_by_role("button", name="A4", exact=True).click()
        unit = page.locator("#page-fields select[name=unit]")
        unit.select_option("in")
        expect(page.get_by_label("Width", exact=True)).to_have_value("8.268")
        expect(unit).to_have_value("in")


def test_settings_of_a_job_can_be_changed_later(page, flyer):
    follow(page.get_by_role("link", name="settings"))
    page.get_by_label("Title").fill("By another hand")
    page.get_by_label("Bleed, mm").fill("5")
    page.locator("main select[name=unit]").select_option("in")
    follow(page.get_by_role("button", name="Save settings"))
    expect(page.locator(".job-name")).to_contain_text("By another hand")
    expect(page.locator(".job-name")).to_contain_text("bleed 0.197 in")
    with page.expect_response("**/undo"):
        page.get_by_role("button", name="Undo", exact=True).click()
    expect(page.locator(".job-name h1")).to_have_text("By hand")


class TestEmptyFrames:
    @pytest.fixture
    def frames(self, page, flyer):
        """Two empty frames side by side."""
        for left in (0.1, 0.55):
            page.get_by_role("button", name="Add", exact=True).click()
            page.locator("[data-draws=frame]").click()
            box = page.locator(".trim").first.bounding_box()
            start = (box["x"] + box["width"] * left, box["y"] + box["height"] * 0.1)
            with answer_shown(page, "/draw"):
                page.mouse.move(*start)
                page.mouse.down()
                page.mouse.move(start[0] + 100, start[1] + 70, steps=4)
                page.mouse.up()

    def test_files_dropped_on_one_fill_it_and_the_next(self, page, frames, tmp_path):
        files = []
        for seed in (91, 92):
            path = tmp_path / f"{seed}.png"
            Image.fromarray(photo(160, 120, seed=seed)).save(path, dpi=(150, 150))
            files.append(list(path.read_bytes()))
        page.evaluate(
            """(files) => {
                const transfer = new DataTransfer();
                files.forEach((data, index) => transfer.items.add(
                    new File([new Uint8Array(data)], `into a frame ${index}.png`),
                ));
                const frame = document.querySelector(".item.frame .frame-back");
                const box = frame.getBoundingClientRect();
                const at = { dataTransfer: transfer, clientX: box.x + 9, clientY: box.y + 9 };
                frame.dispatchEvent(new DragEvent("drop", { ...at, bubbles: true }));
            }""",
            files,
        )
        expect(page.locator(".item.picture")).to_have_count(2)
        expect(page.locator(".item.frame")).to_have_count(0)

    def test_the_best_fit_comes_first_and_several_fill_several(self, page, frames):
        with answer_shown(page, "/pages?"):
            page.mouse.click(*middle(page.locator(".item.frame").first))
        expect(page.locator(".card-side .place").first).to_contain_text("ppi")
        follow(page.get_by_role("link", name="All that fit, several frames at once"))
        for name in ("gull-2093.jpg", "fog-signal.jpg"):
            page.get_by_label(f"Choose {name}", exact=True).check()
        follow(page.get_by_role("button", name="Fill with the chosen"))
        expect(page.locator(".item.picture")).to_have_count(2)
        expect(page.locator(".item.frame")).to_have_count(0)
        with page.expect_response("**/undo"):
            page.get_by_role("button", name="Undo", exact=True).click()
        expect(page.locator(".item.frame")).to_have_count(2)


class TestStrip:
    def test_pages_show_what_is_on_them_and_follow_an_edit(self, page, flyer):
        thumb = page.locator("[data-film='1'] img")
        empty = thumb.get_attribute("src")
        place(page, "fog-signal.jpg")
        expect(thumb).not_to_have_attribute("src", empty)
        svg = page.request.get(thumb.get_attribute("src")).text()
        assert svg.count("<image") == 1 and "data:image/jpeg;base64," in svg
        assert thumb.evaluate("image => image.decode().then(() => image.naturalWidth > 0)")

    def test_several_are_moved_by_key(self, page, flyer):
        place(page, "fog-signal.jpg")
        page.keyboard.press("Escape")
        page.locator("[data-film='2']").click(modifiers=["Control"])
        page.locator("[data-film='1']").click(modifiers=["Control"])
        with answer_shown(page, "/move-pages"):
            page.keyboard.press("Alt+PageDown")
        expect(page.locator("[data-film='2'] .grain")).not_to_have_class(re.compile("unknown"))


def test_badges_leave_small_pictures_free_and_hide_on_a_key(page, handbook):
    # Where the left corner is taken, the mark stands at the right one: each picture keeps its own.
    page.goto(f"{handbook}?page=5")
    expect(page.locator(".badge-plate.small")).to_have_count(2)
    expect(page.locator(".badge-plate.gives-way")).to_have_count(0)
    page.goto(f"{handbook}?page=8")
    small = page.locator(".badge-plate.small")
    expect(small.first).to_be_attached()
    badge = small.first
    frame = badge.locator("xpath=..").locator(".frame, .frame-back").first.bounding_box()
    plate = badge.locator(".plate-small").bounding_box()
    assert plate["y"] + plate["height"] <= frame["y"] + 1, "the mark stands above its frame"
    # Turning pages draws them anew; the mark is where it was.
    for key in (",", "."):
        with answer_shown(page, "/pages?"):
            page.keyboard.press(key)
    again = page.locator(".badge-plate.small .plate-small").first.bounding_box()
    assert again == pytest.approx(plate, abs=1)
    page.keyboard.press("b")
    expect(page.locator("#canvas")).to_have_class(re.compile("no-badges"))
    expect(page.locator(".badge-plate .plate").first).to_be_hidden()


def test_several_are_aligned_and_spread(page, flyer):
    for name in ("gull-close.png", "ferry-fax.jpg"):
        place(page, name)
        page.keyboard.press("Escape")
        expect(page.locator(".card-side h2").first).to_have_text("Place a picture")
    with answer_shown(page, "/pages?"):
        page.locator(".item.picture").first.click(position={"x": 3, "y": 3})
    with answer_shown(page, "/pages?"):
        page.locator(".item.picture").nth(1).click(position={"x": 3, "y": 3}, modifiers=["Shift"])
    expect(page.locator(".card-side h2").first).to_have_text("2 selected")
    page.get_by_label("Align with").select_option("page")
    with answer_shown(page, "/align"):
        page.get_by_role("button", name="Align left").click()
    edges = [one.bounding_box()["x"] for one in page.locator(".item.picture .frame").all()]
    assert edges[0] == pytest.approx(edges[1], abs=1)
    assert edges[0] == pytest.approx(page.locator(".trim").bounding_box()["x"], abs=2)


def test_one_field_finds_anything(page, handbook):
    page.keyboard.press("/")
    expect(page.locator("#find-anything")).to_be_focused()
    page.keyboard.type("north-gallery")
    with page.expect_navigation():
        page.keyboard.press("Enter")
    found = page.locator(".found-list")
    expect(found.locator("h2")).to_have_text(["Pictures", "Findings"])
    follow(found.get_by_role("link", name=re.compile("short of 300")).first)
    expect(page.locator(".card-title h2")).to_have_text("north-gallery.jpg")


def test_actions_are_found_by_name(page, handbook):
    page.keyboard.press("?")
    page.keyboard.type("true size")
    expect(page.locator(".action").first).to_contain_text("True size")
    page.get_by_label("Search keys and actions").fill("ledger")
    with page.expect_navigation():
        page.keyboard.press("Enter")
    expect(page.locator("#ledger")).to_be_visible()
    page.keyboard.press("?")
    follow(page.get_by_role("link", name="Guide to this view"))
    expect(page.locator("article h1")).to_be_visible()
    assert page.locator("article img").evaluate("image => image.decode().then(() => true)")


def test_a_preview_that_is_gone_comes_back_by_itself(page, live, flyer):
    place(page, "ferry-fax.jpg")
    address = page.locator(".item.picture .seen").get_attribute("href")
    sha256 = address.split("/")[2]
    for kept in live.settings.data_folder.rglob(f"{sha256}-*"):
        kept.unlink()
    with page.expect_response(lambda answer: "asked=" in answer.url and answer.status == 200):
        page.evaluate(
            "address => document.querySelector('.item.picture .seen')"
            ".setAttribute('href', `${address}?gone`)",
            address,
        )


def test_a_picture_too_large_for_its_page_asks(page, flyer):
    place(page, "harbour-morning.jpg")
    notice = page.locator("#notice")
    expect(notice).to_contain_text("at native size, larger than this page")
    with answer_shown(page, "/scale"):
        notice.get_by_role("button", name=re.compile("Use its reach")).click()
    expect(page.locator("#card-ppi")).to_have_text("300")


class TestPreflight:
    def test_a_group_is_fixed_by_a_plan(self, page, flyer):
        place(page, "gull-close.png")
        page.keyboard.press("Escape")
        place(page, "tower-postcard.gif")
        page.goto(flyer.replace("/pages", "/preflight"))
        before = page.locator(".finding", has_text="short of 300").count()
        assert before >= 2
        follow(page.get_by_role("link", name=re.compile("Fix or accept all")).first)
        expect(page.locator(".bulk-plan tbody tr").first).to_contain_text(
            re.compile("scale to reach|swap for")
        )
        follow(page.get_by_role("button", name="Fix the chosen"))
        expect(page.locator(".finding", has_text="short of 300")).to_have_count(0)
        page.get_by_role("button", name="Undo the last change").click()
        expect(page.locator(".finding", has_text="short of 300")).to_have_count(before)


class TestShelves:
    def test_a_shelf_of_ones_own_and_a_picture_that_comes_back(self, page):
        page.goto("/pictures")
        page.get_by_role("button", name="Shelves").click()
        name = page.get_by_label("Add a shelf of your own")
        name.fill("Autumn leaflet")
        with page.expect_navigation(wait_until="load"):
            name.press("Enter")
        page.goto("/pictures?words=lamp-room.jpg")
        follow(page.locator(".tile"))
        page.get_by_label("Shelf to move it to").select_option(label="Autumn leaflet")
        follow(page.get_by_role("button", name="Move to shelf"))
        expect(page.locator(".pane").first).to_contain_text("Pictures ▸ Autumn leaflet")
        follow(page.get_by_role("button", name="Remove", exact=True))
        expect(page.locator("h1")).to_contain_text("was removed from Autumn leaflet")
        follow(page.get_by_role("button", name="Undo"))
        page.get_by_label("Shelf to move it to").select_option(label="Tarnholm shelf")
        follow(page.get_by_role("button", name="Move to shelf"))
        expect(page.locator(".pane").first).to_contain_text("Pictures ▸ Tarnholm shelf")


def test_the_picture_at_its_reach_beside_a_sheet(page):
    page.goto("/pictures?words=harbour-morning.jpg")
    follow(page.locator(".tile"))
    scene = page.locator(".reach-scene")
    picture = scene.locator("image").bounding_box()
    # 5 184 × 3 456 px
    assert picture["width"] / picture["height"] == pytest.approx(1.5, rel=0.02)
    sheet = scene.locator(".sheet-outline").bounding_box()
    # At 300 ppi 438.9 × 292.6 mm; the nearest sheet is an A3 of 297 × 420 mm
    expect(scene.locator(".sheet-name")).to_have_text("A3")
    assert sheet["width"] / picture["width"] == pytest.approx(297 / 438.9, rel=0.02)
    names = [one.bounding_box() for one in scene.locator(".other-name").all()]
    assert all(one["y"] + one["height"] <= two["y"] + 3 for one, two in pairwise(names))
    follow(page.get_by_role("link", name="Newsprint"))
    expect(scene).to_have_attribute("aria-label", re.compile("Newsprint"))
    expect(page.locator(".note", has_text="px wide, detail of about")).to_be_visible()


@pytest.mark.parametrize(
    "view",
    [
        "/jobs",
        "/jobs/new",
        "/pictures",
        "pages?page=5",
        "preflight",
        "text-styles",
        "/documents/2",
        "/documents/3?page=4",
        "/documents/4/improve",
    ],
)
def test_dark_rooms_are_legible(browser, live, page, handbook, view):
    context = browser.new_context(
        bypass_csp=True, base_url=live.address, color_scheme="dark", viewport=page.viewport_size
    )
    dark = context.new_page()
    dark.goto(view if view.startswith("/") else handbook.replace("/pages", f"/{view}"))
    expect(dark.locator("main")).to_be_visible()
    dark.add_script_tag(content=AXE.read_text())
    found = dark.evaluate(
        "axe.run({ resultTypes: ['violations'] }).then(({ violations }) => violations"
        ".filter(({ impact }) => ['serious', 'critical'].includes(impact))"
        ".map(({ id, nodes }) => [id, nodes.map(({ html }) => html.slice(0, 120))]))"
    )
    context.close()
    assert found == [], json.dumps(found, indent=1)


def test_the_ladder_shows_another_sample_and_each_density_apart(page):
    page.goto("/pictures?words=storm-watch.jpg")
    follow(page.locator(".tile"))
    glass = page.locator("#rung")
    assert glass.bounding_box()["width"] >= 300
    seen = {}
    for ppi in (72, 150, 300):
        page.locator(f"[data-rung='{ppi}']").click()
        expect(glass).to_have_attribute("alt", f"The sample at {ppi} ppi")
        seen[ppi] = page.request.get(glass.get_attribute("src")).body()
    assert len(set(seen.values())) == 3
    with page.expect_response(
        lambda answer: "/300" in answer.url and "x=" in answer.url and answer.status == 200
    ):
        page.locator("[data-sample]").click(position={"x": 30, "y": 30})
    other = page.request.get(glass.get_attribute("src")).body()
    assert other != seen[300]


class TestWhatIsDrawnAnew:
    """An edit's answer brings what it changed; all else on the canvas stays."""

    @pytest.fixture
    def two(self, page, flyer):
        for name in ("gull-close.png", "ferry-fax.jpg"):
            place(page, name)
            page.keyboard.press("Escape")
            expect(page.locator(".card-side h2").first).to_have_text("Place a picture")
        return page.locator(".item.picture")

    def test_a_selection_and_a_nudge_leave_the_other_picture_alone(self, page, two):
        canvas, other = page.locator("#canvas"), two.nth(0)
        for one in (canvas, other):
            one.evaluate("one => { one.isTheSame = true; }")
        drawing = other.evaluate("one => one.outerHTML")
        with answer_shown(page, "/pages?"):
            two.nth(1).locator(".frame").click()
        expect(page.locator("#card-head")).to_be_visible()
        version = two.nth(1).get_attribute("data-version")
        with page.expect_response("**/gesture") as answer:
            page.keyboard.press("ArrowRight")
        expect(two.nth(1)).not_to_have_attribute("data-version", version)
        answered = answer.value.text()
        assert f'id="item-{two.nth(1).get_attribute("data-item")}"' in answered
        assert f'id="item-{other.get_attribute("data-item")}"' not in answered
        for one in (canvas, other):
            assert one.evaluate("one => one.isTheSame"), "not even its element is another one"
        assert other.evaluate("one => one.outerHTML") == drawing

    def test_what_another_window_changed_is_drawn_too(self, page, two):
        with answer_shown(page, "/pages?"):
            two.nth(1).locator(".frame").click()
        second = page.context.new_page()
        second.goto(page.url)
        elsewhere = second.locator(".item.picture").nth(0)
        with answer_shown(second, "/pages?"):
            elsewhere.click(position={"x": 3, "y": 3})
        with answer_shown(second, "/gesture"):
            second.keyboard.press("ArrowDown")
        version = two.nth(0).get_attribute("data-version")
        with answer_shown(page, "/gesture"):
            page.keyboard.press("ArrowRight")
        expect(two.nth(0)).not_to_have_attribute("data-version", version)
        expect(two.nth(0).locator(".frame")).to_have_attribute(
            "d", elsewhere.locator(".frame").get_attribute("d")
        )
        second.close()

    def test_edits_on_a_slow_way_are_kept_in_their_order(self, page, two):
        with answer_shown(page, "/pages?"):
            two.nth(1).locator(".frame").click()
        expect(page.locator("#card-head")).to_be_visible()
        sent, held = [], []

        def hold(route):
            sent.append(route.request.url.rpartition("/")[2])
            if held:
                route.continue_()
            else:
                held.append(route)

        page.route("**/gesture", hold)
        page.route("**/undo", hold)
        before = two.nth(1).locator(".frame").get_attribute("d")
        with page.expect_request("**/gesture"):
            page.keyboard.press("ArrowRight")
        page.keyboard.press("Shift+ArrowDown")
        page.keyboard.press("Control+z")
        assert sent == ["gesture"], "the next ones wait for the first answer"
        with answer_shown(page, "/pages/undo"):
            held[0].continue_()
        assert sent == ["gesture", "gesture", "undo"]
        # The second nudge is undone, the first one stays.
        now = two.nth(1).locator(".frame").get_attribute("d")
        (x, y), (x_before, y_before) = (
            [float(figure) for figure in re.match(r"M([\d.]+)[ ,]([\d.]+)", one).groups()]
            for one in (now, before)
        )
        assert x > x_before
        assert y == pytest.approx(y_before)
