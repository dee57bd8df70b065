"""What tests ask of a job."""

from harnet.core.ledger.lines import LineFilter
from harnet.store.tables import (  # noqa: F401 (their tables are emptied, too)
    documents,
    output,
    reviews,
)
from harnet.studio.judging.judging import catch_up
from harnet.studio.ledger.lines import placed_of
from harnet.studio.preflight.checking import findings_in


def placed_in(session, job):
    """A job's placements with their figures, page by page."""
    catch_up(session, job)
    return placed_of(session, job, LineFilter(sort="page"))


def found_in(session, job):
    """What preflight finds in a job now, worst first: the rows that are kept."""
    catch_up(session, job)
    return [one.row for one in findings_in(session, job)]
