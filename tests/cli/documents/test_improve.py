"""`harnet improve`, as a person or a script runs it."""

import json
import signal
import subprocess
import time

import pikepdf
import pytest
from PIL import Image
from reportlab.lib.utils import ImageReader
from reportlab.pdfgen.canvas import Canvas

from tests.support.command import HARNET, harnet
from tests.support.schemas import report_validator
from tests.trials.registration import photographs


@pytest.fixture(scope="module")
def case(tmp_path_factory):
    """A PDF with an image whose original is there and one whose is not; and the folder."""
    folder = tmp_path_factory.mktemp("case")
    shelf = folder / "originals" / "2026"
    shelf.mkdir(parents=True)
    coffee = Image.fromarray(photographs()["coffee"])
    large = coffee.resize((1800, 1200), Image.Resampling.LANCZOS)
    large.save(shelf / "cup.jpg", quality=93)
    (shelf / "notes.txt").write_text("no picture")
    (shelf / "broken.png").write_bytes(b"no picture either")
    canvas = Canvas(str(folder / "poor.pdf"), pagesize=(400, 400))
    small = large.resize((400, 300), Image.Resampling.LANCZOS, box=(100, 0, 1700, 1200))
    canvas.drawImage(ImageReader(small), 20, 200, 200, 150)
    gravel = Image.fromarray(photographs()["gravel"]).resize((100, 100))
    canvas.drawImage(ImageReader(gravel), 250, 200, 100, 100)
    canvas.save()
    return folder


def test_the_plan_is_shown_and_nothing_written(case):
    before = sorted(case.iterdir())
    run = harnet("improve", case / "poor.pdf", "--from", case / "originals", "--dry-run")
    assert run.returncode == 1, "one image stays short"
    assert "cup.jpg" in run.stdout
    assert "no original found" in run.stdout
    assert "1 of 2 images replaced, 1 still short of the target" in run.stdout
    assert sorted(case.iterdir()) == before


def test_a_copy_with_its_receipt(case, tmp_path):
    copy, receipt = tmp_path / "better.pdf", tmp_path / "receipt.json"
    run = harnet(
        *("improve", case / "poor.pdf", "--from", case / "originals", "--target", "200"),
        *("--out", copy, "--receipt", receipt, "--no-more", "--format", "json"),
    )
    assert run.returncode == 1, run.stderr
    told = json.loads(run.stdout)
    assert told == json.loads(receipt.read_text())
    report_validator("improved-copy.schema.json").validate(told)
    first = next(row for row in told["images"] if row["fate"] == "replaced")
    assert (first["original"], first["new_ppi"]) == ("cup.jpg", pytest.approx(200, abs=0.5))
    assert told["is_proven"]
    check = harnet("check", copy, "--target", "200", "--format", "json")
    densities = [row["ppi_min"] for row in json.loads(check.stdout)["images"]]
    assert densities[0] == pytest.approx(first["new_ppi"], abs=0.1), "as promised"
    with pikepdf.open(copy) as pdf:
        assert len(pdf.pages) == 1


def test_what_cannot_be(case, tmp_path):
    nothing = harnet("improve", case / "poor.pdf", "--from", case / "originals")
    assert nothing.returncode == 2
    assert "say where the copy goes" in nothing.stderr
    over = harnet("improve", case / "poor.pdf", "--out", case / "poor.pdf")
    assert over.returncode == 2
    assert "the original is never overwritten" in over.stderr
    folder = harnet("improve", case / "poor.pdf", "--from", tmp_path / "no", "--dry-run")
    assert folder.returncode == 2
    assert "it is not a folder" in folder.stderr
    no_pdf = harnet("improve", case / "originals" / "2026" / "cup.jpg", "--dry-run")
    assert no_pdf.returncode == 2


def test_standard_input_is_a_file_like_any_other(case, tmp_path):
    copy = tmp_path / "better.pdf"
    command = [HARNET, "improve", "-", "--from", case / "originals", "--out", copy, "--quiet"]
    with (case / "poor.pdf").open("rb") as file:
        run = subprocess.run(command, stdin=file, capture_output=True, text=True, check=False)
    assert run.returncode == 1, "one image stays short"
    assert copy.exists()
    assert run.stderr == ""


@pytest.mark.parametrize(("number", "code"), [(signal.SIGINT, 130), (signal.SIGTERM, 143)])
def test_an_interruption_leaves_nothing_and_says_so(case, tmp_path, number, code):
    command = [HARNET, "improve", case / "poor.pdf", "--from", case / "originals", "--out"]
    run = subprocess.Popen([*command, tmp_path / "out" / "copy.pdf"], stderr=subprocess.PIPE)
    until = time.monotonic() + 60
    # The folder it works in is there while the copy is made.
    while not (tmp_path / "out").exists() and time.monotonic() < until:
        time.sleep(0.02)
    run.send_signal(number)
    run.communicate(timeout=60)
    assert run.returncode == code
    assert list((tmp_path / "out").iterdir()) == []
