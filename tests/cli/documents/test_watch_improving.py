"""`harnet watch --improve`: copies of what falls short, of originals that are there or arrive."""

import json
import shutil
import subprocess

import pytest
from PIL import Image
from reportlab.lib.utils import ImageReader
from reportlab.pdfgen.canvas import Canvas

from tests.support.command import flyer, harnet
from tests.support.schemas import report_validator
from tests.trials.registration import photographs


@pytest.fixture
def inbox(tmp_path):
    folder = tmp_path / "inbox"
    folder.mkdir()
    (tmp_path / "originals").mkdir()
    return folder


def original():
    return Image.fromarray(photographs()["coffee"]).resize((1200, 800))


def poor(path):
    canvas = Canvas(str(path), pagesize=(400, 400))
    canvas.drawImage(ImageReader(original().resize((300, 200))), 20, 200, 240, 160)
    canvas.save()


def looked(inbox):
    run = harnet(
        *("watch", inbox, "--once", "--target", "200"),
        *("--improve", "--from", inbox.parent / "originals"),
    )
    assert run.returncode == 0, run.stderr
    return run


def test_copies_come_and_go_with_what_they_are_made_of(inbox):
    poor(inbox / "poor.pdf")
    flyer(inbox / "fine.pdf", 72)
    assert "poor.pdf: no originals found" in looked(inbox).stdout
    assert not (inbox / "improved").exists()
    # An original that arrives later is taken up; what is fine is not looked at again.
    original().save(inbox.parent / "originals" / "cup.jpg", quality=95)
    run = looked(inbox)
    assert run.stdout == "poor.pdf: 1 image replaced, 0 still short: improved/poor.pdf\n"
    copy, receipt = inbox / "improved" / "poor.pdf", inbox / "improved" / "poor.pdf.receipt.json"
    told = json.loads(receipt.read_text())
    report_validator("improved-copy.schema.json").validate(told)
    listed = subprocess.run(["pdfimages", "-list", copy], capture_output=True, check=True)
    assert float(listed.stdout.decode().splitlines()[2].split()[12]) == pytest.approx(300, abs=1)
    about = json.loads((inbox / "poor.pdf.check.json").read_text())
    assert about["improved"]["copy"] == "improved/poor.pdf"
    assert looked(inbox).stdout == "", "nothing changed"
    # The copies are no PDFs that arrived.
    assert not list((inbox / "improved").glob("*.check.json"))
    (inbox / "poor.pdf").unlink()
    looked(inbox)
    assert not copy.exists() and not receipt.exists()


def test_a_pdf_that_falls_short_no_longer_has_no_copy(inbox):
    original().save(inbox.parent / "originals" / "cup.jpg", quality=95)
    poor(inbox / "flyer.pdf")
    looked(inbox)
    assert (inbox / "improved" / "flyer.pdf").exists()
    flyer(inbox / "flyer.pdf", 72)
    looked(inbox)
    assert not (inbox / "improved" / "flyer.pdf").exists()


def test_what_cannot_be(inbox):
    poor(inbox / "poor.pdf")
    run = harnet("watch", inbox, "--once", "--improve")
    assert run.returncode == 2 and "say where the originals are" in run.stderr
    run = harnet("watch", inbox, "--once", "--improve", "--from", inbox / "gone")
    assert run.returncode == 2 and "no such folder" in run.stderr
    # One that cannot be read keeps nobody waiting, and a copy that cannot be written is said.
    (inbox / "broken.pdf").write_bytes(b"no")
    (inbox / "improved").write_text("in the way")
    original().save(inbox.parent / "originals" / "cup.jpg", quality=95)
    run = looked(inbox)
    assert "poor.pdf: not improved" in run.stderr
    shutil.rmtree(inbox.parent / "originals")
