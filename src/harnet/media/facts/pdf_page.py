"""A PDF offered as a picture: its first page's size, what is inside it, its number of pages."""

from pathlib import Path

from harnet.core.pictures.picture import Colour, Facts, Kind
from harnet.media.errors import UnreadableFile
from harnet.media.pdf.opening.opened import opened_pdf
from harnet.media.pdf.walking.layers import layers_off
from harnet.media.pdf.writing.vector import inside_pdf


def read_pdf(path: Path, name: str) -> Facts:
    """Facts of a PDF: a vector picture as large as its first page's crop box.

    Raises:
        UnreadableFile: it cannot be read, or has layers that are switched off: placed on a page,
            nothing would keep them from being printed.
    """
    with opened_pdf(path, name) as pdf:
        if layers_off(pdf):
            raise UnreadableFile(
                name,
                "the PDF has layers that are switched off",
                "Export it again without them, or with all layers switched on",
            )
        inside = inside_pdf(pdf, name)
        return Facts(
            kind=Kind.VECTOR,
            format="pdf",
            px_w=None,
            px_h=None,
            density_x=None,
            density_y=None,
            colour=Colour.VECTOR,
            bits=0,
            channels=0,
            alpha=inside.is_transparent,
            lossy=False,
            icc=None,
            frames=len(pdf.pages),
            size_bytes=path.stat().st_size,
            width_pt=inside.width_pt,
            height_pt=inside.height_pt,
            images=inside.images,
            image_count=inside.image_count,
            unembedded_fonts=inside.unembedded_fonts,
        )
