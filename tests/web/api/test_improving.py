"""What a program makes of a checked PDF: plan, copy, receipt, files; against poppler and Pillow."""

import csv
import io
import subprocess
import zipfile

import pikepdf
import pytest
from PIL import Image
from reportlab.lib.utils import ImageReader
from reportlab.pdfgen.canvas import Canvas

from harnet.studio.documents.keeping import read_pdf
from harnet.studio.documents.making.carrying_out import do_document_work
from harnet.studio.people.tokens import make_token
from tests.support.api import Program
from tests.support.schemas import report_validator
from tests.trials.registration import photographs

QUAY = "quay 17"


@pytest.fixture
def program(client, studio):
    with studio.session() as session:
        return Program(client, make_token(session, "nightly")[1])


@pytest.fixture
def do(program, studio):
    """Asks for work on a check and has it done; what became of it."""

    def asked(what, number=1, json=None):
        sent = {} if json is None else {"json": json}
        work = program.asks("POST", f"/checks/{number}/{what}", 202, **sent)
        assert work["state"] == "waiting"
        do_document_work(studio, work["id"])
        return program.asks("GET", f"/works/{work['id']}")

    return asked


def photograph():
    return Image.fromarray(photographs()["coffee"]).resize((1200, 800))


def poor_pdf(**locked):
    """Page 1: an image whose original is on the shelf; page 2: one without an original."""
    out, data = io.BytesIO(), io.BytesIO()
    canvas = Canvas(out, pagesize=(400, 400))
    canvas.drawImage(ImageReader(photograph().resize((300, 200))), 20, 200, 240, 160)
    canvas.showPage()
    gravel = Image.fromarray(photographs()["gravel"]).resize((100, 100))
    canvas.drawImage(ImageReader(gravel), 50, 50, 100, 100)
    canvas.save()
    with pikepdf.open(io.BytesIO(out.getvalue())) as pdf:
        pdf.save(data, **locked)
    return data.getvalue()


@pytest.fixture
def checked(program, studio):
    """The poor PDF as check 1 for 200 ppi, its original on the shelf."""
    original = io.BytesIO()
    photograph().save(original, "JPEG", quality=95)
    program.hands_in("/pictures", "cup.jpg", original.getvalue(), 201)
    check = program.hands_in("/checks", "poor.pdf", poor_pdf(), 202, ppi="200")
    read_pdf(studio, check["id"])
    return check


def downloaded(program, work):
    return program.asks("GET", f"/works/{work['id']}/file").data


def test_from_poor_images_to_a_proven_copy(program, checked, do, tmp_path):
    told = program.asks("POST", "/checks/1/plan", 422, json={"choose": "sure"})
    assert told["detail"] == "Look for originals first."
    assert do("originals")["state"] == "done"
    plan = program.asks("POST", "/checks/1/plan", json={"choose": "sure"})
    first, second = plan["images"]
    assert (first["original"], first["sureness"], first["fate"]) == ("cup.jpg", "sure", "replaced")
    assert first["new_ppi"] == pytest.approx(300, abs=0.5), "1.5 × the target"
    assert (second["fate"], second["reason"]) == ("left", "no original found")
    wishes = {"images": [first["key"]], "at_target": True}
    at_target = program.asks("POST", "/checks/1/plan", json=wishes)["images"][0]
    assert at_target["new_ppi"] == pytest.approx(200, abs=0.5)
    nothing = program.asks("POST", "/checks/1/plan", json={"images": []})["images"][0]
    assert (nothing["fate"], nothing["reason"]) == ("left", "not chosen")
    work = do("copies", json=wishes)
    assert (work["kind"], work["state"], work["file"]) == ("copy", "done", "poor improved.pdf")
    receipt = program.asks("GET", f"/works/{work['id']}/receipt")
    report_validator("improved-copy.schema.json").validate(receipt)
    assert receipt["is_proven"]
    copy = tmp_path / "copy.pdf"
    copy.write_bytes(downloaded(program, work))
    listed = subprocess.run(
        ["pdfimages", "-list", copy], capture_output=True, text=True, check=True
    )
    cells = listed.stdout.splitlines()[2].split()
    assert float(cells[12]) == pytest.approx(at_target["new_ppi"], abs=1), "as poppler sees it"
    again = program.asks("GET", f"/checks/{work['copy_check']}")
    assert (again["file"], again["state"]) == ("poor improved.pdf", "done")


def test_images_as_files(program, checked, do):
    work = do("images", json={"images": [{"page": 2, "place": 1}]})
    with zipfile.ZipFile(io.BytesIO(downloaded(program, work))) as pack:
        assert sorted(pack.namelist()) == ["images.csv", "page 2 image 01.png"]
        [row] = csv.DictReader(io.StringIO(pack.read("images.csv").decode()))
    assert row["page"] == "2"
    told = program.asks("POST", "/checks/1/images", 422, json={"images": [{"page": 3, "place": 1}]})
    assert told["detail"] == "There is no image 1 on page 3."


def test_pages_as_images(program, checked, do):
    wanted = {"format": "jpeg", "density_ppi": 144, "pages": "2"}
    [told] = program.asks("POST", "/checks/1/pixels", json=wanted)["items"]
    assert (told["page"], told["px_w"], told["px_h"]) == (2, 800, 800)
    work = do("page-images", json=wanted)
    assert work["file"] == "poor page 2.jpg"
    with Image.open(io.BytesIO(downloaded(program, work))) as image:
        assert (image.size, image.info["dpi"]) == ((800, 800), (144, 144))
    program.asks("POST", "/checks/1/page-images", 422, json={"pages": "7"})
    [latest, *_] = program.asks("GET", "/checks/1/works")["items"]
    assert latest["id"] == work["id"], "what was refused is not listed"


def test_a_locked_pdf_is_opened_and_locked_again(program, studio, do):
    locked = poor_pdf(encryption=pikepdf.Encryption(owner="harbour master", user=QUAY))
    number = program.hands_in("/checks", "locked.pdf", locked, 202)["id"]
    read_pdf(studio, number)
    check = program.asks("GET", f"/checks/{number}")
    assert check["state"] == "failed" and "needs a password" in check["failure"]
    where = f"/checks/{number}/password"
    wrong = program.asks("POST", where, 422, json={"password": "low water"})
    assert "this is not its password" in wrong["detail"]
    program.asks("POST", where, 202, json={"password": QUAY})
    read_pdf(studio, number)
    assert program.asks("GET", f"/checks/{number}")["pages"] == 2
    do("originals", number)
    work = do("copies", number, json={"images": [], "trim": True})
    assert work["state"] == "done", work["failure"]
    data = io.BytesIO(downloaded(program, work))
    with pytest.raises(pikepdf.PasswordError):
        pikepdf.open(data)
    with pikepdf.open(data, password=QUAY) as pdf:
        assert len(pdf.pages) == 2


def test_cancelled_work_makes_nothing(program, checked, studio):
    work = program.asks("POST", "/checks/1/images", 202, json={})
    told = program.asks("POST", "/checks/1/images", 422, json={})
    assert told["detail"] == "This is being made already."
    assert program.asks("POST", f"/works/{work['id']}/cancel")["state"] == "cancelled"
    do_document_work(studio, work["id"])
    assert program.asks("GET", f"/works/{work['id']}")["state"] == "cancelled"
    program.asks("GET", f"/works/{work['id']}/file", 404)
    program.asks("GET", f"/works/{work['id']}/receipt", 404)
    program.asks("GET", "/works/99", 404)
