"""Finding pictures on the shelves, by word and by kind, in a chosen order."""

from dataclasses import dataclass

from sqlalchemy import ColumnElement, Select, and_, case, func, select
from sqlalchemy.orm import Session, joinedload

from harnet.core.layout.figures import natural_reach_pt
from harnet.core.pictures.picture import Facts, Kind, facts_from_values
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
    if wanted.order == "reach":
        numbers = _by_reach(session, fitting, target)
        some = numbers[first : None if most is None else first + most]
        shown = select(Picture).options(joinedload(Picture.shelf)).where(Picture.id.in_(some))
        known = {picture.id: picture for picture in session.scalars(shown)}
        return len(numbers), [known[number] for number in some]
    count = session.scalar(select(func.count()).select_from(fitting.subquery())) or 0
    pixels = func.coalesce(_PX_W, 0) * func.coalesce(_PX_H, 0)
    order = {"name": func.lower(Picture.file_name), "pixels": pixels.desc()}.get(wanted.order)
    orders = [Picture.id.desc()] if order is None else [order, Picture.id.desc()]
    shown = select(Picture).options(joinedload(Picture.shelf))
    shown = shown.where(Picture.id.in_(fitting)).order_by(*orders)
    return count, list(session.scalars(shown.offset(first).limit(most)))


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


def _by_reach(session: Session, fitting: Select[int], target: Target) -> list[int]:
    """The numbers of pictures, those that reach farthest first.

    What has pixels reaches as far as they do, by its colour; only drawings are looked at in full.
    """
    colour = _FACTS["colour"].as_string()
    is_raster = _FACTS["kind"].as_string() == Kind.RASTER.value
    rows = select(Picture.id, func.greatest(_PX_W, _PX_H), colour)
    rasters = session.execute(rows.where(Picture.id.in_(fitting), is_raster)).all()
    a_px: dict[str, float] = {}
    for number, longest, name in rasters:
        if name not in a_px:
            a_px[name] = _reach(_facts(session, number), target) / longest
    reaches = {number: longest * a_px[name] for number, longest, name in rasters}
    drawings = select(Picture.id, _FACTS).where(Picture.id.in_(fitting), ~is_raster)
    for number, facts in session.execute(drawings):
        reaches[number] = _reach(facts_from_values(facts), target)
    return sorted(reaches, key=lambda number: (-reaches[number], -number))


def _facts(session: Session, number: int) -> Facts:
    return facts_from_values(
        session.execute(select(_FACTS).where(Picture.id == number)).scalar_one()
    )


def _reach(facts: Facts, target: Target) -> float:
    """The longer side's reach in points; without end for what has no pixels."""
    reach = natural_reach_pt(facts, target)
    return float("inf") if reach is None else max(reach)
