"""How many verdicts and findings a page or a job has, as one row of figures."""

from collections.abc import Iterable
from dataclasses import dataclass, field

VERDICTS, SEVERITIES = 5, 3
FIGURES = VERDICTS + SEVERITIES + 2


@dataclass
class Tally:
    """Pictures by the rank of their verdict, open findings by that of their severity."""

    verdicts: list[int] = field(default_factory=lambda: [0] * VERDICTS)
    findings: list[int] = field(default_factory=lambda: [0] * SEVERITIES)
    accepted: int = 0
    missing: int = 0

    def as_row(self) -> list[int]:
        """All its figures in their order."""
        return [*self.verdicts, *self.findings, self.accepted, self.missing]

    @classmethod
    def of_rows(cls, rows: Iterable[list[int]]) -> "Tally":
        """The sum of rows; a page that nobody judged yet has an empty one."""
        sums = [sum(column) for column in zip(*[row for row in rows if row], strict=True)]
        if not sums:
            return cls()
        ends = VERDICTS, VERDICTS + SEVERITIES
        return cls(sums[: ends[0]], sums[ends[0] : ends[1]], *sums[ends[1] :])
