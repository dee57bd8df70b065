"""What a rule looks at and what it reports."""

from dataclasses import dataclass
from enum import Enum

from harnet.core.figures import Figures
from harnet.core.placing import Placement
from harnet.core.units import Unit


class Severity(Enum):
    """How much a finding matters, worst first."""

    BLOCKING = "blocking"
    """Must not go to print."""
    WARNING = "warning"
    """Should be looked at."""
    NOTE = "note"
    """Good to know."""


class FileState(Enum):
    """How the file of a placed picture stands."""

    IN_PLACE = "in place"
    CHANGED = "changed"
    """Its bytes are no longer those that were placed."""
    MISSING = "missing"
    """No longer on its shelf."""
    CARRIED = "carried"
    """Its bytes are kept with the job."""
    LOOSE = "loose"
    """Pasted: its bytes are kept with the job, and nobody knows the file they came from."""


class Fix(Enum):
    """A remedy that a finding offers."""

    REACH = "reach"
    EVEN = "even"
    RELINK = "relink"


@dataclass(frozen=True, slots=True)
class Checked:
    """One placement as the rules see it."""

    item_id: int
    page_number: int
    name: str
    placement: Placement
    figures: Figures
    file_state: FileState
    unit: Unit
    looks_drawn: bool = False
    """A picture of pixels that is nearly all ink and paper."""


@dataclass(frozen=True, slots=True)
class Finding:
    """One thing that a rule found, in a sentence with its figures."""

    rule_id: str
    group: str
    severity: Severity
    item_id: int
    page_number: int
    name: str
    headline: str
    sentence: str
    fixes: tuple[Fix, ...]
