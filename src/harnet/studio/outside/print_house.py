"""What Harnet asks of a print house's intake, and what can go wrong with one."""

from dataclasses import dataclass
from pathlib import Path
from typing import Protocol

from harnet.core.errors import HarnetError


class IntakeError(HarnetError):
    """The intake did not take the file at all; the text says why, and what to do."""

    code = "intake-error"


@dataclass(frozen=True, slots=True)
class Answer:
    """What a print house says of a PDF: taken, or refused with every reason it found.

    `looked_at` lists what was checked, with figures, whether or not it was in order.
    """

    accepted: bool
    reasons: tuple[str, ...]
    looked_at: tuple[str, ...]


class PrintHouse(Protocol):
    """The intake of a print house."""

    @property
    def key(self) -> str:
        """By what it is known."""

    @property
    def name(self) -> str:
        """Its name."""

    @property
    def demands(self) -> tuple[str, ...]:
        """What it wants of a PDF, in sentences."""

    def take(self, path: Path) -> Answer:
        """Checks a PDF with means of its own.

        Raises:
            IntakeError: the file was not taken, for instance because it is too large to send.
        """
