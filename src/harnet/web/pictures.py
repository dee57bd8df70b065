"""The Pictures view: the shelf, taking files in, and one picture's facts and reach."""

from dataclasses import dataclass

from flask import Blueprint, jsonify, render_template, request
from flask.typing import ResponseReturnValue

from harnet.core.density import native_length_pt, reach_pt
from harnet.core.picture import Facts
from harnet.core.target import SHIPPED, Target
from harnet.core.units import Unit
from harnet.core.wording import (
    bytes_text,
    counted,
    memory_text,
    ppi_text,
    px_text,
    size_text,
)
from harnet.media.errors import UnreadableFile
from harnet.store.models import Picture
from harnet.studio.errors import Refused
from harnet.studio.shelfsearch import COLOURS, KINDS, ORDERS, SHAPES, Wanted, found
from harnet.studio.shelves import (
    DEFAULT_SHELF,
    all_pictures,
    facts_of_picture,
    picture_with,
    read_shelves_again,
    shelf_named,
    state_of,
    take_in,
    times_placed,
)
from harnet.web.calculator import KEEP, UNITS, calculator_of, first_size
from harnet.web.files import LADDER_PPI
from harnet.web.shared import desk

blueprint = Blueprint("pictures", __name__, url_prefix="/pictures")
_A4_PT = (595.2756, 841.8898)
_SCENE_PX = (430.0, 300.0)


@dataclass(frozen=True, slots=True)
class WallPicture:
    """A picture on the shelf's wall."""

    picture: Picture
    pixels: str
    reach: str
    is_missing: bool


@dataclass(frozen=True, slots=True)
class Reach:
    """How large a picture may get for a target."""

    target: Target
    ppi: float
    size: str


@dataclass(frozen=True, slots=True)
class Silhouette:
    """A picture's outline at a density, or the sheet, in pixels of the drawing."""

    label: str
    width: float
    height: float
    y: float
    is_sheet: bool


@blueprint.get("")
def shelf() -> str:
    """The pictures that are looked for, with their pixels and their reach at a target."""
    target, wanted = _asked_target(), _wanted()
    with desk().session() as session:
        everything = all_pictures(session)
        return render_template(
            "pictures.html",
            pictures=[_wall_picture(one, target) for one in found(everything, wanted, target)],
            total=len(everything),
            target=target,
            wanted=wanted,
            choices={"shape": SHAPES, "kind": KINDS, "colour": COLOURS},
            orders=ORDERS,
        )


@blueprint.post("/look-again")
def look_again() -> ResponseReturnValue:
    """Reads the shelves' folders for files that came another way."""
    with desk().session() as session:
        added, troubles = read_shelves_again(desk(), session)
    words = [f"{counted(added, 'new picture')} found on the shelves."]
    words += [str(trouble) for trouble in troubles]
    return render_template("_looked.html", sentences=words, added=added)


def _wanted() -> Wanted:
    """What the address asks for; a choice that does not exist leaves that open."""
    asked = request.args
    allowed = {"shape": SHAPES, "kind": KINDS, "colour": COLOURS, "order": ORDERS}
    chosen = {name: asked.get(name, "") for name in allowed}
    chosen = {name: value for name, value in chosen.items() if value in allowed[name]}
    return Wanted(words=asked.get("words", "")[:100], **chosen)


def _asked_target() -> Target:
    asked = request.args.get("target", "coated")
    return next((target for target in SHIPPED if target.key == asked), SHIPPED[0])


def _wall_picture(picture: Picture, target: Target) -> WallPicture:
    facts = facts_of_picture(picture)
    if facts.px_w is None or facts.px_h is None:
        return WallPicture(picture, "line art", "any size", state_of(picture).value == "missing")
    return WallPicture(
        picture,
        f"{px_text(facts.px_w, facts.px_h)} px",
        _reach(facts, target, Unit.MM).size,
        state_of(picture).value == "missing",
    )


def _reach(facts: Facts, target: Target, unit: Unit) -> Reach:
    ppi = target.for_bits(facts.colour.value == "bilevel").density_ppi
    digits = {Unit.MM: 0, Unit.PX: 0, Unit.POINT: 0}.get(unit, 1)
    width, height = reach_pt(facts.px_w or 0, ppi), reach_pt(facts.px_h or 0, ppi)
    return Reach(target, ppi, size_text(width, height, unit, digits=digits))


@blueprint.post("/upload")
def upload() -> ResponseReturnValue:
    """Takes one file in; the page sends several one after the other."""
    file = request.files.get("file")
    if file is None or not file.filename:
        raise Refused("Choose a picture file first.")
    with desk().session() as session:
        shelf = shelf_named(desk(), session, DEFAULT_SHELF)
        before = {picture.id for picture in shelf.pictures}
        try:
            picture = take_in(desk(), session, shelf, file.filename, file.stream)
        except UnreadableFile as error:
            return jsonify(trouble=str(error)), 422
        is_known = picture.id in before
        return jsonify(
            name=picture.file_name,
            is_known=is_known,
            tile=render_template("_tile.html", one=_wall_picture(picture, SHIPPED[0])),
        )


@blueprint.get("/<int:picture_id>")
def picture(picture_id: int) -> str:
    """One picture: its facts, and how large it can print."""
    asked_unit = request.args.get("unit", "cm")
    unit = next((unit for unit in UNITS if unit.value == asked_unit), Unit.CM)
    with desk().session() as session:
        shown = picture_with(session, picture_id)
        facts = facts_of_picture(shown)
        return render_template(
            "picture.html",
            picture=shown,
            facts=_fact_lines(shown, facts),
            is_vector=facts.is_vector,
            unit=unit,
            units=UNITS,
            reaches=[] if facts.is_vector else [_reach(facts, t, unit) for t in SHIPPED],
            silhouettes=[] if facts.is_vector else _silhouettes(facts),
            calculator=None
            if facts.is_vector
            else calculator_of(facts, KEEP, unit, first_size(facts)),
            picture_id=picture_id,
            ladder=() if facts.is_vector else LADDER_PPI,
            state=state_of(shown).value,
            times=times_placed(session, [shown.id]).get(shown.id, 0),
        )


def _fact_lines(picture: Picture, facts: Facts) -> list[tuple[str, str]]:
    """The facts as a list of names and texts."""
    lines = []
    if facts.is_vector:
        natural = size_text(facts.width_pt or 0, facts.height_pt or 0, Unit.MM)
        lines.append(("Natural size", natural))
        lines.append(("Pixels", "none: line art, sharp at any size"))
    else:
        pixels = f"{px_text(facts.px_w, facts.px_h)} · {facts.megapixels:.1f} megapixels"
        lines.append(("Pixels", pixels))
        lines.append(("Density tag", _tag_text(facts)))
        lines.append(("Native size", _native_text(facts)))
        channels = {"bilevel": "1 bit, ink or paper"}.get(facts.colour.value)
        bits = f"{facts.bits} bit"
        name = {"rgb": "RGB", "cmyk": "CMYK", "lab": "Lab"}.get(
            facts.colour.value, facts.colour.value
        )
        profile = facts.icc or "no profile"
        lines.append(("Colour", channels or f"{name} · {bits} · {profile}"))
        lines.append(("Alpha", "yes" if facts.alpha else "no"))
    lines.append(("File", _file_text(facts)))
    if not facts.is_vector:
        lines.append(("Unpacked", memory_text(facts.unpacked_bytes)))
    if facts.frames > 1:
        what = "page" if facts.format in ("pdf", "tiff") else "frame"
        lines.append(("Frames", counted(facts.frames, what)))
    lines.append(("Content", f"SHA-256 {picture.sha256[:12]}…"))
    return lines


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


def _silhouettes(facts: Facts) -> list[Silhouette]:
    """Outlines at three densities and an A4 sheet (ISO 216), all on one scale."""
    sizes = [
        (f"{ppi} ppi", reach_pt(facts.px_w or 1, ppi), reach_pt(facts.px_h or 1, ppi), False)
        for ppi in (150, 220, 300)
    ]
    sizes.append(("A4, same scale", *_A4_PT, True))
    widest = max(width for _, width, _, _ in sizes)
    tallest = max(height for _, _, height, _ in sizes)
    scale = min((_SCENE_PX[0] - 12) / widest, (_SCENE_PX[1] - 12) / tallest)
    return [
        Silhouette(label, width * scale, height * scale, _SCENE_PX[1] - 6 - height * scale, sheet)
        for label, width, height, sheet in sizes
    ]
