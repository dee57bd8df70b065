"""PDFs that need a password: extracted, drawn and improved with it; copies are locked as before."""

import hashlib
import json
import subprocess

import pikepdf
import pytest
from PIL import Image
from reportlab.lib.utils import ImageReader
from reportlab.pdfgen.canvas import Canvas

from tests.support.command import harnet
from tests.trials.registration import photographs

USER, OWNER = "quay 17", "harbour master"


@pytest.fixture(scope="module", params=[4, 6], ids=["AES-128", "AES-256"])
def locked(request, tmp_path_factory):
    """A locked PDF with an image whose original lies beside it, and may not be copied from."""
    folder = tmp_path_factory.mktemp("locked")
    (folder / "shelf").mkdir()
    large = Image.fromarray(photographs()["coffee"]).resize((1200, 800))
    large.save(folder / "shelf" / "cup.jpg", quality=95)
    canvas = Canvas(str(folder / "plain.pdf"), pagesize=(400, 400))
    canvas.drawString(20, 40, "Coffee on the quay")
    canvas.drawImage(ImageReader(large.resize((300, 200))), 20, 200, 240, 160)
    canvas.save()
    allow = pikepdf.Permissions(extract=False, modify_other=False)
    encryption = pikepdf.Encryption(owner=OWNER, user=USER, R=request.param, allow=allow)
    with pikepdf.open(folder / "plain.pdf") as pdf:
        pdf.save(folder / "locked.pdf", encryption=encryption)
    return folder


@pytest.mark.parametrize(
    "command",
    [
        ("check", "--report"),
        ("extract", "--to"),
        ("export", "--images"),
        ("improve", "--dry-run", "--out"),
    ],
    ids=lambda one: one[0],
)
def test_without_it_or_with_another_nothing_is_written(locked, tmp_path, command):
    name, *options = command
    run = harnet(name, locked / "locked.pdf", *options, tmp_path / "out")
    assert run.returncode == 2
    assert "is encrypted and needs a password" in run.stderr
    run = harnet(name, locked / "locked.pdf", *options, tmp_path / "out", "--password", "no")
    assert run.returncode == 2
    assert "this is not its password" in run.stderr
    out = tmp_path / "out"
    assert not out.exists() or not list(out.iterdir())


def test_it_is_checked_and_reported(locked, tmp_path):
    report = tmp_path / "report.json"
    run = harnet(
        *("check", locked / "locked.pdf", "--password", USER, "--target", "200"),
        *("--format", "json", "--report", report, "--notes", tmp_path / "noted.pdf"),
    )
    assert run.returncode == 1, "it falls short"
    [image] = json.loads(run.stdout)["images"]
    assert (image["px_w"], image["ppi_min"]) == (300, pytest.approx(90))
    sha256 = hashlib.sha256((locked / "locked.pdf").read_bytes()).hexdigest()
    assert json.loads(report.read_text())["sha256"] == sha256, "of the file as it lies"
    with pikepdf.open(tmp_path / "noted.pdf") as noted:
        assert len(noted.pages[0].Annots) == 1


def test_images_and_pages_leave(locked, tmp_path):
    images, pages = tmp_path / "images", tmp_path / "pages"
    run = harnet("extract", locked / "locked.pdf", "--to", images, "--password", USER)
    assert run.returncode == 0, run.stderr
    with Image.open(images / "page 1 image 01.png") as image:
        assert image.size == (300, 200)
    run = harnet(
        *("export", locked / "locked.pdf", "--images", pages, "--dpi", "72", "--password", OWNER)
    )
    assert run.returncode == 0, run.stderr
    [page] = pages.iterdir()
    with Image.open(page) as image:
        assert image.size == (400, 400)
        assert len(image.getcolors(1 << 20)) > 100, "the photograph is drawn"


@pytest.mark.parametrize("password", [USER, OWNER])
def test_an_improved_copy_is_locked_as_before(locked, tmp_path, password):
    copy = tmp_path / "copy.pdf"
    run = harnet(
        *("improve", locked / "locked.pdf", "--from", locked / "shelf", "--target", "200"),
        *("--out", copy, "--password", password),
    )
    assert run.returncode == 0, run.stderr
    assert "same encryption and permissions" in run.stderr
    with pytest.raises(pikepdf.PasswordError):
        pikepdf.open(copy)
    for one in (USER, OWNER):
        with (
            pikepdf.open(locked / "locked.pdf", password=one) as before,
            pikepdf.open(copy, password=one) as after,
        ):
            assert after.allow == before.allow
            assert after.encryption.R == before.encryption.R
    listed = subprocess.run(
        ["pdfimages", "-list", "-upw", USER, copy], capture_output=True, text=True, check=True
    )
    cells = listed.stdout.splitlines()[2].split()
    assert float(cells[12]) == pytest.approx(300, abs=1), "1.5 × the target, as poppler sees it"
