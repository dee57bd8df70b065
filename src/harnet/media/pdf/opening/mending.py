"""A second chance for PDFs that strict readers refuse, though others show their pages."""

import io
import logging
from pathlib import Path

import pikepdf
import pypdf


def mended(path: Path) -> pikepdf.Pdf | None:
    """The PDF written again by a lenient reader, its page tree flat; None where it cannot either.

    Programs that take pages out may leave a tree in which an empty node stands several times;
    page, content and layers are sound in it. Call it in a process with bounds: it is slow.
    """
    logging.getLogger("pypdf").setLevel(logging.CRITICAL)
    out = io.BytesIO()
    try:
        pypdf.PdfWriter(clone_from=path).write(out)
        pdf = pikepdf.open(out)
        return pdf if len(pdf.pages) else _from_pages_alone(path)
    # Both raise whatever goes wrong within, and the file is hostile.
    except Exception:
        return _from_pages_alone(path)


def _from_pages_alone(path: Path) -> pikepdf.Pdf | None:
    """The pages that are found among a PDF's objects, in a tree of their own."""
    out = io.BytesIO()
    try:
        reader, writer = pypdf.PdfReader(path), pypdf.PdfWriter()
        numbers = sorted(number for table in reader.xref.values() for number in table)
        for number in numbers:
            thing = reader.get_object(number)
            if isinstance(thing, pypdf.generic.DictionaryObject) and thing.get("/Type") == "/Page":
                page = pypdf.PageObject(reader, thing.indirect_reference)
                page.update({key: thing.raw_get(key) for key in thing if key != "/Parent"})
                writer.add_page(page)
        writer.write(out)
        pdf = pikepdf.open(out)
        return pdf if len(pdf.pages) else None
    except Exception:
        return None
