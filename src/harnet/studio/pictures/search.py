"""Finding pictures on the shelves, by word and by kind, in a chosen order."""

from dataclasses import dataclass

from sqlalchemy import (
    ARRAY,
    ColumnElement,
    Float,
    Integer,
    Select,
    and_,
    case,
    func,
    literal,
    select,
)
from sqlalchemy.orm import Session, joinedload

from harnet.core.layout.figures import natural_reach_pt
from harnet.core.measure.density import reach_pt
from harnet.core.pictures.picture import Facts, facts_from_values
from harnet.core.pictures.rights import UNSTATED
from harnet.core.targets.target import Target
from harnet.store.tables.pictures import Picture, Shelf
from harnet.studio.people.access import is_on_seen_shelf
from harnet.studio.pictures.picture import REMOVED_SHELF

SHAPES = ("landscape", "portrait", "square")
KINDS = ("raster", "vector")
COLOURS = ("rgb", "cmyk", "grey", "bilevel", "palette", "lab")
ORDERS = ("newest", "reach", "pixels", "name")
_SQUARE_WITHIN = 0.02


@dataclass(frozen=True, slots=True, kw_only=True)
class PictureFilter:
    """What is looked for; an empty text leaves that open."""

    words: str = ""
    shape: str = ""
    kind: str = ""
    colour: str = ""
    licence: str = ""
    """A licence as it is kept, or `UNSTATED`."""
    shelf: str = ""
    order: str = "newest"


def found(
    session: Session, wanted: PictureFilter, target: Target, first: int = 0, most: int | None = None
) -> tuple[int, list[Picture]]:
    """How many pictures fit, and those from the `first` on, from 0, in the order that is wanted.

    Vector pictures reach farthest and come first by reach.
    """
    fitting = _fitting(wanted)
    count = session.scalar(select(func.count()).select_from(fitting.subquery())) or 0
    if wanted.order == "reach":
        fitting = _by_reach(session, fitting, target)
    elif wanted.order == "pixels":
        fitting = fitting.order_by(Picture.pixels.desc().nulls_last())
    elif wanted.order == "name":
        fitting = fitting.order_by(func.lower(Picture.file_name))
    # Only numbers are put in order; what is known of a picture is read of those that are shown.
    some = session.scalars(fitting.order_by(Picture.id.desc()).offset(first).limit(most)).all()
    shown = select(Picture).options(joinedload(Picture.shelf)).where(Picture.id.in_(some))
    known = {picture.id: picture for picture in session.scalars(shown)}
    return count, [known[number] for number in some]


_FACTS = Picture.facts
_PX_W, _PX_H = _FACTS["px_w"].as_float(), _FACTS["px_h"].as_float()


def _fitting(wanted: PictureFilter) -> Select[int]:
    """The numbers of the pictures that fit."""
    fits: list[ColumnElement[bool]] = [is_on_seen_shelf()]
    for word in wanted.words.split():
        fits.append(Picture.file_name.icontains(word, autoescape=True))
    fits.append(Shelf.name == wanted.shelf if wanted.shelf else Shelf.name != REMOVED_SHELF)
    if wanted.licence:
        fits.append(Picture.licence == ("" if wanted.licence == UNSTATED else wanted.licence))
    if wanted.shape:
        fits.append(_shape() == wanted.shape)
    if wanted.kind:
        fits.append(_FACTS["kind"].as_string() == wanted.kind)
    if wanted.colour:
        fits.append(_FACTS["colour"].as_string() == wanted.colour)
    return select(Picture.id).join(Picture.shelf).where(and_(*fits))


def _shape() -> ColumnElement[str]:
    """landscape, portrait or square, by pixels or, without, by size."""
    width = func.coalesce(func.nullif(_PX_W, 0), func.nullif(_FACTS["width_pt"].as_float(), 0), 1)
    height = func.coalesce(func.nullif(_PX_H, 0), func.nullif(_FACTS["height_pt"].as_float(), 0), 1)
    is_square = func.abs(width / height - 1) <= _SQUARE_WITHIN
    return case((is_square, "square"), (width > height, "landscape"), else_="portrait")


def _by_reach(session: Session, fitting: Select[int], target: Target) -> Select[int]:
    """The numbers of pictures, those that reach farthest first.

    What has pixels reaches as far as they do; only drawings are looked at in full.
    """
    has_none = Picture.longest_px.is_(None)
    rows = session.execute(fitting.where(has_none).add_columns(_FACTS))
    reaches = {number: _reach(facts_from_values(facts), target) for number, facts in rows}
    drawings = (
        func.unnest(
            literal(list(reaches), ARRAY(Integer)), literal(list(reaches.values()), ARRAY(Float))
        )
        .table_valued("id", "reach", name="drawing")
        .render_derived()
    )
    on_bits, on_tone = (
        reach_pt(1, target.for_bits(is_bilevel).density_ppi) for is_bilevel in (True, False)
    )
    reach = Picture.longest_px * case((Picture.is_bilevel, on_bits), else_=on_tone)
    by_reach = func.coalesce(drawings.c.reach, reach).desc()
    return fitting.outerjoin(drawings, drawings.c.id == Picture.id).order_by(by_reach)


def _reach(facts: Facts, target: Target) -> float:
    """The longer side's reach in points; without end for what has no pixels."""
    reach = natural_reach_pt(facts, target)
    return float("inf") if reach is None else max(reach)
