"""What is typed while an answer is on its way stays, in every form that an answer replaces."""

import re
from contextlib import contextmanager

import pytest
from playwright.sync_api import expect

from tests.e2e.conftest import follow, job_address


@contextmanager
def answer_held_back(page, address):
    """The next request to an address waits for its answer until the block is left."""
    waiting = []
    page.route(address, lambda route: waiting.append(route), times=1)
    yield
    assert len(waiting) == 1, "nothing was asked for"
    with page.expect_response(address):
        waiting[0].continue_()


def open_copy_form(page):
    page.goto("/pictures?words=tide-steps.jpg")
    follow(page.locator(".tile").first)
    follow(page.get_by_role("link", name="Make a print copy"))


@pytest.mark.parametrize("leave", ["Tab", "Enter"])
def test_a_figure_of_a_print_copy(page, leave):
    open_copy_form(page)
    width = page.get_by_label("Width, px", exact=True)
    with answer_held_back(page, "**/copy/form*"):
        with page.expect_request("**/copy/form*"):
            page.get_by_label("Bits per channel").select_option("8")
        width.fill("300")
    expect(page.get_by_label("Bits per channel")).to_have_value("8")
    expect(width).to_have_value("300")
    expect(width).to_be_focused()
    with page.expect_response("**/copy/form*"):
        width.press(leave)
    expect(page.locator("#copy-said")).to_contain_text("300 × 200 px")


def test_a_figure_of_the_calculator_and_the_place_of_the_keyboard(page):
    page.goto("/pictures?words=harbour-morning.jpg")
    follow(page.locator(".tile").first)
    density = page.get_by_label("Density, ppi")
    with answer_held_back(page, "**/calculator*"):
        page.get_by_label("Width, cm").fill("40")
        with page.expect_request("**/calculator*"):
            page.get_by_label("Width, cm").press("Tab")
        density.fill("72")
    expect(page.get_by_label("Height, cm")).to_have_value("26.667")
    expect(density).to_have_value("72")
    density.press("Tab")
    expect(page.get_by_label("Width, cm")).to_have_value("182.88")
    expect(page.locator("#calculator").get_by_label("Unit")).to_be_focused()


def test_letters_of_a_search_in_the_ledger(page):
    address = job_address(page, "visitor handbook")
    page.goto(address.replace("/pages", "/ledger"))
    words = page.get_by_label("Search by name")
    with answer_held_back(page, "**/ledger?*text=ti*"):
        with page.expect_request("**/ledger?*text=ti*"):
            words.press_sequentially("ti")
        words.press_sequentially("de-st", delay=0)
    expect(words).to_have_value("tide-st")
    expect(words).to_be_focused()
    expect(page.locator("#ledger-form tbody tr").first).to_contain_text("tide-steps")
    expect(page).to_have_url(re.compile("text=tide-st"))
