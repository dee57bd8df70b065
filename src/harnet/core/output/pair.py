"""A figure that was promised beside the one that was found."""

from dataclasses import dataclass

_SAME_WITHIN = 0.001
"""PDF numbers are written to eight decimals; a thousandth is far below what any eye tells."""


@dataclass(frozen=True, slots=True)
class Pair:
    """A promised and a found figure."""

    promised: float
    found: float | None

    @property
    def is_kept(self) -> bool:
        """Whether the found one is there and the same."""
        return self.found is not None and abs(self.found / self.promised - 1) <= _SAME_WITHIN
