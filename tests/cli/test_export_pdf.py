"""`harnet export` of a PDF made elsewhere, against `pdftoppm` and Pillow."""

import subprocess

import numpy
import pikepdf
import pytest
from PIL import Image

from tests.support.command import flyer, harnet


@pytest.fixture
def made_elsewhere(tmp_path):
    """Three pages: a plain one, a turned one with a trim inside its box, one with units of 2 pt."""
    path = tmp_path / "made elsewhere.pdf"
    flyer(path, 300)
    with pikepdf.open(path, allow_overwriting_input=True) as pdf:
        for _ in range(2):
            pdf.pages.append(pdf.pages[0])
        for page in pdf.pages:
            page.MediaBox = pikepdf.Array([0, 0, 360, 288])
        turned, large = pdf.pages[1], pdf.pages[2]
        turned.Rotate = 90
        turned.TrimBox = pikepdf.Array([36, 36, 324, 252])
        large.UserUnit = 2
        pdf.save(path)
    return path


def sizes(folder):
    return [Image.open(path).size for path in sorted(folder.iterdir())]


def test_pixels_by_density_within_the_trim(made_elsewhere, tmp_path):
    out = tmp_path / "out"
    run = harnet("export", made_elsewhere, "--images", out, "--dpi", "100")
    assert run.returncode == 0, run.stderr
    assert "page 1: 500 × 400 px at 100 ppi" in run.stderr, "the table comes first"
    assert sizes(out) == [(500, 400), (300, 400), (1000, 800)]
    assert run.stdout.strip().endswith("3 images, as promised")
    with Image.open(sorted(out.iterdir())[1]) as image:
        assert image.info["dpi"] == pytest.approx((100, 100), abs=0.01)
        ours = numpy.asarray(image.convert("RGB")).astype(int)
    with pikepdf.open(made_elsewhere) as pdf:
        pdf.pages[1].CropBox = pdf.pages[1].TrimBox
        pdf.save(tmp_path / "trim.pdf")
    command = ["pdftoppm", "-r", "100", "-f", "2", "-l", "2", "-cropbox", "-singlefile"]
    subprocess.run([*command, tmp_path / "trim.pdf", tmp_path / "poppler"], check=True)
    theirs = numpy.asarray(Image.open(tmp_path / "poppler.ppm")).astype(int)
    assert abs(ours - theirs).mean() < 4, "what poppler draws"


def test_whole_pages_exact_pixels_and_bytes(made_elsewhere, tmp_path):
    whole = harnet("export", made_elsewhere, "--images", tmp_path / "a", "--bleed", "--dpi", "72")
    assert whole.returncode == 0
    assert sizes(tmp_path / "a") == [(360, 288), (288, 360), (720, 576)]
    wide = harnet(
        *("export", made_elsewhere, "--images", tmp_path / "b", "--width-px", "640"),
        *("--pages", "1", "--format", "tiff", "--inks"),
    )
    assert wide.returncode == 0
    [path] = (tmp_path / "b").iterdir()
    with Image.open(path) as image:
        assert (image.size, image.mode) == ((640, 512), "CMYK")
    small = harnet(
        *("export", made_elsewhere, "--images", tmp_path / "c", "--format", "jpeg"),
        *("--limit-kb", "20", "--dpi", "100", "--pages", "1"),
    )
    assert small.returncode == 0
    [path] = (tmp_path / "c").iterdir()
    assert path.stat().st_size <= 20_000


def test_what_cannot_be(made_elsewhere, tmp_path):
    as_pdf = harnet("export", made_elsewhere, "--pdf", tmp_path / "a.pdf")
    assert as_pdf.returncode == 2
    assert "a PDF is exported as page images" in as_pdf.stderr
    none = harnet("export", made_elsewhere, "--images", tmp_path / "d", "--pages", "7")
    assert none.returncode == 2
    assert "there are pages 1 to 3, not 7" in none.stderr
    assert not (tmp_path / "d").exists()
