"""The history on the Pages view: one answer draws what a step changed."""

from urllib.parse import parse_qs, urlsplit

from flask import Blueprint, Response, request

from harnet.store.history import EntryGone, go_to
from harnet.studio.common.errors import Conflict
from harnet.studio.jobs.jobs import job_with, page_count
from harnet.studio.ledger.long_batch import long_travel
from harnet.studio.ledger.stepping import take_step
from harnet.web.common.shared import handed_to_worker, studio
from harnet.web.common.values import row_number
from harnet.web.layout.pages_view import desk_view

blueprint = Blueprint("history", __name__, url_prefix="/jobs/<int:job_id>/pages")


@blueprint.post("/undo")
def undo_last(job_id: int) -> str | Response:
    """Undoes the latest edit and shows the page where it was made."""
    return _step(job_id, is_redo=False)


@blueprint.post("/redo")
def redo_next(job_id: int) -> str | Response:
    """Makes the edit undone last again and shows the page where it was made."""
    return _step(job_id, is_redo=True)


def _step(job_id: int, *, is_redo: bool) -> str | Response:
    with studio().session() as session:
        job = job_with(session, job_id)
        known = row_number(request.form.get("edit", ""))
        stepped = take_step(session, job, known, is_redo=is_redo)
        if stepped.long_batch is not None:
            session.commit()
            return handed_to_worker(job_id, stepped.long_batch.id)
        shown, selected = _shown()
        number = stepped.page_number or min(shown, page_count(job))
        return desk_view(session, job, number, selected if number == shown else [])


def _shown() -> tuple[int, list[int]]:
    """The page and the selection of the address that the window is at."""
    values = parse_qs(urlsplit(request.form.get("back", "")).query)
    page = row_number(values.get("page", [""])[0]) or 1
    selected = map(row_number, values.get("select", [""])[0].split(","))
    return page, [number for number in selected if number is not None]


@blueprint.post("/history/<int:edit_id>")
def travel(job_id: int, edit_id: int) -> str | Response:
    """Goes back or forward to an edit."""
    with studio().session() as session:
        job = job_with(session, job_id)
        try:
            long = long_travel(session, job, edit_id)
            if long is not None:
                session.commit()
                return handed_to_worker(job_id, long.id)
            go_to(session, job, edit_id)
        except EntryGone:
            raise Conflict(
                "This step is no longer in the history. Reload to see the job’s current state."
            ) from None
        session.expire_all()
        job = job_with(session, job_id)
        number = min(request.form.get("page", 1, int), page_count(job))
        return desk_view(session, job, number)
