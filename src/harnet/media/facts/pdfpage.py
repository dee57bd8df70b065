"""A PDF offered as a picture: its first page's size and its number of pages."""

from pathlib import Path

from harnet.core.picture import Colour, Facts, Kind
from harnet.media.pdf.opening import opened_pdf


def read_pdf(path: Path, name: str) -> Facts:
    """Facts of a PDF: a vector picture as large as its first page's crop box."""
    with opened_pdf(path, name) as pdf:
        page = pdf.pages[0]
        left, bottom, right, top = (float(side) for side in page.cropbox)
        user_unit = float(page.obj.get("/UserUnit", 1))
        width, height = abs(right - left) * user_unit, abs(top - bottom) * user_unit
        if int(page.obj.get("/Rotate", 0)) % 180 == 90:
            width, height = height, width
        return Facts(
            Kind.VECTOR,
            "pdf",
            None,
            None,
            None,
            None,
            Colour.VECTOR,
            0,
            0,
            alpha=False,
            lossy=False,
            icc=None,
            frames=len(pdf.pages),
            size_bytes=path.stat().st_size,
            width_pt=width,
            height_pt=height,
        )
