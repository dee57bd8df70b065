"""What a rule reports."""

from dataclasses import dataclass
from datetime import datetime
from enum import Enum

from harnet.core.targets.severity import Severity

SAME_BADNESS = 1e-9
"""Figures that differ by less are no worse."""


def is_no_worse(badness: float, accepted_badness: float) -> bool:
    """Whether figures are no worse than those that were accepted."""
    return badness <= accepted_badness + SAME_BADNESS


class Fix(Enum):
    """A remedy that a finding offers."""

    DENSER = "denser"
    """Find a denser picture on the shelves."""
    REACH = "reach"
    """Scale to reach."""
    EVEN = "even"
    """Even out."""
    COPY = "copy"
    """Make a print copy for the frame."""
    RELINK = "relink"
    """Relink to another file."""
    UPDATE = "update"
    """Read the changed file again."""
    SAVE_TO_SHELF = "save to shelf"
    """Put a loose picture out to a shelf."""
    CONVERT = "convert"
    """Make a print copy in other colours."""
    RIGHTS = "rights"
    """State the picture's rights."""
    FIT_TEXT = "fit text"
    """Make the text frame as tall as its text."""
    FONT = "font"
    """Set a text in a font that has all its characters."""
    COVER = "cover"
    """Enlarge the picture until it covers its frame."""
    SHRINK = "shrink"
    """Cut the frame down to what its picture covers."""
    BLEED = "bleed"
    """Pull the picture out to the bleed."""
    REMOVE = "remove"
    """Take it off its page."""
    FILL = "fill"
    """Put a picture into the frame."""


@dataclass(frozen=True, slots=True)
class RuleResult:
    """What a rule says: a headline, a sentence with the figures, the fixes that apply.

    `badness` grows as the figures get worse; what was accepted comes back when it grows.
    """

    headline: str
    sentence: str
    fixes: tuple[Fix, ...] = ()
    badness: float = 1.0


@dataclass(frozen=True, slots=True, kw_only=True)
class Finding:
    """One thing that a rule found on one subject."""

    rule_id: str
    group: str
    severity: Severity
    item_id: int
    page_number: int
    name: str
    headline: str
    sentence: str
    fixes: tuple[Fix, ...]
    badness: float = 1.0


@dataclass(frozen=True, slots=True, kw_only=True)
class Accepted:
    """What someone accepted: why, who, when, and how it stood then."""

    badness: float
    headline: str
    reason: str
    name: str
    accepted_at: datetime

    def holds_for(self, finding: Finding) -> bool:
        """Whether the finding may pass still: its figures are no worse."""
        return is_no_worse(finding.badness, self.badness)
