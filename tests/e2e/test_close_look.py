"""A page image looked at pixel for pixel before it is exported."""

import io

import numpy
import pytest
from PIL import Image
from playwright.sync_api import expect

from tests.e2e.conftest import follow, job_address


@pytest.fixture
def images(page):
    """The form of page images of a page with pictures; its address."""
    page.goto(job_address(page, "visitor handbook").replace("/pages", "/output?kind=image&page=4"))
    return page.url


def pane(page, which):
    return page.locator(f"[data-look={which}]")


def pixels(page, which):
    """What a pane shows, as the server sent it."""
    shown = pane(page, which).locator("img")
    expect(shown).to_be_visible()
    data = page.request.get(shown.get_attribute("src")).body()
    return numpy.asarray(Image.open(io.BytesIO(data)).convert("RGB"), int)


def test_the_pixels_that_leave_before_and_after(page, images):
    expect(pane(page, "now")).to_contain_text("300 ppi")
    dense = pixels(page, "now")
    assert dense.shape == (320, 320, 3)
    assert pane(page, "before").count() == 0
    page.get_by_label("72 ppi", exact=True).check()
    expect(pane(page, "now")).to_contain_text("72 ppi")
    expect(pane(page, "before")).to_contain_text("300 ppi")
    assert (pixels(page, "before") == dense).all()
    assert pixels(page, "now").shape == (320, 320, 3)
    page.locator("select[name=format]").select_option("jpeg")
    expect(pane(page, "now")).to_contain_text("JPEG quality 90")
    expect(pane(page, "before")).to_contain_text("72 ppi")
    expect(pane(page, "before")).to_contain_text("PNG")
    first, second = pixels(page, "before"), pixels(page, "now")
    assert 0 < numpy.abs(first - second).mean() < 8, "the marks of JPEG alone"


def test_they_are_the_pixels_of_the_export(page, images):
    page.get_by_label("72 ppi", exact=True).check()
    expect(pane(page, "now")).to_contain_text("72 ppi")
    shown = pixels(page, "now")
    page.get_by_role("button", name="Export images").click()
    made = page.locator(".made", has_text="4.png").get_by_role("link", name="Download").first
    expect(made).to_be_visible()
    data = page.request.get(made.get_attribute("href")).body()
    exported = numpy.asarray(Image.open(io.BytesIO(data)).convert("RGB"), int)
    height, width = exported.shape[:2]
    left, top = round(width / 2 - 160), round(height / 2 - 160)
    assert (exported[top : top + 320, left : left + 320] == shown).all()


def test_one_looks_elsewhere_by_click_and_by_key(page, images):
    image = pane(page, "now").locator("img")
    expect(image).to_be_visible()
    first = image.get_attribute("src")
    page.locator("[data-look-map]").click(position={"x": 20, "y": 20})
    expect(image).not_to_have_attribute("src", first)
    second = image.get_attribute("src")
    page.locator("[data-look-map]").press("ArrowDown")
    expect(image).not_to_have_attribute("src", second)
    expect(page.locator("[data-look-map]")).to_be_focused()


def test_what_cannot_be_is_said(page, images):
    page.get_by_label("Custom density in ppi").fill("20")
    expect(page.locator("#close-look")).to_contain_text("72 to 1200 ppi")
    page.get_by_label("Custom density in ppi").fill("96")
    expect(pane(page, "now")).to_contain_text("96 ppi")


def test_a_page_too_large_to_be_shown(page):
    page.goto(job_address(page, "Quay banner").replace("/pages", "/output?kind=image"))
    page.get_by_label("300 ppi", exact=True).check()
    expect(page.locator("#close-look")).to_contain_text("Export it to see it")
    follow(page.get_by_role("link", name="PDF", exact=True))
    expect(page.locator("#close-look")).to_have_count(0)
