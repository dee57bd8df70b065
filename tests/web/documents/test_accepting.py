"""Findings on PDFs made elsewhere that somebody lets pass: kept, told in every form, taken back."""

import csv
import io
import re

import pypdf
import pytest
from PIL import Image
from reportlab.lib.utils import ImageReader
from reportlab.pdfgen.canvas import Canvas

from harnet.core.targets.shipped import target_named
from harnet.studio.common.errors import NotThere, Refused
from harnet.studio.documents.acceptance import WHOLE, accept_on, acceptances_of, withdraw_on
from harnet.studio.documents.reporting.stored import stored_report_of
from harnet.studio.documents.uploads import document_with, judge_by, pictures_in
from harnet.studio.preflight.reviews import make_link
from tests.support.documents import checked_leaflet
from tests.support.pictures import photo
from tests.support.schemas import report_validator

THIN = "density-below-tolerance"
WHY = ("The client insists; it is seen from afar", "Edda Voss")


@pytest.fixture
def document_id(studio):
    """A PDF with one thin picture, at 150 ppi, and a font that is not embedded."""
    out = io.BytesIO()
    canvas = Canvas(out, pagesize=(400, 300))
    canvas.drawImage(ImageReader(Image.fromarray(photo(300, 200))), 100, 100, 144, 96)
    canvas.drawString(20, 20, "Tarnholm")
    canvas.save()
    return checked_leaflet(studio, out, "200")


@pytest.fixture
def picture_id(studio, document_id):
    with studio.session() as session:
        return pictures_in(session, document_with(session, document_id))[0].id


def accepted(studio, document_id, target=None):
    """The rules of accepted findings, and of open ones."""
    with studio.session() as session:
        report = stored_report_of(session, document_with(session, document_id), target)
        return {one.rule_id for one, _ in report.accepted}, {one.rule_id for one in report.findings}


def accept(studio, document_id, picture_id, rule_id, why=WHY):
    with studio.session() as session:
        accept_on(session, document_with(session, document_id), picture_id, rule_id, *why)


def test_one_that_is_accepted_is_no_longer_open(studio, document_id, picture_id):
    assert accepted(studio, document_id)[0] == set()
    accept(studio, document_id, picture_id, THIN)
    accept(studio, document_id, WHOLE, "font-not-embedded")
    passed, still_open = accepted(studio, document_id)
    assert passed == {THIN, "font-not-embedded"} and not passed & still_open


def test_it_comes_back_when_its_figures_get_worse(studio, document_id, picture_id):
    accept(studio, document_id, picture_id, THIN)
    # 150 ppi are 50 short of 200, and fewer short of 180: no worse. Of 210 they are 60 short.
    assert THIN in accepted(studio, document_id, target_named("180"))[0]
    assert THIN in accepted(studio, document_id, target_named("210"))[1]
    with studio.session() as session:
        pdf = document_with(session, document_id)
        judge_by(pdf, target_named("210"))
        report = stored_report_of(session, pdf)
        assert report.lapsed[picture_id, THIN].headline == "150 ppi, 50 short of 200"
    accept(studio, document_id, picture_id, THIN, ("Seen again", "Edda Voss"))
    assert THIN in accepted(studio, document_id)[0]
    with studio.session() as session:
        [kept] = acceptances_of(session, document_with(session, document_id)).values()
        assert (kept.headline, kept.reason) == ("150 ppi, 60 short of 210", "Seen again")


def test_taking_it_back_opens_it_again(studio, document_id, picture_id):
    accept(studio, document_id, picture_id, THIN)
    with studio.session() as session:
        withdraw_on(session, document_with(session, document_id), picture_id, THIN)
    assert THIN in accepted(studio, document_id)[1]
    with studio.session() as session, pytest.raises(NotThere, match="already been withdrawn"):
        withdraw_on(session, document_with(session, document_id), picture_id, THIN)


@pytest.mark.parametrize(
    "rule_id, why, error, words",
    [
        (THIN, ("  ", "Edda Voss"), Refused, "Give a reason"),
        (THIN, ("It may", " "), Refused, "Give your name"),
        ("uneven-scale", WHY, NotThere, "no longer finds this"),
    ],
)
def test_what_cannot_be_accepted(studio, document_id, picture_id, rule_id, why, error, words):
    with pytest.raises(error, match=words):
        accept(studio, document_id, picture_id, rule_id, why)
    assert accepted(studio, document_id)[0] == set()


def test_a_picture_of_another_pdf_is_none_of_this_one(studio, document_id):
    with pytest.raises(NotThere, match="not in the document"):
        accept(studio, document_id, 999_999, THIN)


def test_every_form_says_who_let_it_pass_and_why(client, studio, document_id, picture_id):
    accept(studio, document_id, picture_id, THIN)
    values = client.get(f"/documents/{document_id}/report.json").get_json()
    report_validator("document-report.schema.json").validate(values)
    [told] = [one["accepted"] for one in values["findings"] if one["rule"] == THIN]
    assert (told["reason"], told["name"]) == WHY
    assert all(one["accepted"] is None for one in values["findings"] if one["rule"] != THIN)
    [row] = csv.DictReader(io.StringIO(client.get(f"/documents/{document_id}/report.csv").text))
    assert "accepted by Edda Voss: 150 ppi, 50 short of 200" in row["findings"]
    reader = pypdf.PdfReader(io.BytesIO(client.get(f"/documents/{document_id}/report.pdf").data))
    in_pdf = " ".join(" ".join(one.extract_text().split()) for one in reader.pages)
    for text in (client.get(f"/documents/{document_id}/report.html").text, in_pdf):
        assert "Accepted" in text and "Edda Voss" in text and WHY[0] in text
    assert re.search(r">\s*accepted\s*</td>", client.get(f"/documents/{document_id}").text)


@pytest.mark.parametrize("with_reasons", [True, False])
def test_whoever_has_a_review_link_reads_it_and_cannot_change_it(
    client, studio, document_id, picture_id, with_reasons
):
    accept(studio, document_id, picture_id, THIN)
    with studio.session() as session:
        pdf = document_with(session, document_id)
        token = make_link(session, pdf, "Print house", 7, with_reasons).token
    page = client.get(f"/review/{token}").text
    assert "take back" not in page and "Accept as is" not in page
    assert (WHY[0] in page) is (WHY[1] in page) is with_reasons
    assert ("Accepted on" in page) is not with_reasons
