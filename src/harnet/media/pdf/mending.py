"""A second chance for PDFs that strict readers refuse, though others show their pages."""

import io
import logging
from pathlib import Path

import pikepdf
import pypdf


def mended(path: Path) -> pikepdf.Pdf | None:
    """The PDF written anew by a lenient reader, its page tree flat; None where it cannot either.

    Programs that take pages out may leave a tree in which an empty node stands several times;
    page, content and layers are sound in it. Call it in a process with bounds: it is slow.
    """
    logging.getLogger("pypdf").setLevel(logging.CRITICAL)
    out = io.BytesIO()
    try:
        pypdf.PdfWriter(clone_from=path).write(out)
        pdf = pikepdf.open(out)
        return pdf if len(pdf.pages) else None
    # Both raise whatever goes wrong within, and the file is hostile.
    except Exception:
        return None
