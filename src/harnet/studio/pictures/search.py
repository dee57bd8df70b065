"""Finding pictures on the shelves, by word and by kind, in a chosen order."""

from collections.abc import Iterable
from dataclasses import dataclass

from harnet.core.layout.figures import natural_reach_pt
from harnet.core.pictures.picture import Facts
from harnet.core.pictures.rights import UNSTATED
from harnet.core.targets.target import Target
from harnet.store.tables.pictures import Picture
from harnet.studio.pictures.picture import REMOVED_SHELF, facts_of_picture

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


def shape_of(facts: Facts) -> str:
    """landscape, portrait or square."""
    width, height = facts.px_w or facts.width_pt or 1, facts.px_h or facts.height_pt or 1
    if abs(width / height - 1) <= _SQUARE_WITHIN:
        return "square"
    return "landscape" if width > height else "portrait"


def found(pictures: Iterable[Picture], wanted: PictureFilter, target: Target) -> list[Picture]:
    """The pictures that fit; vector pictures reach farthest and come first by reach."""
    words = wanted.words.lower().split()
    fitting = [
        (picture, facts_of_picture(picture))
        for picture in pictures
        if all(word in picture.file_name.lower() for word in words)
        and (wanted.shelf or _shelf_name(picture) != REMOVED_SHELF)
        and wanted.shelf in ("", _shelf_name(picture))
        and wanted.licence in ("", picture.licence or UNSTATED)
    ]
    kept = [
        (picture, facts)
        for picture, facts in fitting
        if wanted.shape in ("", shape_of(facts))
        and wanted.kind in ("", facts.kind.value)
        and wanted.colour in ("", facts.colour.value)
    ]
    if wanted.order == "name":
        kept.sort(key=lambda pair: pair[0].file_name.lower())
    elif wanted.order == "pixels":
        kept.sort(key=lambda pair: -pair[1].megapixels)
    elif wanted.order == "reach":
        kept.sort(key=lambda pair: -_reach(pair[1], target))
    return [picture for picture, _ in kept]


def _shelf_name(picture: Picture) -> str:
    return picture.shelf.name if picture.shelf else ""


def _reach(facts: Facts, target: Target) -> float:
    """The longer side's reach in points; without end for what has no pixels."""
    reach = natural_reach_pt(facts, target)
    return float("inf") if reach is None else max(reach)
