"""A job's text styles: following one, changing one, and credit lines from the pictures' rights."""

from flask import Blueprint, Response, make_response, redirect, render_template, request, url_for

from harnet.core.errors import ValueOutOfRange
from harnet.media.pagedrawing.text_lines import FONT_NAMES
from harnet.store.tables.jobs import Job
from harnet.studio.common.errors import Refused, sentence_of
from harnet.studio.jobs.jobs import job_with
from harnet.studio.layout.text_styles import (
    ALIGNS,
    TEXT_STYLES,
    add_credit_lines,
    apply_text_style,
    change_text_style,
    take_style_from,
    text_styles_of,
)
from harnet.web.common.shared import JobHeader, studio
from harnet.web.common.values import colour, figure
from harnet.web.layout.pages_view import asked_items, items_view

blueprint = Blueprint("textstyles", __name__, url_prefix="/jobs/<int:job_id>/text-styles")


@blueprint.get("")
def show(job_id: int) -> str:
    """The text styles of a job, to change."""
    with studio().session() as session:
        return _page(job_with(session, job_id))


def _page(job: Job, failure: str = "") -> str:
    return render_template(
        "layout/text_styles.html",
        job=job,
        header=JobHeader.of(job),
        names=TEXT_STYLES,
        styles=text_styles_of(job),
        fonts=FONT_NAMES,
        aligns=ALIGNS,
        failure=failure,
    )


@blueprint.post("/<key>")
def change(job_id: int, key: str) -> Response | tuple[str, int]:
    """Changes a style and every text that follows it."""
    try:
        values = _style_from_form()
        with studio().session() as session:
            change_text_style(session, job_with(session, job_id), key, values)
    except (Refused, ValueOutOfRange) as error:
        failure = sentence_of(error)
        with studio().session() as session:
            return _page(job_with(session, job_id), failure), 422
    return make_response(redirect(url_for("textstyles.show", job_id=job_id)))


def _style_from_form() -> dict[str, object]:
    form = request.form
    return {
        "font": form.get("font", ""),
        "size_pt": figure(form.get("size_pt", ""), "size"),
        "leading_pt": figure(form.get("leading_pt", ""), "leading"),
        "space_pt": figure(form.get("space_pt", ""), "space after a paragraph"),
        "align": form.get("align", ""),
        "colour": colour(form, "colour") or "#1c2833",
    }


@blueprint.post("/apply")
def apply(job_id: int) -> str:
    """Has the selected texts follow a style, or none."""
    with studio().session() as session:
        job, items = asked_items(session, job_id)
        apply_text_style(session, job, items, request.form.get("style", ""))
        return items_view(session, job, items)


@blueprint.post("/take")
def take(job_id: int) -> str:
    """Makes a style what the selected text is set like."""
    with studio().session() as session:
        job, items = asked_items(session, job_id)
        if len(items) != 1:
            raise Refused("Select one text frame.")
        take_style_from(session, job, items[0], request.form.get("style", ""))
        return items_view(session, job, items)


@blueprint.post("/credits")
def credits(job_id: int) -> str:
    """Adds the credit line of each selected picture below its frame."""
    with studio().session() as session:
        job, items = asked_items(session, job_id)
        return items_view(session, job, add_credit_lines(session, job, items))
