"""The press loupe on the pages, in preflight and on a picture."""

import io
import urllib.request

import numpy
import pytest
from PIL import Image
from playwright.sync_api import expect

from tests.e2e.conftest import answer_shown, follow, job_address, middle, place


@pytest.fixture
def loupe(page):
    return page.get_by_role("complementary", name="Press loupe")


def settled(loupe):
    """Waits until the loupe shows what it asked for last; its drawing now."""
    loupe.page.wait_for_function(
        """() => {
            const { asked, shown } = document.querySelector("#loupe").dataset;
            return asked && asked === shown;
        }"""
    )
    expect(loupe).to_contain_text("as it prints")
    return loupe.locator("#loupe-now").get_attribute("src")


def drawn(loupe, which):
    """What one of the two drawings shows, as pixels."""
    with urllib.request.urlopen(loupe.locator(f"#loupe-{which}").get_attribute("src")) as data:
        return numpy.asarray(Image.open(io.BytesIO(data.read())).convert("RGB"), float)


@pytest.fixture
def enlarged(page):
    """A page with a picture of 61 ppi, five times short of its target; its address."""
    page.goto("/jobs/new")
    page.get_by_label("Title").fill("Under the loupe")
    page.get_by_role("button", name="A4", exact=True).click()
    expect(page.get_by_label("Width", exact=True)).to_have_value("210")
    follow(page.get_by_role("button", name="Create job"))
    address = page.url.split("?")[0]
    place(page, "fog-signal.jpg")
    page.locator(".figures [name=density]").fill("61")
    with answer_shown(page, "/figures"):
        page.locator(".figures [name=density]").press("Enter")
    return address


class TestOnThePages:
    def test_it_follows_the_pointer_and_a_click_holds_it(self, page, loupe, enlarged):
        page.keyboard.press("l")
        x, y = middle(page.locator(".item.selected polygon.outline"))
        page.mouse.move(x - 40, y - 40)
        expect(loupe).to_contain_text("as it prints: 61 ppi")
        expect(loupe).to_contain_text("at 300 ppi: printed at 20 % of this size")
        expect(loupe).to_contain_text("Coated press, 175 lpi")
        src = settled(loupe)
        page.mouse.move(x - 10, y)
        assert settled(loupe) != src
        page.mouse.click(x - 10, y)
        mark = page.locator("#loupe-mark")
        settled(loupe)
        held = mark.get_attribute("x")
        page.mouse.move(x + 60, y + 10)
        page.keyboard.press("ArrowRight")
        expect(mark).to_have_attribute("x", str(float(held) + 2))
        page.keyboard.press("Escape")
        expect(loupe).to_be_hidden()
        expect(mark).to_have_count(0)

    def test_where_no_picture_lies(self, page, loupe, enlarged):
        page.get_by_role("button", name="Loupe", exact=True).click()
        edge = page.locator(".sheet .trim-edge").bounding_box()
        page.mouse.move(edge["x"] + edge["width"] - 2, edge["y"] + edge["height"] - 2)
        expect(loupe).to_contain_text("No picture lies here")
        loupe.get_by_role("button", name="Close").click()
        expect(loupe).to_be_hidden()

    def test_settings_of_the_press_change_what_prints(self, page, loupe, enlarged):
        page.keyboard.press("l")
        page.mouse.move(*middle(page.locator(".item.selected polygon.outline")))
        page.mouse.click(*middle(page.locator(".item.selected polygon.outline")))
        settled(loupe)
        fine = drawn(loupe, "now")
        loupe.get_by_text("Press settings").click()
        loupe.get_by_label("Line screen").fill("60")
        expect(loupe).to_contain_text("60 lpi")
        settled(loupe)
        coarse = drawn(loupe, "now")
        # Fewer, larger dots: less changes from one pixel to the next.
        fine_steps, coarse_steps = (
            numpy.abs(numpy.diff(one.mean(axis=2))).mean() for one in (fine, coarse)
        )
        assert coarse_steps < fine_steps
        loupe.get_by_label("Dot gain at 50 %").fill("40")
        settled(loupe)
        assert drawn(loupe, "now").mean() < coarse.mean() - 5
        loupe.get_by_label("Line screen").fill("9")
        expect(loupe).to_contain_text("between 10 and 400 lpi")
        loupe.get_by_role("button", name="Customary settings").click()
        expect(loupe).to_contain_text("175 lpi")

    def test_from_two_metres(self, page, loupe, enlarged):
        page.keyboard.press("l")
        page.mouse.click(*middle(page.locator(".item.selected polygon.outline")))
        near = settled(loupe)
        loupe.get_by_label("as seen from").check()
        assert settled(loupe) != near
        # A degree of sight from 2 m is 34.9 mm: 98.96 pt.
        width = float(page.locator("#loupe-mark").get_attribute("width"))
        assert width == pytest.approx(98.96, abs=0.1)

    def test_the_screen_ruling_is_seen_at_eight_times(self, page, loupe, enlarged):
        page.keyboard.press("l")
        page.mouse.click(*middle(page.locator(".item.selected polygon.outline")))
        settled(loupe)
        width = float(page.locator("#loupe-mark").get_attribute("width"))
        # 220 pixels at 8 × 96 to the inch.
        assert width == pytest.approx(220 / 768 * 72, abs=0.01)


def test_in_preflight(page, loupe):
    page.goto(job_address(page, "visitor handbook").replace("/pages", "/preflight"))
    page.get_by_role("button", name="Show how it prints").click()
    surface = page.locator("[data-loupe-surface]")
    page.mouse.move(*middle(surface))
    expect(loupe).to_contain_text("lpi")
    first = settled(loupe)
    x, y = middle(surface)
    page.mouse.move(x + 30, y + 20)
    assert settled(loupe) != first


def test_on_a_picture(page, loupe):
    page.goto("/pictures")
    page.get_by_role("searchbox").first.fill("fog-signal")
    follow(page.get_by_role("link", name="fog-signal.jpg").first)
    page.get_by_role("button", name="Press loupe").click()
    expect(loupe).to_contain_text("as it prints: 150 ppi")
    expect(loupe).to_contain_text("at 300 ppi: printed at 50 % of this size")
    loupe.get_by_label("Printed at").fill("600")
    expect(loupe).to_contain_text("at the target’s 300 ppi: no more is needed")
    loupe.get_by_label("Target").select_option("screen")
    expect(loupe).to_contain_text("no line screen")
