"""One picture: its facts, its rights, how large it can print, and where it is used."""

from flask import Blueprint, redirect, render_template, request, url_for
from flask.typing import ResponseReturnValue
from sqlalchemy.orm import Session

from harnet.core.layout.placing import placed_at_native_size, source_from
from harnet.core.measure.density import native_length_pt
from harnet.core.measure.units import Unit
from harnet.core.measure.wording import (
    bytes_text,
    counted,
    grouped,
    memory_text,
    ppi_text,
    px_text,
    size_text,
)
from harnet.core.pictures.picture import Facts
from harnet.core.pictures.recipe import recipe_from_row
from harnet.core.pictures.rights import COMMON_LICENCES, UNSTATED, Rights
from harnet.store.tables.pictures import Picture
from harnet.studio.copies.copies import copies_of, recipes_behind
from harnet.studio.jobs.jobs import whole_job
from harnet.studio.pictures.picture import (
    credits_of,
    facts_of_picture,
    picture_with,
    same_content,
    set_rights,
    state_of,
    uses_of,
)
from harnet.studio.tasks.states import RUNNING
from harnet.web.common.reach import reaches_of, silhouettes_of
from harnet.web.common.shared import JobHeader, listed_targets, studio
from harnet.web.files import LADDER_PPI
from harnet.web.pictures.calculator import KEEP, UNITS, calculator_of, first_size
from harnet.web.pictures.shelf import copy_note

blueprint = Blueprint("picture", __name__, url_prefix="/pictures/<int:picture_id>")
credits_blueprint = Blueprint("credits", __name__, url_prefix="/jobs/<int:job_id>/credits")


@blueprint.get("")
def show(picture_id: int) -> str:
    """Everything about one picture."""
    asked_unit = request.args.get("unit", "cm")
    unit = next((unit for unit in UNITS if unit.value == asked_unit), Unit.CM)
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
            silhouettes=silhouettes_of(facts, listed_targets()) if has_reach else [],
            calculator=calculator_of(facts, KEEP, unit, first_size(facts)) if has_pixels else None,
            picture_id=picture_id,
            ladder=LADDER_PPI if has_pixels else (),
            state=state_of(shown).value,
            uses=uses_of(session, [shown.id]),
            twins=same_content(session, shown),
            origin=_origin(session, shown),
            copies=copies_of(session, shown),
            running=RUNNING,
            licences=COMMON_LICENCES,
        )


def _origin(session: Session, picture: Picture) -> tuple[Picture, str, bool] | None:
    """For a print copy: its original, what marks it, and whether that is a warning."""
    copy = recipes_behind(session, [picture.id]).get(picture.id)
    if copy is None:
        return None
    return copy.picture, *copy_note(recipe_from_row(copy.recipe))


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


def fact_lines(picture: Picture, facts: Facts) -> list[tuple[str, str]]:
    """The facts as a list of names and texts."""
    lines = []
    if facts.is_vector:
        natural = size_text(facts.width_pt or 0, facts.height_pt or 0, Unit.MM)
        lines.append(("Natural size", natural))
        lines += _inside_lines(facts)
    else:
        pixels = f"{px_text(facts.px_w, facts.px_h)} · {facts.megapixels:.1f} megapixels"
        lines.append(("Pixels", pixels))
        lines.append(("Density tag", _tag_text(facts)))
        lines.append(("Native size", _native_text(facts)))
        lines.append(("Colour", _colour_text(facts)))
        lines.append(("Alpha", "yes" if facts.alpha else "no"))
    lines.append(("File", _file_text(facts)))
    if not facts.is_vector:
        lines.append(("Unpacked", memory_text(facts.unpacked_bytes)))
    if facts.frames > 1:
        what = "page" if facts.format in ("pdf", "tiff") else "frame"
        lines.append(("Frames", counted(facts.frames, what)))
    rights = " · ".join(text for text in (picture.licence, picture.credit) if text)
    lines.append(("Rights", rights or UNSTATED))
    lines.append(("Content", f"SHA-256 {picture.sha256[:12]}…"))
    return lines


def _inside_lines(facts: Facts) -> list[tuple[str, str]]:
    """The pixels inside a drawing: none, or those of its images at its natural size."""
    if not facts.images:
        return [("Pixels", "none: vector, sharp at any size")]
    natural = placed_at_native_size(source_from(facts), 0, 0)
    worst = facts.images[0]
    density = natural.density
    assert density is not None
    return [
        ("Images inside", grouped(facts.image_count)),
        (
            "Least dense",
            f"{px_text(worst.px_w, worst.px_h)} px, {ppi_text(density.judged)} ppi at that size",
        ),
    ]


def _colour_text(facts: Facts) -> str:
    if facts.colour.value == "bilevel":
        return "1 bit, ink or paper"
    names = {"rgb": "RGB", "cmyk": "CMYK", "lab": "Lab"}
    name = names.get(facts.colour.value, facts.colour.value)
    return f"{name} · {facts.bits} bit · {facts.icc or 'no profile'}"


def _tag_text(facts: Facts) -> str:
    if facts.density_x is None or facts.density_y is None:
        return "none"
    if abs(facts.density_x - facts.density_y) < 0.5:
        return f"{ppi_text(facts.density_x)} ppi"
    return f"{ppi_text(facts.density_x)} × {ppi_text(facts.density_y)} ppi"


def _native_text(facts: Facts) -> str:
    width = native_length_pt(facts.px_w or 0, facts.density_x)
    height = native_length_pt(facts.px_h or 0, facts.density_y)
    text = size_text(width, height, Unit.CM)
    return text if facts.density_x else f"{text}, 72 ppi assumed"


def _file_text(facts: Facts) -> str:
    parts = [facts.format.upper()]
    if facts.jpeg_quality is not None:
        parts.append(f"quality ≈ {facts.jpeg_quality}")
    elif facts.compression and facts.compression not in ("JPEG", facts.format.upper()):
        parts.append("unpacked" if facts.compression == "none" else facts.compression)
    if not facts.is_vector:
        parts.append("lossy" if facts.lossy else "lossless")
    parts.append(bytes_text(facts.size_bytes))
    return " · ".join(parts)
