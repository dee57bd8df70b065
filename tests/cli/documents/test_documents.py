"""Slide decks, texts, books and SVG on the command line, as a person or a script runs it."""

import csv
import io
import json
import zipfile

import docx
import pypdf
import pytest
from docx.shared import Inches as DocxInches
from PIL import Image
from pptx import Presentation
from pptx.util import Inches

from tests.support.command import harnet
from tests.support.packages import deck, pic, picture, xfrm
from tests.support.schemas import report_validator
from tests.trials.registration import photographs


def original():
    return Image.fromarray(photographs()["coffee"]).resize((1200, 800))


def poor(form="JPEG"):
    out = io.BytesIO()
    original().resize((300, 200)).save(out, form)
    out.seek(0)
    return out


@pytest.fixture
def talk(tmp_path):
    made = Presentation()
    slide = made.slides.add_slide(made.slide_layouts[6])
    shape = slide.shapes.add_picture(poor(), Inches(1), Inches(1), Inches(1.5), Inches(2))
    shape.crop_left = 0.5
    path = tmp_path / "talk.pptx"
    made.save(path)
    return path


@pytest.fixture
def manuscript(tmp_path):
    made = docx.Document()
    made.add_heading("Tides", 1)
    made.add_paragraph().add_run().add_picture(poor(), width=DocxInches(1))
    path = tmp_path / "manuscript.docx"
    made.save(path)
    return path


def told(run, code=0):
    assert run.returncode == code, run.stderr
    return json.loads(run.stdout)


def test_a_deck_in_its_published_form(talk):
    found = told(harnet("check", talk, "--target", "300", "--format", "json"), 1)
    report_validator("document-check.schema.json").validate(found)
    assert found["pages"] == 1
    assert (found["document"]["format"], found["document"]["slides"]) == ("pptx", 1)
    assert found["document"]["shrunk_to_ppi"] is None
    (cropped,) = found["document"]["cropped"]
    assert (cropped["page"], cropped["share"], cropped["part"]) == (1, 0.5, "ppt/media/image1.jpg")
    (image,) = found["images"]
    assert image | {"ppi_min": 100.0, "visible_share": 0.5, "page": 1} == image
    assert (image["width_pt"], image["height_pt"]) == (108.0, 144.0)
    assert "cropped-parts-kept" in {one["rule"] for one in found["findings"]}


def test_a_text_has_no_page_numbers(manuscript):
    found = told(harnet("check", manuscript, "--target", "300", "--format", "json"))
    report_validator("document-check.schema.json").validate(found)
    assert found["pages"] is None
    assert found["images"][0]["page"] is None
    assert found["images"][0]["place"].startswith("body, under “Tides”")


def test_many_formats_side_by_side(talk, manuscript, tmp_path):
    (tmp_path / "drawing.svg").write_text(
        '<svg xmlns="http://www.w3.org/2000/svg" width="3in" height="2in" viewBox="0 0 3 2">'
        '<image href="beside.png" width="3" height="2"/></svg>'
    )
    (tmp_path / "beside.png").write_bytes(picture(900, 600, "PNG"))
    run = harnet("check", talk, manuscript, tmp_path / "drawing.svg", "--format", "csv")
    rows = list(csv.DictReader(io.StringIO(run.stdout)))
    assert [(row["page"], row["ppi_min"]) for row in rows] == [
        ("1", "100.0"),
        ("", "300.0"),
        ("1", "300.0"),
    ]
    table = harnet("check", talk).stdout
    assert "slide, “Picture 1”" in table
    assert "50 % cropped off, still in the file" in table.replace("\xa0", " ")


@pytest.mark.parametrize("name", ["talk.potx", "talk.ppsm", "talk.pdf", "talk"])
def test_a_file_is_told_by_its_content(talk, tmp_path, name):
    talk.rename(tmp_path / name)
    found = told(harnet("check", tmp_path / name, "--format", "json"), 1)
    assert found["document"]["format"] == "pptx"


def test_shrunk_on_saving(tmp_path):
    shapes = "".join(
        pic(xfrm(n, 0, 1, 1), f'<p:blipFill><a:blip r:embed="r{n}"/><a:stretch/></p:blipFill>')
        for n in range(5)
    )
    media = {f"{n}.jpg": picture(220, 220, seed=n) for n in range(5)}
    rels = {f"r{n}": ("image", f"../media/{n}.jpg") for n in range(5)}
    path = deck(tmp_path / "shrunk.pptx", [shapes], media=media, slide_rels=rels)
    found = told(harnet("check", path, "--format", "json"), 1)
    assert (found["document"]["shrunk_to_ppi"], found["document"]["shrunk_pictures"]) == (220, 5)
    assert "5 of 5 pictures stand at exactly 220 ppi" in {
        one["sentence"].split(":")[0] for one in found["findings"]
    }


@pytest.mark.parametrize("ending", [".html", ".pdf", ".csv", ".json"])
def test_reports(talk, manuscript, tmp_path, ending):
    for path in (talk, manuscript):
        report = tmp_path / f"report{ending}"
        run = harnet("check", path, "--target", "300", "--report", report, "--quiet")
        assert report.exists(), run.stderr
        if ending == ".json":
            report_validator("document-report.schema.json").validate(json.loads(report.read_text()))
        elif ending == ".pdf":
            pages = pypdf.PdfReader(report).pages
            words = " ".join(one.extract_text() for one in pages)
            assert path.name in words
            # A picture of the place beside what was found on it.
            if path == talk:
                assert sum(len(one.images) for one in pages) >= 1
        else:
            assert "Tides" in report.read_text() or "Picture 1" in report.read_text()


def test_a_file_that_is_none(tmp_path):
    (tmp_path / "letter.doc").write_bytes(b"\xd0\xcf\x11\xe0\xa1\xb1\x1a\xe1" + b"\0" * 100)
    run = harnet("check", tmp_path / "letter.doc")
    assert run.returncode == 2
    assert "older binary format" in run.stderr
    package = tmp_path / "pictures.zip"
    with zipfile.ZipFile(package, "w") as file:
        file.writestr("a.txt", "x")
    assert "none of a document" in harnet("check", package).stderr


def test_extract_and_improve(talk, tmp_path):
    run = harnet("extract", talk, "--to", tmp_path / "files")
    assert run.returncode == 0, run.stderr
    assert (tmp_path / "files" / "page 1 image 01.jpg").read_bytes() == poor().getvalue()
    (tmp_path / "originals").mkdir()
    original().save(tmp_path / "originals" / "cup.jpg", quality=95)
    receipt = tmp_path / "receipt.json"
    run = harnet(
        *("improve", talk, "--from", tmp_path / "originals", "--target", "300", "--cut-away"),
        *("--out", tmp_path / "copy.pptx", "--receipt", receipt),
    )
    assert run.returncode == 0, run.stderr
    values = json.loads(receipt.read_text())
    report_validator("improved-copy.schema.json").validate(values)
    assert (values["images"][0]["page"], values["images"][0]["is_cut"]) == (1, True)
    found = told(harnet("check", tmp_path / "copy.pptx", "--target", "300", "--format", "json"))
    assert found["images"][0]["visible_share"] == 1.0
    assert found["images"][0]["ppi_min"] == pytest.approx(400, abs=1)


def test_a_watched_folder(talk, manuscript, tmp_path):
    (tmp_path / "originals").mkdir()
    original().save(tmp_path / "originals" / "cup.jpg", quality=95)
    (tmp_path / "notes.txt").write_text("not a document")
    run = harnet(
        *("watch", tmp_path, "--once", "--target", "350"),
        *("--improve", "--from", tmp_path / "originals"),
    )
    assert run.returncode == 0, run.stderr
    reports = sorted(one.name for one in tmp_path.glob("*.check.json"))
    assert reports == ["manuscript.docx.check.json", "talk.pptx.check.json"]
    assert sorted(one.name for one in (tmp_path / "improved").glob("*x")) == [
        "manuscript.docx",
        "talk.pptx",
    ]
    again = harnet("watch", tmp_path, "--once", "--target", "350")
    assert again.stdout == ""
