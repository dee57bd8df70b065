"""Rows to pages: a CSV looked through beside its pattern page, then made into pages."""

from flask import Blueprint, Response, render_template, request, url_for

from harnet.core.layout.placing import Fit
from harnet.core.layout.rows import Table
from harnet.store.database import Session
from harnet.store.tables.jobs import Item, Job, Page
from harnet.studio.common.errors import Refused
from harnet.studio.jobs.jobs import job_with, page_count, page_of
from harnet.studio.layout.placed import PICTURE
from harnet.studio.layout.rows import (
    asked_places,
    frames_of,
    make_pages,
    match_pictures,
    read_rows,
    suggested_binding,
    unknown_places,
)
from harnet.web.common.shared import JobHeader, studio
from harnet.web.common.values import choice

blueprint = Blueprint("rows", __name__, url_prefix="/jobs/<int:job_id>/rows")
_ROWS_SHOWN = 6
_MISSING_SHOWN = 12


@blueprint.get("")
def show(job_id: int) -> str:
    """The pattern page, and the form for a table."""
    number = request.args.get("page", 1, int)
    with studio().session() as session:
        job = job_with(session, job_id)
        page = page_of(job, number)
        return render_template(
            "layout/rows.html",
            header=JobHeader.of(job),
            job=job,
            number=number,
            page_count=page_count(job),
            frames=[_frame_name(item, place) for place, item in enumerate(frames_of(page), 1)],
        )


@blueprint.post("/preview")
def preview(job_id: int) -> str:
    """What a table holds, which column each frame gets, what is missing; nothing is made."""
    number = request.form.get("page", 1, int)
    with studio().session() as session:
        job = job_with(session, job_id)
        return _previewed(session, job, page_of(job, number), _table())


def _previewed(session: Session, job: Job, page: Page, table: Table) -> str:
    frames = frames_of(page)
    suggested = suggested_binding(page, table)
    binding = {
        item.id: request.form.get(f"column-{item.id}", suggested[item.id]) for item in frames
    }
    columns = sorted({column for column in binding.values() if column in table.columns})
    match = match_pictures(session, table, columns)
    return render_template(
        "layout/_rows.html",
        job=job,
        table=table,
        shown=table.records[:_ROWS_SHOWN],
        frames=[(item, _frame_name(item, place)) for place, item in enumerate(frames, 1)],
        binding=binding,
        match=match,
        missing=match.missing[:_MISSING_SHOWN],
        unknown=unknown_places(page, table),
        asks=asked_places(page),
        number=page.position + 1,
    )


@blueprint.post("/make")
def make(job_id: int) -> Response:
    """Makes the pages, as one edit, and shows the first."""
    form = request.form
    number = form.get("page", 1, int)
    with studio().session() as session:
        job = job_with(session, job_id)
        page = page_of(job, number)
        binding = {item.id: form.get(f"column-{item.id}", "") for item in frames_of(page)}
        first = make_pages(
            session,
            job,
            number,
            _table(),
            binding,
            choice(Fit, form.get("fit", "cover")),
            form.get("keeps_pattern") == "yes",
        )
    return Response("", headers={"HX-Redirect": url_for("pages.show", job_id=job_id, page=first)})


def _table() -> Table:
    file = request.files.get("rows_file")
    if file is None or not file.filename:
        raise Refused("Choose a CSV file first.")
    return read_rows(file.stream.read())


def _frame_name(item: Item, place: int) -> str:
    if item.kind == PICTURE and item.picture is not None:
        return f"frame {place}, now {item.picture.file_name}"
    return f"frame {place}, empty"
