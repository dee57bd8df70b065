"""Trying Harnet with samples from the guide, and throwing them away."""

import re

from playwright.sync_api import expect

from tests.e2e.conftest import follow, job_address, open_document


def test_a_sample_flyer_and_its_end(page):
    page.goto("/guide")
    follow(page.get_by_role("button", name="Open a sample flyer"))
    expect(page.locator(".job-name")).to_contain_text("Sample flyer")
    expect(page.locator(".item.picture")).to_have_count(3)
    expect(page.locator(".item.picture[aria-label^='sample gulls']")).to_be_visible()
    follow(page.get_by_role("link", name="Preflight"))
    expect(page.locator(".finding", has_text="sample gulls.jpg").first).to_contain_text(
        "90 ppi, 210 short of 300"
    )
    page.goto("/guide")
    follow(page.get_by_role("button", name="Add sample pictures"))
    expect(page.locator(".tile[data-name='sample harbour.jpg']")).to_be_visible()
    page.goto("/jobs")
    expect(page.locator(".job-row", has_text="Sample flyer")).to_be_visible()
    follow(page.get_by_role("button", name="Throw the samples away"))
    expect(page.locator(".job-row", has_text="Sample flyer")).to_have_count(0)
    expect(page.get_by_role("button", name="Throw the samples away")).to_have_count(0)


def test_a_sample_pdf_is_checked(page):
    page.goto("/guide")
    follow(page.get_by_role("button", name="Check a sample PDF"))
    expect(page.locator("main")).to_contain_text("sample leaflet.pdf")
    expect(page.locator("tbody tr", has_text="coarse").first).to_be_visible()
    page.goto("/jobs")
    follow(page.get_by_role("button", name="Throw the samples away"))
    page.goto("/documents")
    expect(page.get_by_text("sample leaflet.pdf")).to_have_count(0)


def test_why_beside_each_verdict(page):
    page.goto(job_address(page, "visitor handbook").replace("/pages", "/preflight"))
    dialog = page.get_by_role("dialog", name="Details")
    page.locator(".finding-side").get_by_role("button", name="why?").click()
    expect(dialog).to_contain_text("gull-close.png: why coarse?")
    expect(dialog).to_contain_text("312 × 233 pixels")
    expect(dialog).to_contain_text("61 is below the floor")
    expect(dialog.locator("figure")).to_have_count(3)
    page.keyboard.press("Escape")
    expect(dialog).to_be_hidden()
    page.goto(page.url.replace("/preflight", "/ledger"))
    page.get_by_role("button", name="Why full?").first.click()
    expect(dialog).to_contain_text("is enough: it may grow to")
    dialog.get_by_role("button", name="Close").click()
    page.goto(page.url.replace("/ledger", "/pages?page=4"))
    page.locator(".item.picture[aria-label^='gull-close']").click()
    page.locator(".card-title").get_by_role("button", name="why?").click()
    expect(dialog).to_contain_text("why coarse?")


def test_why_an_image_of_a_pdf_has_its_verdict(page):
    open_document(page, "harbour festival leaflet.pdf")
    page.get_by_role("button", name=re.compile("^Why (coarse|thin)")).first.click()
    dialog = page.get_by_role("dialog", name="Details")
    expect(dialog).to_contain_text("pixels for each inch")
    expect(dialog).to_contain_text("Coated press asks 300 ppi")
