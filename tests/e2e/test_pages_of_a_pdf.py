"""A page of somebody else's PDF placed in a job: chosen by its drawing, judged by its images."""

from playwright.sync_api import expect

from tests.e2e.conftest import answer_shown, follow

NAME = "quay fair programme.pdf"


def new_job(page, title):
    page.goto("/jobs/new")
    page.get_by_label("Title").fill(title)
    page.get_by_role("button", name="A5", exact=True).click()
    follow(page.get_by_role("button", name="Create job"))


def test_a_page_is_chosen_and_its_images_count(page):
    new_job(page, "Fair guide")
    with answer_shown(page, "/pages/pictures"):
        page.get_by_label("Search pictures by name").fill("quay fair")
    many = page.locator("#place-list .place", has_text=NAME)
    expect(many).to_contain_text("2 pages")
    many.click()
    dialog = page.get_by_role("dialog", name="Details")
    expect(dialog).to_contain_text(f"Pages of {NAME}")
    second = dialog.get_by_role("button", name="Page 2")
    expect(second.locator("img")).to_have_js_property("complete", True)
    with answer_shown(page, "/pages/place"):
        second.click()
    expect(dialog).to_be_hidden()
    expect(page.locator(".card-title h2")).to_have_text("quay fair programme page 2.pdf")
    # arithmetic: its poorest images have 127 ppi, and it came half as wide as it is.
    expect(page.locator("#card-ppi")).to_have_text("254")
    follow(page.get_by_role("link", name="Ledger"))
    row = page.locator("tbody tr", has_text="quay fair programme page 2.pdf")
    expect(row).to_contain_text("254")
