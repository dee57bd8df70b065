"""The view of a document that is being read, and of one with more images than are listed."""

import io

import pytest
from PIL import Image
from reportlab.lib.utils import ImageReader
from reportlab.pdfgen.canvas import Canvas

from harnet.studio.documents.uploads import document_with, pictures_in
from harnet.web.documents import check
from tests.support.documents import checked_leaflet
from tests.support.pictures import photo


@pytest.fixture
def document_id(studio):
    """A PDF of two pages: twelve images of growing density on the first, three on the second."""
    out = io.BytesIO()
    canvas = Canvas(out, pagesize=(400, 300))
    for number in range(15):
        if number == 12:
            canvas.showPage()
        image = ImageReader(Image.fromarray(photo(40 + 10 * number, 20)))
        canvas.drawImage(image, 20, 10 + 20 * (number % 12), 72, 10)
    canvas.save()
    return checked_leaflet(studio, out, "200")


def pixels_listed(text):
    """The widths of the images in the list, in its order."""
    rows = (
        text.partition('<div class="document-rows">')[2].partition("</tbody>")[0].split("<tr")[2:]
    )
    return [int(row.partition('class="name"')[2].partition(">")[2].split("×")[0]) for row in rows]


def test_what_is_not_listed_is_counted(client, document_id, monkeypatch):
    whole = client.get(f"/documents/{document_id}").text
    assert pixels_listed(whole) == [40 + 10 * number for number in range(15)]
    assert "more; filter to see them" not in whole
    monkeypatch.setattr(check, "_MOST_ROWS", 4)
    part = client.get(f"/documents/{document_id}").text
    assert pixels_listed(part) == [40, 50, 60, 70]
    assert "and 11 images more" in part
    of_page = client.get(f"/documents/{document_id}?only=1&page=2&sort=pixels&order=down").text
    assert pixels_listed(of_page) == [180, 170, 160]
    assert "more; filter to see them" not in of_page


def test_what_has_gone_since_the_list_was_made_is_left_out(
    studio, client, document_id, monkeypatch
):
    """As when a killed worker's document is read once more."""
    with studio.session() as session:
        first = pictures_in(session, document_with(session, document_id))[0].id

    def fewer(session, document, **which):
        return [one for one in pictures_in(session, document, **which) if one.id != first]

    monkeypatch.setattr(check, "pictures_in", fewer)
    answer = client.get(f"/documents/{document_id}?select={first}")
    assert answer.status_code == 200
    assert pixels_listed(answer.text) == [50 + 10 * number for number in range(14)]
