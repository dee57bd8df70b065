"""Batches on the ledger: what the selected placements would become, then doing it as one edit."""

from dataclasses import dataclass

from flask import Blueprint, Response, render_template, request

from harnet.core.layout.figures import Figures
from harnet.core.layout.placing import Adjusts, EvenBy, Placement
from harnet.core.measure.wording import counted, density_text, short_size_text
from harnet.store.database import Session
from harnet.store.tables.copies import PrintCopy
from harnet.store.tables.jobs import Item, Job
from harnet.studio.common.errors import NotThere
from harnet.studio.copies.copies import MAKE_COPY
from harnet.studio.copies.placing import batch_of
from harnet.studio.jobs.jobs import job_with, target_of
from harnet.studio.ledger.batch import Batch, BatchAction, Planned, carry_out, planned
from harnet.studio.ledger.long_batch import LONG, ask_for_batch
from harnet.studio.tasks.states import RUNNING
from harnet.web.common.preferences import own_adjusts, remember_adjusts
from harnet.web.common.shared import handed_to_worker, in_background, studio, viewed_job
from harnet.web.common.units import shown_unit
from harnet.web.common.values import choice, figure_within
from harnet.web.drawing.marks import mark_of
from harnet.web.ledger.query import LedgerQuery, asked_of
from harnet.web.ledger.view import ledger_view, selected_items

blueprint = Blueprint("ledgerbatch", __name__, url_prefix="/jobs/<int:job_id>/ledger/batch")
_MOST_LISTED = 40
ACTIONS = (
    (BatchAction.REACH, "Scale to reach"),
    (BatchAction.NATIVE, "Scale to native"),
    (BatchAction.FIGURE, "Scale to a figure"),
    (BatchAction.EVEN, "Even out"),
    (BatchAction.DENSER, "Find denser pictures"),
    (BatchAction.COPY, "Make print copies"),
    (BatchAction.RELINK, "Relink"),
    (BatchAction.CARRY, "Carry"),
)


@dataclass(frozen=True, slots=True, kw_only=True)
class Change:
    """What a batch would do to one placement, in words."""

    name: str
    page_number: int
    mark_before: str
    before: str
    mark_after: str
    after: str
    note: str


@blueprint.post("/preview")
def preview(job_id: int) -> str:
    """What the chosen action would do; nothing is written."""
    with studio().session() as session:
        job = viewed_job(session, job_id)
        _, items = _chosen(session, job)
        batch = _batch()
        plan = planned(session, job, items, batch)
        changing = [one for one in plan if one.does_something]
        left = [one for one in plan if not one.does_something]
        return render_template(
            "ledger/_batch.html",
            job=job,
            batch=batch,
            ppi=batch.ppi or target_of(job).density_ppi,
            label=dict(ACTIONS)[batch.action],
            changing=[_words(job, one) for one in changing[:_MOST_LISTED]],
            left=[_words(job, one) for one in left[:_MOST_LISTED]],
            changing_count=len(changing),
            left_count=len(left),
            unfilled_count=sum(one.empties_frame for one in changing),
            item_ids=[item.id for item in items],
            parts={**request.form.to_dict(), "item": "", "action": batch.action.value},
        )


@blueprint.post("")
def do(job_id: int) -> str | Response:
    """Does the batch, and shows the ledger with the same placements chosen.

    Over very many placements the worker does it, and the page shows how far it is.
    """
    with studio().session() as session:
        job = viewed_job(session, job_id)
        query, items = _chosen(session, job)
        batch = _batch()
        if len(items) > LONG and batch.action is not BatchAction.COPY:
            batch_id = ask_for_batch(session, job, items, batch).id
            session.commit()
            return handed_to_worker(job_id, batch_id)
        count, copies = carry_out(studio(), session, job, items, batch)
        ids = {item.id for item in items}
        copy_ids = [copy.id for copy in batch_of(session, copies)] if copies else []
        message = "" if copies else f"{counted(count, 'picture')} changed. One undo reverts it."
        view = ledger_view(session, job, query, ids, is_fragment=True, message=message)
    for copy_id in copy_ids:
        in_background(MAKE_COPY, row_id=copy_id)
    return view + progress(job_id, copies) if copies else view


@blueprint.get("/copies/<name>")
def progress(job_id: int, name: str) -> str:
    """How far the print copies of a batch are; the page asks again until all are made."""
    with studio().session() as session:
        job = job_with(session, job_id)
        copies = batch_of(session, name)
        if not copies:
            raise NotThere("These print copies are gone.")
        return render_template(
            "ledger/_copies.html",
            job=job,
            name=name,
            all_count=len(copies),
            done_count=sum(copy.state not in RUNNING for copy in copies),
            placed_count=sum(copy.is_placed is True for copy in copies),
            failures=[copy.failure or copy.note for copy in copies if _went_wrong(copy)],
            is_running=any(copy.state in RUNNING for copy in copies),
        )


def _went_wrong(copy: PrintCopy) -> bool:
    return copy.failure is not None or copy.is_placed is False


def _chosen(session: Session, job: Job) -> tuple[LedgerQuery, list[Item]]:
    query = asked_of(session, request.form, target_of(job))
    numbers = request.form.getlist("item", int)
    takes_all = request.form.get("all") == "yes"
    return query, selected_items(session, job, query, numbers, takes_all)


def _batch() -> Batch:
    form = request.form
    adjusts = choice(Adjusts, form.get("adjusts") or own_adjusts())
    remember_adjusts(adjusts.value)
    ppi = form.get("ppi", "")
    return Batch(
        choice(BatchAction, form.get("action", "")),
        adjusts,
        choice(EvenBy, form.get("by", "mean")),
        ppi=figure_within(ppi, "density", 1, 100_000, "ppi") if ppi else None,
        leaves_unfilled_out=form.get("unfilled") == "leave",
    )


def _words(job: Job, one: Planned) -> Change:
    unit, per_inch = shown_unit(job)

    def density_and_size(placement: Placement, figures: Figures) -> str:
        frame, density = placement.frame, figures.density
        size = short_size_text(frame.width, frame.height, unit, per_inch)
        return f"{density_text(density)} ppi, {size}" if density else f"vector, {size}"

    after, mark = one.effect, mark_of(one.before_figures)
    if one.after is not None and one.after_figures is not None:
        after, mark = density_and_size(one.after, one.after_figures), mark_of(one.after_figures)
        if one.picture is not None:
            after = f"{one.picture.file_name}: {after}"
    return Change(
        name=one.item.picture.file_name if one.item.picture else one.item.kind,
        page_number=one.item.page.position + 1,
        mark_before=mark_of(one.before_figures),
        before=density_and_size(one.before, one.before_figures),
        mark_after=mark,
        after=after,
        note=one.note,
    )
