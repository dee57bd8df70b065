"""Images of a document as files of their own: which, under what names, and the table of them."""

from collections.abc import Sequence
from dataclasses import dataclass
from typing import Any

from harnet.core.documents.images import ImageOnPage
from harnet.core.measure.table_text import csv_text

COLUMNS = (
    *("file", "page", "place", "px_w", "px_h", "ppi_x", "ppi_y", "ppi_min", "colour", "bits"),
    *("x_pt", "y_pt", "width_pt", "height_pt", "source", "unseen", "how"),
)
"""The columns of the table, one row for each time that an image is painted."""


@dataclass(frozen=True, slots=True, kw_only=True)
class ExtractedImage:
    """One time that an image is painted, and the file that it was written to.

    `file` is empty where it could not be written; `how` says how it was, or why it was not. An
    image that is painted several times has one file, named after the first time.
    """

    image: ImageOnPage
    file: str
    how: str

    @property
    def row(self) -> dict[str, Any]:
        """The row of the table: densities in ppi, lengths in points; y counts upwards."""
        image = self.image
        density = image.density
        corners = image.matrix.corners
        return {
            "file": self.file,
            "page": image.page_number,
            "place": image.place,
            "px_w": image.px_w,
            "px_h": image.px_h,
            "ppi_x": round(density.x, 3),
            "ppi_y": round(density.y, 3),
            "ppi_min": round(density.judged, 3),
            "colour": image.colour,
            "bits": image.bits,
            "x_pt": round(min(x for x, _ in corners), 3),
            "y_pt": round(min(y for _, y in corners), 3),
            "width_pt": round(image.matrix.u_length, 3),
            "height_pt": round(image.matrix.v_length, 3),
            "source": image.source,
            "unseen": image.unseen,
            "how": self.how,
        }


def file_stem(page_number: int, page_count: int, place: int) -> str:
    """The name of an image's file without its ending; names sort by page and place.

    >>> file_stem(7, 120, 2)
    'page 007 image 02'
    """
    digits = len(str(page_count))
    return f"page {page_number:0{digits}d} image {place:02d}"


def table_of(extracted: Sequence[ExtractedImage]) -> str:
    """The table as CSV."""
    return csv_text(COLUMNS, (one.row for one in extracted))
