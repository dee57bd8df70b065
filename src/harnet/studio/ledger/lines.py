"""The ledger of a job: its lines as they are kept, and the placements behind them."""

from collections.abc import Sequence
from operator import attrgetter

from sqlalchemy import select
from sqlalchemy.orm import Session, joinedload

from harnet.core.ledger.lines import Line, LineFilter, wanted_lines
from harnet.core.targets.target import Target
from harnet.store.tables.jobs import Item, Job, Page
from harnet.store.tables.preflight import Judgement
from harnet.studio.layout.placed import Placed, placed_from


def lines_of_job(session: Session, job: Job) -> list[Line]:
    """Every placed picture of a job, page by page."""
    columns = (
        Judgement.item_id,
        Judgement.page_id,
        Judgement.name,
        Judgement.verdict_rank,
        Judgement.judged_ppi,
        Judgement.headroom,
        Judgement.ruler_step,
        Judgement.evenness,
        Judgement.is_uneven,
        Judgement.is_bilevel,
        Judgement.has_own_target,
        Judgement.file_state,
        Judgement.colour,
        Judgement.kind,
        Judgement.pixels,
        Judgement.area_pt,
    )
    # Straight from the connection: five thousand lines need no identity map.
    rows = session.connection().execute(select(*columns).where(Judgement.job_id == job.id))
    positions = select(Page.id, Page.position).where(Page.job_id == job.id)
    numbers = {page: position + 1 for page, position in session.connection().execute(positions)}
    lines = [Line._make((row[0], numbers[row[1]], *row[2:])) for row in rows.all()]
    lines.sort(key=attrgetter("page_number", "item_id"))
    return lines


def placed_for(session: Session, lines: Sequence[Line], target: Target) -> list[Placed]:
    """The placements behind some lines, with all their figures, in the same order."""
    wanted = select(Item).where(Item.id.in_([line.item_id for line in lines]))
    items = {item.id: item for item in session.scalars(wanted.options(joinedload(Item.page)))}
    return [
        placed_from(items[line.item_id], line.page_number, target)
        for line in lines
        if line.item_id in items
    ]


def placed_of(session: Session, job: Job, target: Target) -> list[Placed]:
    """Every placement of a job with all its figures, the farthest short first."""
    lines = wanted_lines(lines_of_job(session, job), LineFilter(), target.density_ppi)
    return placed_for(session, lines, target)
