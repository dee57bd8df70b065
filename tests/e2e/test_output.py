"""What leaves: trimmed and light PDFs, and pages as images, driven as designers do."""

import subprocess
from zipfile import ZipFile

import pytest
from PIL import Image
from playwright.sync_api import expect

from tests.e2e.conftest import follow, job_address

LONG = 180_000


@pytest.fixture
def screens(page):
    address = job_address(page, "Ticket-hall screens").replace("/pages", "/output")
    page.goto(address)
    return address


def finished(page, words):
    """The output made last, once it is done."""
    made = page.locator(".made[data-state=done]", has_text=words).first
    expect(made).to_be_visible(timeout=LONG)
    return made


def got(page, made, path):
    with page.expect_download() as download:
        made.get_by_role("link", name="Download").click()
    download.value.save_as(path)
    return path


def densities(path):
    listed = subprocess.run(
        ["pdfimages", "-list", path], capture_output=True, text=True, check=True
    ).stdout.splitlines()
    return [int(line.split()[12]) for line in listed[2:]]


def test_trimming_says_before_what_poppler_finds_after(page, screens, tmp_path):
    page.get_by_text("Trim the excess").click()
    plan = page.locator("#pdf-plan tr", has_text="harbour-morning.jpg")
    # 259 ppi in a job of 96: above 1.5 times that.
    expect(plan).to_contain_text("downsampled from 5 184 × 3 456 to 1 920 × 1 280 px")
    page.get_by_label("Downsample to").fill("120")
    page.get_by_role("textbox", name="Only pictures above").fill("1")
    page.get_by_role("textbox", name="Only pictures above").blur()
    expect(plan).to_contain_text("to 2 400 × 1 600 px")
    page.get_by_role("button", name="Export PDF").click()
    made = finished(page, "excess trimmed")
    expect(made).to_contain_text("3 of 3 pictures as promised")
    found = densities(got(page, made, tmp_path / "trimmed.pdf"))
    assert max(found) == 120 and len(found) == 3
    # The settings are remembered for the job.
    page.reload()
    expect(page.get_by_label("Downsample to")).to_have_value("120")
    page.get_by_text("Light to send").click()
    page.get_by_role("button", name="Export PDF").click()
    light = got(page, finished(page, "light"), tmp_path / "light.pdf")
    # Light leaves alone what is within a tenth of 150 ppi.
    assert max(densities(light)) <= 165
    page.get_by_text("Keep every pixel").click()
    page.get_by_role("button", name="Export PDF").click()
    kept = got(page, finished(page, "every pixel kept"), tmp_path / "kept.pdf")
    sizes = [path.stat().st_size for path in (light, tmp_path / "trimmed.pdf", kept)]
    assert sizes == sorted(sizes)


def test_a_threshold_that_makes_no_sense_is_told(page, screens):
    page.get_by_text("Trim the excess").click()
    page.get_by_role("textbox", name="Only pictures above").fill("0.5")
    page.get_by_role("button", name="Export PDF").click()
    expect(page.locator("#notice")).to_contain_text("threshold is between 1 and 10")


def test_all_pages_as_numbered_images_and_again(page, screens, tmp_path):
    follow(page.get_by_role("link", name="Page images"))
    page.get_by_label("all 3, as a ZIP").check()
    page.locator("select[name=format]").select_option("jpeg")
    page.get_by_label("Pixels wide").fill("640")
    page.get_by_role("button", name="Export images").click()
    made = finished(page, "3 pages.zip")
    expect(made).to_contain_text("3 of 3 images with the pixels and the tag promised")
    with ZipFile(got(page, made, tmp_path / "pages.zip")) as pack:
        names = pack.namelist()
        assert names == [f"Ticket-hall screens page {number}.jpg" for number in (1, 2, 3)]
        for name in names:
            with pack.open(name) as file, Image.open(file) as image:
                assert image.size == (640, 360)
    before = page.locator(".made[data-state=done]", has_text="3 pages.zip").count()
    made.get_by_role("button", name="Make again").click()
    again = page.locator(".made[data-state=done]", has_text="3 pages.zip")
    expect(again).to_have_count(before + 1, timeout=LONG)
    follow(again.first.get_by_role("link", name="Receipt"))
    expect(page.locator(".note")).to_contain_text("page 3: 640 × 360 px found")


def test_pages_that_are_none_are_told(page, screens):
    follow(page.get_by_role("link", name="Page images"))
    page.get_by_label("Pages by number").fill("2-9")
    page.get_by_role("button", name="Export images").click()
    expect(page.locator("#notice")).to_contain_text("There are pages 1 to 3, not 2-9")
