"""Print copies: the form, a sample of the result before it is made, and the copies so far."""

import base64

from flask import Blueprint, render_template, request

from harnet.core.pictures.picture import Facts
from harnet.media.errors import UnreadableFile
from harnet.store.database import Session
from harnet.store.tables.copies import PrintCopy
from harnet.store.tables.jobs import Item
from harnet.store.tables.pictures import Picture
from harnet.studio.common.errors import NotThere, Refused
from harnet.studio.copies.copies import (
    MAKE_COPY,
    ask_again,
    ask_for_copy,
    ask_for_frame_copy,
    cancel_copy,
    copies_of,
    frame_copy_of,
)
from harnet.studio.copies.placing import copy_with
from harnet.studio.copies.samples import spots_of
from harnet.studio.jobs.jobs import job_with
from harnet.studio.layout.placing import item_in
from harnet.studio.pictures.picture import facts_of_picture, picture_with
from harnet.studio.pictures.profiles import all_profiles, keep_profile
from harnet.studio.tasks.states import RUNNING
from harnet.web.common.shared import in_background, studio
from harnet.web.copies.form import KERNELS, UNITS, CopyForm, first_form, read_form, shown_crop

blueprint = Blueprint("copies", __name__, url_prefix="/pictures/<int:picture_id>/copy")
frame_blueprint = Blueprint(
    "framecopy", __name__, url_prefix="/jobs/<int:job_id>/pages/items/<int:item_id>/copy"
)


@blueprint.get("")
def show(picture_id: int) -> str:
    """The form for a new copy, with the copies so far."""
    with studio().session() as session:
        picture, facts = _asked(session, picture_id)
        return _page("copies/copy.html", session, picture, facts, first_form(facts, request.args))


@blueprint.get("/form")
def change(picture_id: int) -> str:
    """The form after one of its fields was changed."""
    with studio().session() as session:
        picture, facts = _asked(session, picture_id)
        return _page(
            "copies/_copy_form.html", session, picture, facts, read_form(facts, request.args)
        )


def _page(template: str, session: Session, picture: Picture, facts: Facts, form: CopyForm) -> str:
    return render_template(
        template,
        picture=picture,
        picture_id=picture.id,
        facts=facts,
        form=form,
        crop=shown_crop(form.recipe, facts),
        units=UNITS,
        kernels=KERNELS,
        profiles=all_profiles(session),
        copies=copies_of(session, picture),
        running=RUNNING,
    )


@blueprint.get("/spots")
def spots(picture_id: int) -> str:
    """A sample of the original beside the same spot of the copy, each pixel as it is."""
    at = (request.args.get("spot_x", 0.5, float), request.args.get("spot_y", 0.5, float))
    shown, failure = [], ""
    with studio().session() as session:
        picture, facts = _asked(session, picture_id)
        form = read_form(facts, request.args)
        if not form.failure:
            try:
                pair = spots_of(studio(), picture, form.recipe, at)
                shown = [base64.b64encode(data).decode() for data in pair]
            except UnreadableFile as error:
                failure = str(error)
    return render_template("copies/_copy_spots.html", failure=failure, pictures=shown)


@blueprint.post("")
def make(picture_id: int) -> str:
    """Asks the worker for the copy."""
    with studio().session() as session:
        picture, facts = _asked(session, picture_id)
        form = read_form(facts, request.form)
        if form.failure:
            raise Refused(form.failure)
        copy_id = ask_for_copy(session, picture, form.recipe).id
    _send(copy_id)
    return listing(picture_id)


@blueprint.get("/list")
def listing(picture_id: int) -> str:
    """The copies so far; the page asks again while one is being made."""
    with studio().session() as session:
        picture = picture_with(session, picture_id)
        return render_template(
            "copies/_copies.html",
            picture_id=picture_id,
            copies=copies_of(session, picture),
            running=RUNNING,
        )


@blueprint.post("/<int:copy_id>/cancel")
def stop(picture_id: int, copy_id: int) -> str:
    """Cancels a copy that is not finished."""
    with studio().session() as session:
        cancel_copy(session, _own(session, picture_id, copy_id))
    return listing(picture_id)


@blueprint.post("/<int:copy_id>/again")
def again(picture_id: int, copy_id: int) -> str:
    """Makes a copy again from its recipe."""
    with studio().session() as session:
        ask_again(_own(session, picture_id, copy_id))
    _send(copy_id)
    return listing(picture_id)


@blueprint.post("/profile")
def add_profile(picture_id: int) -> str:
    """Keeps a CMYK profile and chooses it."""
    file = request.files.get("profile_file")
    if file is None or not file.filename:
        raise Refused("Choose a profile file first.")
    with studio().session() as session:
        profile = keep_profile(studio(), session, file.filename, file.stream)
        return render_template(
            "common/_profiles.html",
            profiles=all_profiles(session),
            chosen=profile.sha256,
            picture_id=picture_id,
        )


def _asked(session: Session, picture_id: int) -> tuple[Picture, Facts]:
    picture = picture_with(session, picture_id)
    facts = facts_of_picture(picture)
    if facts.is_vector:
        raise NotThere("A vector picture is sharp at any size and needs no print copy.")
    return picture, facts


def _own(session: Session, picture_id: int, copy_id: int) -> PrintCopy:
    copy = copy_with(session, copy_id)
    if copy.picture_id != picture_id:
        raise NotThere("This copy belongs to another picture.")
    return copy


def _send(copy_id: int) -> None:
    """Puts the task on the queue once the wish is written."""
    in_background(MAKE_COPY, row_id=copy_id)


@frame_blueprint.post("")
def make_for_frame(job_id: int, item_id: int) -> str:
    """Asks for the copy that a frame needs; too few pixels are told, with what can be done."""
    version = request.form.get("version", None, int)
    may_be_smaller = request.form.get("smaller") == "yes"
    with studio().session() as session:
        job = job_with(session, job_id)
        item = item_in(job, item_id, version)
        wanted = frame_copy_of(job, item)
        if wanted.is_too_small and not may_be_smaller:
            return render_template(
                "copies/_frame_copy_small.html", job=job, item=item, wanted=wanted
            )
        copy_id = ask_for_frame_copy(session, job, item, may_be_smaller).id
    _send(copy_id)
    return frame_progress(job_id, item_id, copy_id)


@frame_blueprint.get("/<int:copy_id>")
def frame_progress(job_id: int, item_id: int, copy_id: int) -> str:
    """How far a frame's copy is; once it is placed, the page shows it."""
    with studio().session() as session:
        job, copy = job_with(session, job_id), copy_with(session, copy_id)
        item = session.get(Item, item_id)
        return render_template(
            "copies/_frame_copy.html",
            job=job,
            item_id=item_id,
            copy=copy,
            number=item.page.position + 1 if item else 1,
            is_running=copy.state in RUNNING,
        )
