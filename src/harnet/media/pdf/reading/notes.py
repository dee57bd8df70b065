"""A copy of a PDF with a note on each picture that falls short; its pages stay as they are.

Notes are annotations (ISO 32000-2, 12.5.6.8) with a look of their own, beside the page's content.
"""

from collections.abc import Sequence
from pathlib import Path

import pikepdf

from harnet.media.bounded import Order, Tell
from harnet.media.pdf.opening.opened import opened_pdf
from harnet.media.pdf.reading.note_order import Note, notes_from
from harnet.media.pdf.reading.visible_page import attributes_of, seen_page
from harnet.media.pdf.walking.clip import Bounds, is_nothing, shared, unit_bounds
from harnet.media.pdf.writing.operators import number

_LINE_PT = 1.5


def write_noted(path: Path, name: str, notes: Sequence[Note], target: Path) -> int:
    """Writes the copy; the original is not touched. Returns how many notes found a place.

    Raises:
        UnreadableFile: the PDF cannot be read.
    """
    placed = 0
    with opened_pdf(path, name) as pdf:
        pages = list(pdf.pages)
        for note in notes:
            page = pages[note.page_number - 1]
            seen, unit = seen_page(attributes_of(page))
            where = shared(unit_bounds(note.matrix), seen.box)
            if where is None or is_nothing(where):
                continue
            box: Bounds = tuple(edge / unit for edge in where)  # type: ignore[assignment]
            kept = page.obj.get("/Annots")
            if not isinstance(kept, pikepdf.Array):
                page.obj.Annots = pikepdf.Array()
            page.obj.Annots.append(pdf.make_indirect(_annotation(pdf, note, box)))
            placed += 1
        # Streams are copied as they are, so that every page's content keeps its bytes.
        pdf.save(
            target,
            compress_streams=False,
            stream_decode_level=pikepdf.StreamDecodeLevel.none,
            deterministic_id=not pdf.is_encrypted,
            encryption=False,
        )
    return placed


def _annotation(pdf: pikepdf.Pdf, note: Note, box: Bounds) -> pikepdf.Dictionary:
    left, bottom, right, top = box
    red, green, blue = (int(note.colour[at : at + 2], 16) / 255 for at in (1, 3, 5))
    inset = min(_LINE_PT / 2, (right - left) / 2, (top - bottom) / 2)
    width, height = right - left, top - bottom
    frame = " ".join(
        number(value) for value in (inset, inset, width - 2 * inset, height - 2 * inset)
    )
    colour = " ".join(number(value) for value in (red, green, blue))
    look = pdf.make_stream(f"{colour} RG {number(_LINE_PT)} w {frame} re S".encode())
    look.Type, look.Subtype = pikepdf.Name.XObject, pikepdf.Name.Form
    look.BBox = pikepdf.Array([0, 0, width, height])
    return pikepdf.Dictionary(
        Type=pikepdf.Name.Annot,
        Subtype=pikepdf.Name.Square,
        Rect=pikepdf.Array([left, bottom, right, top]),
        Contents=pikepdf.String(note.text),
        T=pikepdf.String("Harnet"),
        C=pikepdf.Array([red, green, blue]),
        # Without the flag that lets it print: nobody wants the note in ink.
        F=0,
        BS=pikepdf.Dictionary(W=_LINE_PT),
        AP=pikepdf.Dictionary(N=look),
    )


def work(order: Order, tell: Tell) -> Order:
    """What happens in the process: see `harnet.media.bounded`."""
    target = Path(order["target"])
    return {"placed": write_noted(Path(order["path"]), order["name"], notes_from(order), target)}
