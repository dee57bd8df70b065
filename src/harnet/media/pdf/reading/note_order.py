"""Notes for the copy of a PDF, and the order to write them in a process of its own."""

from collections.abc import Sequence
from dataclasses import dataclass
from pathlib import Path

from harnet.core.measure.geometry import Matrix
from harnet.media.bounded import Order


@dataclass(frozen=True, slots=True)
class Note:
    """What is said of a picture: on which page, where, and in which colour, `#rrggbb`."""

    page_number: int
    matrix: Matrix
    text: str
    colour: str


def order_of(path: Path, name: str, notes: Sequence[Note], target: Path) -> Order:
    """What `harnet.media.pdf.reading.notes` is to do, as plain values."""
    values = [[one.page_number, *one.matrix.as_tuple(), one.text, one.colour] for one in notes]
    return {"path": str(path), "name": name, "notes": values, "target": str(target)}


def notes_from(order: Order) -> list[Note]:
    """The notes of an order."""
    return [
        Note(page, Matrix(*numbers), text, colour)
        for page, *numbers, text, colour in order["notes"]
    ]
