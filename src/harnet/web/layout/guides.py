"""Guides that are dragged out of the rulers or typed, and the columns and grid of a job."""

from dataclasses import dataclass

from flask import Blueprint, request

from harnet.core.layout.grid import Grid
from harnet.studio.common.errors import Refused
from harnet.studio.jobs.jobs import job_with, page_of
from harnet.studio.layout.guides import clear_guides, put_guide, remove_guide, set_grid
from harnet.web.common.shared import studio
from harnet.web.common.units import shown_unit
from harnet.web.common.values import figure, length, row_number, whole_figure
from harnet.web.layout.pages_view import desk_view

blueprint = Blueprint("guides", __name__, url_prefix="/jobs/<int:job_id>/guides")


@dataclass(frozen=True, slots=True)
class _Asked:
    """Which guide the page is about: its page, its axis, where it lay before."""

    page: int
    axis: str
    was_pt: float | None


def _asked() -> _Asked:
    form = request.form
    was = form.get("was", "")
    was_pt = figure(was, "guide’s place") if was else None
    return _Asked(row_number(form.get("page", "")) or 1, form.get("axis", ""), was_pt)


@blueprint.post("")
def put(job_id: int) -> str:
    """Adds or moves a guide: to `at` in points, as the hand says, or to `place` as it is typed."""
    form, asked = request.form, _asked()
    with studio().session() as session:
        job = job_with(session, job_id)
        if form.get("place"):
            at_pt = length(form["place"], *shown_unit(job))
        else:
            at_pt = figure(form.get("at", ""), "guide’s place")
        put_guide(session, job, page_of(job, asked.page), asked.axis, at_pt, asked.was_pt)
        return desk_view(session, job, row_number(form.get("shown", "")) or asked.page)


@blueprint.post("/remove")
def remove(job_id: int) -> str:
    """Removes a guide, or all of a page's."""
    asked = _asked()
    with studio().session() as session:
        job = job_with(session, job_id)
        page = page_of(job, asked.page)
        if asked.was_pt is None:
            clear_guides(session, job, page)
        else:
            remove_guide(session, job, page, asked.axis, asked.was_pt)
        return desk_view(session, job, row_number(request.form.get("shown", "")) or asked.page)


@blueprint.post("/grid")
def grid(job_id: int) -> str:
    """Sets the columns and the grid of all pages."""
    form = request.form
    with studio().session() as session:
        job = job_with(session, job_id)
        unit = shown_unit(job)
        columns = whole_figure(form.get("columns", "") or "0", "number of columns")
        if columns < 0:
            raise Refused("The number of columns cannot be below 0.")
        wanted = Grid(
            columns=columns,
            gutter_pt=length(form.get("gutter", ""), *unit),
            step_pt=length(form.get("step", ""), *unit),
        )
        set_grid(session, job, wanted)
        return desk_view(session, job, row_number(form.get("page", "")) or 1)
