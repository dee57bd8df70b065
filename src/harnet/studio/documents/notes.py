"""Notes for the copy of a checked PDF: one on each picture that falls short."""

import shutil
import tempfile
from collections.abc import Iterable, Sequence
from pathlib import Path

from harnet.core.documents.images import ImageOnPage, line_of
from harnet.core.measure.density import headroom
from harnet.core.measure.verdict import Verdict
from harnet.core.measure.wording import ppi_text, share_text
from harnet.core.targets.target import OWN, Target
from harnet.media.bounded import work_apart
from harnet.media.pdf.reading.note_order import Note, order_of

_SECONDS, _MEMORY_BYTES = 60, 3_000_000_000
_COLOURS = {Verdict.COARSE: "#7a1f3d", Verdict.THIN: "#a84808"}


def notes_on(pictures: Iterable[ImageOnPage], target: Target) -> list[Note]:
    """A note for every picture that is seen and falls short."""
    notes = []
    for picture in pictures:
        line = line_of(picture, target)
        if line.judged_ppi is None or not line.verdict.falls_short:
            continue
        limits = target.for_bits(picture.is_bilevel)
        text = note_text(line.judged_ppi, limits, line.verdict)
        colour = _COLOURS[line.verdict]
        notes.append(Note(picture.page_number, picture.matrix, text, colour))
    return notes


def note_text(ppi: float, limits: Target, verdict: Verdict) -> str:
    """What a note says of a picture that falls short: what it has, what is wanted, how far off."""
    short = share_text(abs(headroom(ppi, limits.density_ppi)))
    for_target = "" if limits.key == OWN else f" for {limits.spoken}"
    wanted = f"{ppi_text(limits.density_ppi)} ppi wanted{for_target}"
    return f"{ppi_text(ppi)} ppi, {verdict.value}; {wanted}, {short} short."


def write_noted(path: Path, name: str, notes: Sequence[Note], target: Path) -> int:
    """Writes the copy with notes, apart; returns how many found a place on their page.

    Raises:
        UnreadableFile: the document cannot be read.
        OSError: the copy cannot be written.
    """
    with tempfile.TemporaryDirectory(prefix="harnet-") as folder:
        noted = Path(folder) / "noted.pdf"
        answer = work_apart(
            "harnet.media.pdf.reading.notes",
            order_of(path, name, notes, noted),
            name=name,
            seconds=_SECONDS,
            memory_bytes=_MEMORY_BYTES,
        )
        shutil.copyfile(noted, target)
    return int(answer["placed"])
