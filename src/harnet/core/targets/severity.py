"""How much a finding matters."""

from enum import Enum


class Severity(Enum):
    """The four severities, worst first."""

    BLOCKING = "blocking"
    """Must not go to print."""
    WARNING = "warning"
    """Should be looked at."""
    NOTE = "note"
    """Good to know."""
    OFF = "off"
    """The rule is not asked."""

    @property
    def rank(self) -> int:
        """0 for the worst."""
        return list(Severity).index(self)
