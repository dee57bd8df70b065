"""Drawings of spreadsheets: anchors of one cell, of two cells, absolute ones; headers."""

import io

import openpyxl
import pytest
from openpyxl.drawing.image import Image
from openpyxl.drawing.spreadsheet_drawing import AnchorMarker, TwoCellAnchor

from harnet.core.documents.document import PageKind
from harnet.media.packages.reading import read_document
from tests.support.packages import picture

EMU_PER_PX = 9525
"""914 400 EMU to the inch, 96 px to the inch."""


def test_one_cell_anchor_of_a_general_library(tmp_path):
    book = openpyxl.Workbook()
    sheet = book.active
    sheet.title = "Tides"
    image = Image(io.BytesIO(picture(800, 600, "PNG")))
    image.width, image.height = 384, 288
    sheet.add_image(image, "C3")
    book.create_sheet("Empty")
    book.save(tmp_path / "book.xlsx")
    read = read_document(tmp_path / "book.xlsx", "book.xlsx")
    (found,) = read.images
    assert (found.density.x, found.density.y) == pytest.approx((200, 200))
    assert (found.source, found.heading) == ("cells", "C3")
    assert [(page.kind, page.title) for page in read.pages] == [
        (PageKind.SHEET, "Tides"),
        (PageKind.SHEET, "Empty"),
    ]


def test_two_cell_anchor_takes_its_size_from_columns_and_rows(tmp_path):
    """A width of 20, padding included, is 140 px at the usual font (18.3.1.13, from memory)."""
    book = openpyxl.Workbook()
    sheet = book.active
    sheet.column_dimensions["B"].width = 20
    sheet.row_dimensions[2].height = 72
    image = Image(io.BytesIO(picture(280, 300, "PNG")))
    start, end = AnchorMarker(col=1, row=1), AnchorMarker(col=2, row=2)
    image.anchor = TwoCellAnchor(_from=start, to=end)
    sheet.add_image(image)
    book.save(tmp_path / "book.xlsx")
    (found,) = read_document(tmp_path / "book.xlsx", "book.xlsx").images
    assert found.matrix.v_length == pytest.approx(72)
    assert found.matrix.u_length == pytest.approx(140 * 0.75)
