"""Reports of checked PDFs as they are served: inside, and to somebody who has a link."""

import io

import pytest
from PIL import Image
from reportlab.lib.utils import ImageReader
from reportlab.pdfgen.canvas import Canvas

from harnet.studio.documents.uploads import document_with, pictures_in
from harnet.studio.preflight.reviews import links_to, make_link, withdraw
from tests.support.documents import checked_leaflet
from tests.support.pictures import photo


@pytest.fixture
def leaflet(studio):
    """A checked PDF with a thin picture, one within its page's own content, and one of strips."""
    out = io.BytesIO()
    canvas = Canvas(out, pagesize=(400, 300))
    canvas.drawImage(ImageReader(Image.fromarray(photo(300, 200))), 20, 20, 144, 96)
    canvas.drawInlineImage(Image.fromarray(photo(30, 20)), 200, 20, 30, 20)
    for step in range(4):
        strip = ImageReader(Image.fromarray(photo(100, 10, seed=step)))
        canvas.drawImage(strip, 200, 200 - step * 10, 100, 10)
    canvas.save()
    return checked_leaflet(studio, out, "300")


@pytest.mark.parametrize(
    "form, kind, start",
    [
        ("html", "text/html", b"<!doctype html>"),
        ("pdf", "application/pdf", b"%PDF-"),
        ("csv", "text/csv", b"page,"),
        ("json", "application/json", b"{"),
    ],
)
def test_every_form_leaves_as_a_file(client, leaflet, form, kind, start):
    answer = client.get(f"/documents/{leaflet}/report.{form}")
    assert answer.status_code == 200 and answer.mimetype == kind
    assert answer.data.startswith(start)
    assert f"leaflet report.{form}" in answer.headers["Content-Disposition"]
    assert answer.headers["Content-Disposition"].startswith("attachment")


def test_the_page_holds_no_inline_style(client, leaflet):
    page = client.get(f"/documents/{leaflet}/report")
    assert "150 ppi, 150 short of 300" in page.text
    assert " style=" not in page.text and "<style" not in page.text


def test_a_link_shows_findings_and_their_spots_until_it_is_withdrawn(client, studio, leaflet):
    with studio.session() as session:
        token = make_link(session, document_with(session, leaflet), "Print house", 7).token
    page = client.get(f"/review/{token}")
    assert "150 ppi, 150 short of 300" in page.text and "not embedded" not in page.text
    drawing = client.get(f"/review/{token}/1.png")
    assert drawing.mimetype == "image/png" and drawing.headers["X-Robots-Tag"] == "noindex"
    assert f"/review/{token}/1.png" in page.text and f"/documents/{leaflet}" not in page.text
    with studio.session() as session:
        pdf = document_with(session, leaflet)
        withdraw(session, pdf, links_to(session, pdf)[0].id)
    assert client.get(f"/review/{token}/1.png").status_code == 404


def test_a_picture_alone_has_every_pixel(client, studio, leaflet):
    with studio.session() as session:
        pictures = pictures_in(session, document_with(session, leaflet))
        numbers = {(one.px_w, one.px_h): one.id for one in pictures}
    pixels = client.get(f"/documents/{leaflet}/pictures/{numbers[300, 200]}.png")
    with Image.open(io.BytesIO(pixels.data)) as image:
        assert image.size == (300, 200)
        assert (image.convert("RGB").getpixel((7, 9))) == tuple(photo(300, 200)[9, 7])
    # One within the page's content, and one that was cut, have no object of their own.
    for size in ((30, 20), (100, 40)):
        answer = client.get(f"/documents/{leaflet}/pictures/{numbers[size]}")
        assert answer.status_code == 404 and "split into pieces" in answer.text
    assert client.get(f"/documents/{leaflet}/pictures/999999").status_code == 404


def test_targets_and_stretches_of_the_ruler_that_make_no_sense(client, leaflet):
    assert client.get(f"/documents/{leaflet}?try=vellum").status_code == 422
    for question in ("x=nan", "x=9e9", "from_x=a&to_x=b", "page=99", "select=77", "sort=colour"):
        assert client.get(f"/documents/{leaflet}?{question}").status_code == 200, question
