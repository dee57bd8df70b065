"""Knowing and preparing pictures, with a real pointer and a real keyboard."""

import base64
import io
import re
import shutil
from pathlib import Path

import numpy as np
import pytest
from PIL import Image
from playwright.sync_api import expect

from tests.e2e.conftest import answer_shown, follow, job_address, middle, paste_picture, place
from tests.support.pictures import photo

DONE = 180_000


@pytest.fixture
def copies():
    """Copies that a test made, taken off the shelf behind it."""
    made: list[Path] = []
    yield made
    for path in made:
        path.unlink(missing_ok=True)


def open_picture(page, name):
    page.goto(f"/pictures?words={name}")
    follow(page.locator(f".tile[data-name='{name}']").first)


def set_field(page, label, text):
    field = page.get_by_label(label, exact=True)
    field.fill(text)
    with answer_shown(page, "/copy/form"):
        field.press("Tab")


def test_a_print_copy_from_the_calculator_to_the_shelf_and_back(page, live, copies):
    open_picture(page, "harbour-morning.jpg")
    page.get_by_label("Change the pixels").check()
    expect(page.get_by_role("link", name="Set up this copy")).to_be_visible()
    follow(page.get_by_role("link", name="Set up this copy"))
    said = page.locator("#copy-said")
    expect(said).to_contain_text("5 184 × 3 456 px, 43.9 × 29.3 cm at 300 ppi")
    expect(page.locator(".spot-pair img")).to_have_count(2, timeout=DONE)

    # Inventing pixels is held until a tick says so.
    make = page.get_by_role("button", name="Make print copy")
    set_field(page, "Width, px", "6000")
    expect(page.locator("#copy-form")).to_contain_text("25 % of the pixels would be interpolated")
    expect(make).to_be_disabled()

    # A crop by the pointer, then exactly 600 px across, as a big-endian TIFF.
    area = page.locator(".crop-area")
    box = area.bounding_box()
    page.mouse.move(box["x"] + box["width"] * 0.25, box["y"] + box["height"] * 0.25)
    page.mouse.down()
    page.mouse.move(box["x"] + box["width"] * 0.75, box["y"] + box["height"] * 0.75, steps=4)
    with answer_shown(page, "/copy/form"):
        page.mouse.up()
    left = int(page.get_by_label("Left, px").input_value())
    assert left == pytest.approx(5184 * 0.25, abs=20)
    set_field(page, "Width, px", "600")
    expect(said).to_contain_text("600 × 400 px")
    expect(said).to_contain_text("the sharper one for shrinking")
    with answer_shown(page, "/copy/form"):
        page.get_by_label("Format").select_option("TIFF")
    with answer_shown(page, "/copy/form"):
        page.get_by_label("Byte order").select_option("big-endian")
    expect(make).to_be_enabled()
    make.click()
    done = page.locator("#copies .made[data-state=done]", has_text="600x")
    expect(done).to_be_visible(timeout=DONE)
    name = done.get_by_role("link").first.inner_text()
    path = live.shelf / name
    copies.append(path)
    with Image.open(path) as image:
        assert image.size[0] == 600 and image.info["dpi"] == (300, 300)
    assert path.read_bytes()[:2] == b"MM"

    # Made again from its recipe: the same bytes.
    before = path.read_bytes()
    path.unlink()
    done.get_by_role("button", name="Make again").click()
    expect(page.locator("#copies")).to_contain_text("the same bytes as before", timeout=DONE)
    assert path.read_bytes() == before
    page.goto("/pictures")
    expect(page.locator(f".tile[data-name='{name}']")).to_contain_text("print copy")


def test_figures_that_make_no_sense_are_told_and_nothing_is_lost(page):
    open_picture(page, "tide-steps.jpg")
    follow(page.get_by_role("link", name="Make a print copy"))
    set_field(page, "Width, px", "-20")
    expect(page.get_by_role("alert")).to_contain_text("must be above 0, not -20")
    expect(page.get_by_role("button", name="Make print copy")).to_be_disabled()
    set_field(page, "Width, px", "300")
    expect(page.locator("#copy-said")).to_contain_text("300 × 200 px")


def test_the_copy_that_a_frame_needs(page, live, copies):
    page.goto("/jobs/new")
    page.get_by_label("Title").fill("Frame card")
    page.get_by_role("button", name="A5", exact=True).click()
    follow(page.get_by_role("button", name="Create job"))
    place(page, "harbour-morning.jpg")
    for label, figure in [("Width, mm", "60"), ("Height, mm", "40")]:
        page.get_by_label(label).fill(figure)
        with answer_shown(page, "/figures"):
            page.get_by_label(label).press("Tab")
    expect(page.locator("#card-head")).to_contain_text("709 × 473 px")
    with answer_shown(page, "/fit"):
        page.get_by_role("button", name="cover the frame").click()
    expect(page.locator("#card-head")).to_contain_text("surplus", ignore_case=True)
    page.wait_for_load_state("networkidle")
    page.get_by_role("button", name="Make print copy").click()
    # arithmetic: 60 × 40 mm at 300 ppi are 709 × 473 px
    title = page.locator(".card-title h2")
    expect(title).to_have_text(re.compile(r"harbour-morning 709x473 300 ppi.*\.tif"), timeout=DONE)
    copies.append(live.shelf / title.inner_text())
    expect(page.locator("#card-ppi")).to_have_text("300")
    expect(page.locator("#card-head")).to_contain_text("60 × 40 mm at 100")
    expect(page.locator(".tag")).to_contain_text("Full")
    page.get_by_role("button", name="Undo").click()
    expect(page.locator(".card-title h2")).to_have_text("harbour-morning.jpg")


def test_a_frame_that_is_too_large_for_its_picture_is_told(page, live, copies):
    page.goto("/jobs/new")
    page.get_by_label("Title").fill("Small picture")
    page.get_by_role("button", name="A5", exact=True).click()
    follow(page.get_by_role("button", name="Create job"))
    place(page, "gull-close.png")
    page.get_by_role("button", name="Make print copy").click()
    expect(page.get_by_role("alert")).to_contain_text("Too small for this frame")
    page.get_by_role("button", name="Make it with the available pixels").click()
    title = page.locator(".card-title h2")
    expect(title).to_have_text(re.compile(r"gull-close 312x233"), timeout=DONE)
    copies.append(live.shelf / title.inner_text())


def test_two_pictures_under_one_glass(page):
    page.goto("/compare")
    expect(page.locator(".empty")).to_contain_text("Choose two pictures")
    for label, name in [("First picture", "fog-signal.jpg"), ("Second picture", "IMG_0412.jpg")]:
        chooser = page.get_by_label(label)
        with page.expect_navigation(wait_until="load"):
            chooser.select_option(label=name)
    expect(page.locator(".getting-ready")).to_have_count(0, timeout=DONE)
    expect(page.locator("#difference")).to_contain_text("1.0000", timeout=DONE)
    expect(page.locator("tr.differs")).to_have_count(1)
    expect(page.locator("tr.differs")).to_contain_text("Rights")

    looks = page.locator(".looks")

    def seen(index):
        canvas = page.locator("canvas").nth(index)
        address = canvas.evaluate("c => c.toDataURL()")
        with Image.open(io.BytesIO(base64.b64decode(address.partition(",")[2]))) as image:
            return np.asarray(image)

    page.get_by_role("button", name="400 %").click()
    expect(looks).to_have_attribute("aria-busy", "false")
    assert page.locator("[data-zoom-of=one]").inner_text() == "400 %"
    first = seen(0)
    assert first.std() > 5 and (first == seen(1)).all(), "the same place on both sides"
    x, y = middle(page.locator("canvas").first)
    page.mouse.move(x, y)
    page.mouse.down()
    page.mouse.move(x - 150, y - 90, steps=4)
    page.mouse.up()
    expect(looks).to_have_attribute("aria-busy", "false")
    moved = seen(0)
    assert not (moved == first).all() and (moved == seen(1)).all(), "both moved alike"
    page.get_by_role("button", name="wipe").click()
    slider = page.get_by_label("Wipe position")
    expect(slider).to_be_visible()
    slider.fill("250")
    assert "25%" in page.locator("canvas").nth(1).evaluate("c => c.style.clipPath")
    page.get_by_role("button", name="fit").click()
    page.locator(".looks").focus()
    for _ in range(40):
        page.keyboard.press("+")
    expect(page.locator("[data-zoom-of=one]")).to_have_text("800 %")


class TestTheAgency:
    def test_a_picture_is_found_fetched_and_credited(self, page):
        page.goto("/agency")
        expect(page.locator("[data-offer]")).to_have_count(25)
        page.get_by_label("Search by word").press_sequentially("lens glass")
        expect(page.locator("[data-offer]")).to_have_count(2)
        page.get_by_label("Licence").select_option("CC0-1.0")
        offer = page.locator("[data-offer=ta-112]")
        expect(page.locator("[data-offer]")).to_have_count(1)
        page.wait_for_load_state("networkidle")
        offer.get_by_role("button", name="Fetch").click()
        expect(offer.get_by_role("link", name="on the shelf")).to_be_visible(timeout=DONE)
        follow(offer.get_by_role("link", name="on the shelf"))
        expect(page.locator("h1")).to_have_text("lens-small-print.jpg")
        expect(page.get_by_label("Licence")).to_have_value("CC0-1.0")
        expect(page.get_by_label("Credit line")).to_have_value("J. Tamm / Tarnholm Agency")

    def test_a_refusal_and_a_delivery_that_breaks_off(self, page):
        page.goto("/agency")
        refused = page.locator("[data-offer=ta-106]")
        refused.get_by_role("button", name="Fetch").click()
        expect(refused.get_by_role("alert")).to_contain_text(
            "reserved for another client", timeout=DONE
        )
        broken = page.locator("[data-offer=ta-108]")
        broken.get_by_role("button", name="Fetch").click()
        expect(broken.get_by_role("alert")).to_contain_text("broke off halfway", timeout=DONE)
        broken.get_by_role("button", name="Fetch again").click()
        expect(broken.get_by_role("link", name="on the shelf")).to_be_visible(timeout=DONE)

    def test_a_slow_delivery_shows_its_progress_and_is_cancelled(self, page):
        page.goto("/agency")
        slow = page.locator("[data-offer=ta-104]")
        slow.get_by_role("button", name="Fetch").click()
        expect(slow.locator("progress")).to_be_visible()
        slow.get_by_role("button", name="cancel").click()
        expect(slow.get_by_role("button", name="Fetch again")).to_be_visible(timeout=DONE)


class TestTheShelf:
    def test_a_folder_is_watched_read_and_left(self, page, tmp_path):
        folder = tmp_path / "client pictures"
        folder.mkdir()
        Image.fromarray(photo(330, 220, seed=41)).save(folder / "from-the-client.jpg")
        (folder / "notes.png").write_text("notes")
        page.goto("/pictures")
        page.get_by_role("button", name="Shelves").click()
        page.get_by_label("Watch a folder").fill(str(folder))
        page.get_by_role("button", name="Watch folder").click()
        expect(page.locator(".looked")).to_contain_text("1 new picture found", timeout=DONE)
        expect(page.locator(".looked")).to_contain_text("notes.png: its content is not a picture")
        tile = page.locator(".tile[data-name='from-the-client.jpg']")
        expect(tile.locator("img")).to_be_visible(timeout=DONE)

        # The folder vanishes: its picture stays known, and the wall says so.
        shutil.move(folder, tmp_path / "away")
        page.get_by_role("button", name="Check for new files").click()
        expect(page.locator(".looked")).to_contain_text("no longer exists", timeout=DONE)
        page.goto("/pictures")
        expect(tile).to_contain_text("file missing")
        page.on("dialog", lambda dialog: dialog.accept())
        page.get_by_role("button", name="Shelves").click()
        row = page.locator(".shelves tr", has_text="client pictures").first
        with page.expect_navigation():
            row.get_by_role("button", name="Stop watching").click()
        expect(tile).to_have_count(0)

    def test_a_picture_from_the_clipboard(self, page, tmp_path):
        page.goto("/pictures")
        Image.fromarray(photo(120, 80, seed=43)).save(tmp_path / "clip.png")
        paste_picture(page, tmp_path / "clip.png")
        expect(page.locator(".upload-sum")).to_contain_text("1 added")
        expect(page.locator(".tile").first).to_have_attribute("data-name", re.compile("^pasted "))

    def test_rights_are_written_down_and_credited(self, page):
        open_picture(page, "north-gallery.jpg")
        page.get_by_label("Licence").fill("cc by-sa 4.0")
        page.get_by_label("Credit line").fill("R. Aske")
        follow(page.get_by_role("button", name="Save rights"))
        expect(page.get_by_label("Licence")).to_have_value("CC-BY-SA-4.0")
        address = job_address(page, "visitor handbook")
        follow(page.get_by_role("link", name="credits"))
        row = page.locator("tbody tr", has_text="north-gallery.jpg")
        expect(row).to_contain_text("CC-BY-SA-4.0")
        expect(page.locator(".credit-line")).to_contain_text("R. Aske (CC-BY-SA-4.0)")
        expect(page.locator(".note.warn")).to_contain_text("no licence stated")
        assert "/pages" in address


@pytest.mark.parametrize(
    "view",
    ["/jobs", "/pictures", "/pictures/6", "/pictures/6/copy", "/compare?one=1&other=2", "/agency"],
)
@pytest.mark.parametrize("width, height", [(1280, 800), (1920, 1080), (960, 600)])
def test_no_view_of_pictures_scrolls_sideways(page, view, width, height):
    page.set_viewport_size({"width": width, "height": height})
    page.goto(view)
    page.wait_for_load_state("networkidle")
    assert page.evaluate("document.documentElement.scrollWidth - innerWidth") <= 0
