"""Notes for the copy of a checked PDF: one on each picture that falls short."""

from collections.abc import Iterable

from harnet.core.density import headroom
from harnet.core.geometry import Matrix
from harnet.core.picture import Colour
from harnet.core.target import OWN, Target
from harnet.core.verdict import Verdict
from harnet.core.wording import ppi_text, share_text
from harnet.media.pdf.notes import Note
from harnet.store.pdfmodels import PaintedPicture
from harnet.studio.checkedpdfs import line_of

_COLOURS = {Verdict.COARSE: "#7a1f3d", Verdict.THIN: "#a84808"}


def notes_on(pictures: Iterable[PaintedPicture], target: Target) -> list[Note]:
    """A note for every picture that is seen and falls short."""
    notes = []
    for picture in pictures:
        line = line_of(picture, target)
        if line.judged_ppi is None or not line.verdict.falls_short:
            continue
        limits = target.for_bits(picture.colour == Colour.BILEVEL.value)
        text = note_text(line.judged_ppi, limits, line.verdict)
        colour = _COLOURS[line.verdict]
        notes.append(Note(picture.page_number, Matrix(*picture.matrix), text, colour))
    return notes


def note_text(ppi: float, limits: Target, verdict: Verdict) -> str:
    """What a note says of a picture that falls short: what it has, what is wanted, how far off."""
    short = share_text(abs(headroom(ppi, limits.density_ppi)))
    meant = "" if limits.key == OWN else f" for {limits.name.lower()}"
    wanted = f"{ppi_text(limits.density_ppi)} ppi wanted{meant}"
    return f"{ppi_text(ppi)} ppi, {verdict.value}; {wanted}, {short} short."
