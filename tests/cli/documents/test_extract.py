"""`harnet extract`, as a person or a script runs it."""

import csv

import pikepdf
import pytest
from PIL import Image

from tests.support.command import flyer, harnet


@pytest.fixture
def two_pages(tmp_path):
    path = tmp_path / "two.pdf"
    flyer(path, 200)
    with pikepdf.open(path, allow_overwriting_input=True) as pdf:
        pdf.pages.append(pdf.pages[0])
        pdf.save(path)
    return path


def test_every_image_and_the_table(two_pages, tmp_path):
    run = harnet("extract", two_pages, "--to", tmp_path / "out")
    assert run.returncode == 0, run.stderr
    assert run.stdout.strip().endswith("1 image and images.csv")
    with (tmp_path / "out" / "images.csv").open() as table:
        rows = list(csv.DictReader(table))
    assert [row["page"] for row in rows] == ["1", "2"], "one object painted on two pages"
    with Image.open(tmp_path / "out" / rows[0]["file"]) as image:
        assert image.size == (int(rows[0]["px_w"]), int(rows[0]["px_h"]))
        assert image.info["dpi"][0] == pytest.approx(float(rows[0]["ppi_x"]), abs=0.02)


def test_pages_and_what_cannot_be(two_pages, tmp_path):
    run = harnet("extract", two_pages, "--to", tmp_path / "out", "--pages", "2")
    assert run.returncode == 0
    assert (tmp_path / "out" / "page 2 image 01.png").exists()
    # A second time, into the same folder: nothing is written over.
    again = harnet("extract", two_pages, "--to", tmp_path / "out", "--pages", "2")
    assert again.returncode == 2
    assert "holds images.csv already" in again.stderr
    none = harnet("extract", two_pages, "--to", tmp_path / "other", "--pages", "3")
    assert (none.returncode, list((tmp_path / "other").iterdir())) == (2, [])
    assert "there are pages 1 to 2, not 3" in none.stderr


def test_an_image_that_cannot_be_decoded_is_told(two_pages, tmp_path):
    with pikepdf.open(two_pages, allow_overwriting_input=True) as pdf:
        image = next(iter(pdf.pages[0].images.values()))
        image.write(b"too short")
        pdf.save(two_pages)
    run = harnet("extract", two_pages, "--to", tmp_path / "out")
    assert run.returncode == 1
    assert "page 1, image 1: its samples are incomplete" in run.stderr
