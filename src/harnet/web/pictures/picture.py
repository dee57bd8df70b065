"""One picture: its facts, its rights, how large it can print, and where it is used."""

from flask import Blueprint, redirect, render_template, request, url_for
from flask.typing import ResponseReturnValue

from harnet.core.copies.recipe import recipe_from_values
from harnet.core.measure.units import Unit
from harnet.core.pictures.picture import Facts
from harnet.core.pictures.rights import COMMON_LICENCES, Rights
from harnet.store.database import Session
from harnet.store.tables.pictures import Picture, Shelf
from harnet.studio.copies.copies import copies_of, recipes_behind
from harnet.studio.jobs.jobs import whole_job
from harnet.studio.pictures.picture import (
    REMOVED_SHELF,
    credits_of,
    facts_of_picture,
    kept_detail_of,
    picture_with,
    same_content,
    set_rights,
    state_of,
    uses_of,
)
from harnet.studio.pictures.shelves import own_shelves
from harnet.studio.tasks.states import RUNNING
from harnet.web.common.files import LADDER_PPI
from harnet.web.common.shared import JobHeader, listed_targets, studio
from harnet.web.common.units import own_unit
from harnet.web.common.values import choice
from harnet.web.drawing.loupe import loupe_panel
from harnet.web.drawing.reach import ReachScene, reach_scene, reaches_of
from harnet.web.pictures.facts import fact_lines
from harnet.web.pictures.sizes import KEEP, UNITS, calculator_of, first_size
from harnet.web.pictures.wording import asked_target, copy_note

blueprint = Blueprint("picture", __name__, url_prefix="/pictures/<int:picture_id>")
credits_blueprint = Blueprint("credits", __name__, url_prefix="/jobs/<int:job_id>/credits")


@blueprint.get("")
def show(picture_id: int) -> str:
    """Everything about one picture."""
    usual = own_unit() or Unit.CM
    unit = choice(Unit, request.args.get("unit", ""), usual)
    with studio().session() as session:
        shown = picture_with(session, picture_id)
        facts = facts_of_picture(shown)
        has_pixels = not facts.is_vector
        has_reach = has_pixels or bool(facts.images)
        return render_template(
            "pictures/picture.html",
            picture=shown,
            facts=fact_lines(shown, facts),
            is_endless=not has_reach,
            has_images=bool(facts.images),
            unit=unit,
            units=UNITS,
            reaches=reaches_of(facts, unit, listed_targets()) if has_reach else [],
            scene=_scene(facts, unit) if has_reach else None,
            detail=kept_detail_of(shown),
            calculator=calculator_of(facts, KEEP, unit, first_size(facts)) if has_pixels else None,
            picture_id=picture_id,
            ladder=LADDER_PPI if has_pixels else (),
            loupe=loupe_panel(
                session,
                url_for("picture_loupe.show", picture_id=picture_id),
                "share",
                targets=listed_targets(),
                ppi="150",
            ),
            state=state_of(shown).value,
            uses=uses_of(session, [shown.id]),
            twins=same_content(session, shown),
            origin=_origin(session, shown),
            moves_to=_moves_to(session, shown),
            copies=copies_of(session, shown),
            running=RUNNING,
            licences=COMMON_LICENCES,
        )


def _moves_to(session: Session, picture: Picture) -> list[Shelf]:
    """The shelves that a picture can be moved to; none where its own is someone else's folder."""
    here = picture.shelf
    if here is None or here.is_watched:
        return []
    others = (shelf for shelf in own_shelves(studio(), session) if shelf.id != here.id)
    return [shelf for shelf in others if shelf.name != REMOVED_SHELF]


def _scene(facts: Facts, unit: Unit) -> ReachScene:
    return reach_scene(facts, listed_targets(), asked_target(), unit is Unit.INCH)


def _origin(session: Session, picture: Picture) -> tuple[Picture, str, bool] | None:
    """For a print copy: its original, what marks it, and whether that is a warning."""
    copy = recipes_behind(session, [picture.id]).get(picture.id)
    if copy is None:
        return None
    return copy.picture, *copy_note(recipe_from_values(copy.recipe))


@blueprint.post("/rights")
def write_rights(picture_id: int) -> ResponseReturnValue:
    """Writes down licence, credit line and source."""
    form = request.form
    with studio().session() as session:
        given = Rights(form.get("licence", ""), form.get("credit", ""), form.get("origin", ""))
        set_rights(picture_with(session, picture_id), given)
    return redirect(url_for("picture.show", picture_id=picture_id))


@credits_blueprint.get("")
def credits(job_id: int) -> str:
    """The credits list of a job: every picture once, with its rights and pages."""
    with studio().session() as session:
        job = whole_job(session, job_id)
        listed = credits_of(job)
        return render_template(
            "pictures/credits.html",
            header=JobHeader.of(job),
            job=job,
            credits=listed,
            unstated=sum(not credit.rights.is_stated for credit in listed),
        )
