"""By the guide alone: a leaflet of four pages and eight pictures leaves as a proven PDF."""

import re

from playwright.sync_api import expect

from tests.e2e.conftest import answer_shown, follow

PAGES, FRAMES = 4, ((0.1, 0.08), (0.1, 0.52))


def draw_frame(page, left, top):
    """“Draw empty frames first and fill them”."""
    page.get_by_role("button", name="Add", exact=True).click()
    page.get_by_role("button", name="Picture frame", exact=True).click()
    sheet = page.locator(".sheet .trim-edge").first.bounding_box()
    x, y = sheet["x"] + left * sheet["width"], sheet["y"] + top * sheet["height"]
    page.mouse.move(x, y)
    page.mouse.down()
    page.mouse.move(x + 0.5 * sheet["width"], y + 0.3 * sheet["height"], steps=5)
    with answer_shown(page, "/draw"):
        page.mouse.up()
    expect(page.locator("h2", has_text="Empty frame")).to_be_visible()


def test_a_leaflet_by_the_guide(page, tmp_path):
    page.goto("/guide")
    follow(page.get_by_role("link", name="Lay out pages"))
    follow(page.get_by_role("link", name="Jobs", exact=True))
    follow(page.get_by_role("link", name="New job"))
    page.get_by_label("Title").fill("Leaflet by the guide")
    page.get_by_role("button", name="A5", exact=True).click()
    expect(page.get_by_label("Width", exact=True)).to_have_value("148")
    page.get_by_label("Pages", exact=True).fill(str(PAGES))
    follow(page.get_by_role("button", name="Create job"))
    for number in range(1, PAGES + 1):
        if number > 1:
            page.locator(f".film [data-film='{number}']").click()
            expect(page.locator(".desk")).to_have_attribute("data-page", str(number))
        for index, (left, top) in enumerate(FRAMES):
            draw_frame(page, left, top)
            with answer_shown(page, "/place"):
                page.locator(".place-list .place").nth(index).click()
            expect(page.locator(".sheet .item.picture")).to_have_count(index + 1)
    expect(page.locator(".job-bar")).to_contain_text("8 placed")
    follow(page.get_by_role("link", name=re.compile("^Preflight")))
    expect(page.get_by_text("Gate open")).to_be_visible()
    follow(page.get_by_role("link", name="Output"))
    page.get_by_role("button", name=re.compile("^Export PDF")).click()
    receipt = page.locator(".made").get_by_role("link", name="Receipt")
    follow(receipt.first)
    expect(page.locator("main")).to_contain_text("Every promise was kept")
    expect(page.locator("main")).to_contain_text("4 of 4 pages")
