"""Text styles, credit lines, and the guides, columns and grid of the pages."""

import pytest
from playwright.sync_api import expect

from tests.e2e.conftest import answer_shown, drag, follow, place


@pytest.fixture
def flyer(page):
    """A new A5 job of one page; its address."""
    page.goto("/jobs/new")
    page.get_by_label("Title").fill("Styled")
    page.get_by_role("button", name="A5", exact=True).click()
    expect(page.get_by_label("Width", exact=True)).to_have_value("148")
    follow(page.get_by_role("button", name="Create job"))
    return page.url.split("?")[0]


def pull(page, start, by):
    """A real pointer: down, several moves, up."""
    x, y = start
    page.mouse.move(x, y)
    page.mouse.down()
    page.mouse.move(x + by[0], y + by[1], steps=6)
    page.mouse.up()


def add_text(page, left, top):
    """A text frame drawn on the page, selected."""
    page.get_by_role("button", name="Add", exact=True).click()
    page.get_by_role("button", name="Text", exact=True).click()
    sheet = page.locator(".trim-edge").bounding_box()
    start = (sheet["x"] + left * sheet["width"], sheet["y"] + top * sheet["height"])
    with answer_shown(page, "/draw"):
        pull(page, start, (120, 40))
    expect(page.locator("h2", has_text="Text frame")).to_be_visible()


class TestTextStyles:
    def test_texts_follow_a_style_and_change_with_it(self, page, flyer):
        add_text(page, 0.1, 0.1)
        with answer_shown(page, "/text-styles/apply"):
            page.get_by_label("Text style").select_option(label="Caption")
        expect(page.get_by_label("Size, pt")).to_have_value("8")
        expect(page.locator(".style-note")).to_contain_text("Set in the caption style")
        add_text(page, 0.1, 0.5)
        page.keyboard.down("Shift")
        page.locator(".item.text").first.click()
        page.keyboard.up("Shift")
        expect(page.locator("h2", has_text="2 selected")).to_be_visible()
        with answer_shown(page, "/text-styles/apply"):
            page.get_by_label("Text style").select_option(label="Caption")
        follow(page.get_by_role("link", name="settings"))
        follow(page.get_by_role("link", name="Text styles"))
        caption = page.get_by_role("form", name="Caption")
        caption.get_by_label("Size, pt").fill("7")
        follow(caption.get_by_role("button", name="Save caption"))
        expect(caption.get_by_label("Size, pt")).to_have_value("7")
        follow(page.get_by_role("link", name="Back to the pages"))
        sizes = page.locator(".item.text text").evaluate_all(
            "texts => texts.map((one) => getComputedStyle(one).fontSize)"
        )
        assert set(sizes) == {"7px"} and len(sizes) == 2

    def test_a_style_is_taken_from_a_text(self, page, flyer):
        add_text(page, 0.1, 0.1)
        with answer_shown(page, "/text-styles/apply"):
            page.get_by_label("Text style").select_option(label="Heading")
        page.get_by_label("Size, pt").fill("25")
        with answer_shown(page, "/style"):
            page.get_by_label("Size, pt").press("Tab")
        expect(page.locator(".style-note")).to_contain_text("It differs from the style")
        with answer_shown(page, "/text-styles/take"):
            page.get_by_role("button", name="Change the heading style to this").click()
        expect(page.locator(".style-note")).to_contain_text("Set in the heading style")
        page.goto(flyer.replace("/pages", "/text-styles"))
        heading = page.get_by_role("form", name="Heading")
        expect(heading.get_by_label("Size, pt")).to_have_value("25")

    def test_a_figure_that_makes_no_sense_is_told(self, page, flyer):
        page.goto(flyer.replace("/pages", "/text-styles"))
        body = page.get_by_role("form", name="Body")
        body.get_by_label("Leading, pt").fill("0")
        follow(body.get_by_role("button", name="Save body"))
        expect(page.get_by_role("alert")).to_contain_text("leading is 1 to 2000 pt, not 0")

    def test_a_credit_line_below_the_picture(self, page, flyer):
        place(page, "harbour-morning.jpg")
        with answer_shown(page, "/credits"):
            page.get_by_role("button", name="Add credit line").click()
        expect(page.locator(".item.text")).to_contain_text("Tarnholm Light Trust")
        expect(page.get_by_label("Text style")).to_have_value("credit")
        with page.expect_response("**/undo"):
            page.get_by_role("button", name="Undo", exact=True).click()
        expect(page.locator(".item.text")).to_have_count(0)


class TestGuides:
    def test_dragged_out_snapped_to_moved_and_removed(self, page, flyer):
        sheet = page.locator(".trim-edge").bounding_box()
        ruler = page.locator(".edge-ruler[data-axis=x]").bounding_box()
        start = (ruler["x"] + 7, sheet["y"] + 100)
        with answer_shown(page, "/guides"):
            pull(page, start, (sheet["x"] + 130 - start[0], 20))
        guide = page.locator(".page-guide[data-axis=x]")
        expect(guide).to_have_count(1)
        at = float(guide.get_attribute("data-at"))
        assert at == pytest.approx(130 / sheet["width"] * 148 / 25.4 * 72, abs=1)
        add_text(page, 0.6, 0.3)
        box = page.locator(".item.text polygon.outline").bounding_box()
        left = float(
            page.locator(".item.text polygon.outline").get_attribute("points").split(",")[0]
        )
        # To 3 pixels beside the guide, where it attracts.
        by = 133 - left * sheet["width"] / (148 / 25.4 * 72)
        drag(page, (box["x"] + 60, box["y"] + 20), (by, 30))
        corner = page.locator(".item.text polygon.outline").get_attribute("points")
        assert float(corner.split(",")[0]) == pytest.approx(at, abs=0.01)
        page.locator("#deselect").click()
        expect(page.locator(".item.selected")).to_have_count(0)
        low = (sheet["x"] + 130, sheet["y"] + sheet["height"] - 30)
        with answer_shown(page, "/guides"):
            pull(page, low, (60, 0))
        moved = float(page.locator(".page-guide").get_attribute("data-at"))
        assert moved == pytest.approx(at + 60 / sheet["width"] * 419.53, abs=1)
        with answer_shown(page, "/guides/remove"):
            pull(page, (low[0] + 60, low[1]), (ruler["x"] + 5 - low[0] - 60, 0))
        expect(page.locator(".page-guide")).to_have_count(0)
        with page.expect_response("**/undo"):
            page.get_by_role("button", name="Undo", exact=True).click()
        expect(page.locator(".page-guide")).to_have_count(1)

    def test_typed_in_any_unit_and_removed_by_key(self, page, flyer):
        page.locator("details", has_text="Guides, columns and grid").locator("summary").click()
        with answer_shown(page, "/guides"):
            page.get_by_label("Level guide at").fill("2in")
            page.get_by_label("Level guide at").press("Enter")
        expect(page.locator(".page-guide[data-axis=y]")).to_have_attribute("data-at", "144.0")
        page.locator("details", has_text="Guides, columns and grid").locator("summary").click()
        remove = page.get_by_role("button", name="Remove the level guide at 50.8 mm")
        with answer_shown(page, "/guides/remove"):
            remove.press("Enter")
        expect(page.locator(".page-guide")).to_have_count(0)

    def test_columns_and_grid(self, page, flyer):
        page.locator("details", has_text="Guides, columns and grid").locator("summary").click()
        page.get_by_label("Columns").fill("3")
        page.get_by_label("Gutter, mm").fill("4")
        page.get_by_label("Grid, mm").fill("5")
        with answer_shown(page, "/guides/grid"):
            page.locator(".grid-form").get_by_role("button", name="Apply").click()
        expect(page.locator(".grid .column")).to_have_count(3)
        assert page.locator(".grid line").count() > 40
        page.locator("#zoom-label").click()
        page.get_by_role("button", name="Rulers and guides").click()
        expect(page.locator(".edge-ruler").first).to_be_hidden()
        expect(page.locator(".grid .column").first).to_be_hidden()
        page.reload()
        expect(page.locator(".edge-ruler").first).to_be_hidden()

    def test_the_rulers_count_in_the_unit_of_the_person(self, page, flyer):
        desk = page.locator(".desk")
        assert float(desk.get_attribute("data-unit-pt")) == pytest.approx(72 / 25.4)
        page.get_by_label("Unit of length").select_option("in")
        expect(desk).to_have_attribute("data-unit-pt", "72.0")
