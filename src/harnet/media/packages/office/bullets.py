"""Pictures that stand before paragraphs (ISO/IEC 29500-1, 21.1.2.4)."""

from collections.abc import Iterator
from dataclasses import replace

from harnet.core.measure.geometry import Matrix
from harnet.media.packages.gathering import PageGatherer, Shape
from harnet.media.packages.office.fills import Marks, blip_of, paint_fill
from harnet.media.packages.relationships import Relationship
from harnet.media.packages.xml import Element, child, descendants, local, number, share

_USUAL_PT = 18.0
"""What text without a size of its own has in a presentation (from memory)."""


def paint_bullets(
    text: Element,
    shape: Shape,
    relations: dict[str, Relationship],
    page: PageGatherer,
    marks: Marks,
) -> None:
    """Gathers each picture that a text has as a bullet, once for each size.

    A bullet is as high as the letters it stands before, times the share that is stated, and as
    wide as its pixels make it.
    """
    seen: set[tuple[str, float]] = set()
    for properties, size_pt, is_stated in _bulleted(text):
        bullet = child(properties, "buBlip")
        blip = blip_of(bullet) if bullet is not None else None
        relation = relations.get(blip.embed) if blip is not None else None
        if bullet is None or relation is None or relation.part is None:
            continue
        height = _bullet_pt(properties, size_pt)
        if (relation.part, height) in seen:
            continue
        seen.add((relation.part, height))
        px_w, px_h = page.media.look_at(relation.part).px
        width = height * px_w / px_h if px_h else height
        box = bullet_shape(shape, width, height)
        paint_fill(bullet, replace(box, is_assumed=not is_stated), relations, page, marks)


def bullet_shape(shape: Shape, width: float, height: float) -> Shape:
    """The place of a bullet: at the left top of its text, by its own size in points."""
    x, y = shape.matrix.applied(0, 0)
    across = shape.matrix.u_length / shape.own_w_pt if shape.own_w_pt > 0 else 1.0
    down = shape.matrix.v_length / shape.own_h_pt if shape.own_h_pt > 0 else 1.0
    matrix = Matrix(width * across, 0, 0, height * down, x, y)
    return replace(shape, matrix=matrix, own_w_pt=width, own_h_pt=height, source="bullet")


def _bulleted(text: Element) -> Iterator[tuple[Element, float, bool]]:
    """What has a bullet, with its letters' size in points and whether that is stated."""
    for one in descendants(text):
        name = local(one)
        if name == "p":
            properties = child(one, "pPr")
            if properties is not None and child(properties, "buBlip") is not None:
                size = _size_in(one)
                yield properties, size or _USUAL_PT, size is not None
        elif name.startswith("lvl") and name.endswith("pPr"):
            letters = child(one, "defRPr")
            size_pt = number(letters.get("sz")) / 100 if letters is not None else 0.0
            if child(one, "buBlip") is not None:
                yield one, size_pt or _USUAL_PT, size_pt > 0


def _size_in(paragraph: Element) -> float | None:
    for one in descendants(paragraph):
        if local(one) in ("rPr", "endParaRPr") and one.get("sz"):
            return number(one.get("sz")) / 100
    return None


def _bullet_pt(properties: Element, size_pt: float) -> float:
    percent, exact = child(properties, "buSzPct"), child(properties, "buSzPts")
    if exact is not None:
        return number(exact.get("val")) / 100
    if percent is not None:
        return size_pt * share(percent.get("val"))
    return size_pt
