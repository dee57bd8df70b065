"""Pictures of DrawingML: what is cropped, how a fill is fitted, which effects lie on it.

ISO/IEC 29500-1, 20.1.8.14 (blipFill), 20.1.8.55 (srcRect), 20.1.8.30 (fillRect), 20.1.8.58 (tile);
clauses from memory.
"""

from dataclasses import dataclass

from harnet.core.documents.images import Crop
from harnet.core.measure.geometry import Matrix
from harnet.core.measure.units import CSS_PX_PER_INCH, POINTS_PER_INCH
from harnet.media.packages.gathering import NO_CROP, Fitting, PageGatherer, Shape, fallback_shape
from harnet.media.packages.relationships import Relationship
from harnet.media.packages.xml import (
    Element,
    attribute,
    child,
    children,
    descendants,
    local,
    number,
    points,
    share,
)

MARKED_PPI = {"email": 96, "screen": 150, "print": 220, "hqprint": 330}
"""What `cstate` says that a picture was shrunk for; common practice, no source."""
_EFFECTS = {
    "grayscl": "shown in grey",
    "biLevel": "shown in black and white",
    "duotone": "recoloured in two tones",
    "clrChange": "one colour shown as another",
    "clrRepl": "recoloured",
    "lum": "brightness or contrast changed",
    "hsl": "hue or saturation changed",
    "tint": "tinted",
    "alphaModFix": "transparent",
    "blur": "blurred",
    "fillOverlay": "overlaid",
}
_MOST_CROP = 1000.0


@dataclass(frozen=True, slots=True, kw_only=True)
class Blip:
    """A picture that a fill refers to, by relationship ids: embedded, linked, as vector."""

    embed: str = ""
    link: str = ""
    svg: str = ""
    kept_layers: tuple[str, ...] = ()
    marked: str = ""
    effects: tuple[str, ...] = ()
    is_invisible: bool = False


def blip_of(fill: Element) -> Blip | None:
    """What a `blipFill`, a bullet or a model refers to; None where it refers to nothing."""
    blip = fill if local(fill) == "blip" else child(fill, "blip")
    if blip is None:
        return None
    svg, layers = "", []
    effects = []
    is_invisible = False
    for one in descendants(blip):
        name = local(one)
        if name == "svgBlip":
            svg = attribute(one, "embed")
        elif name == "imgLayer":
            layers.append(attribute(one, "embed"))
        elif name == "imgEffect":
            effects.append("artistic effect")
        elif name in _EFFECTS:
            effects.append(_EFFECTS[name])
            is_invisible = is_invisible or (name == "alphaModFix" and one.get("amt") == "0")
    return Blip(
        embed=attribute(blip, "embed"),
        link=attribute(blip, "link"),
        svg=svg,
        kept_layers=tuple(layers),
        marked=blip.get("cstate", ""),
        effects=tuple(dict.fromkeys(effects)),
        is_invisible=is_invisible,
    )


def edges_of(rect: Element | None) -> Crop:
    """The four shares of a `srcRect` or a `fillRect`."""
    if rect is None:
        return NO_CROP
    left, top, right, bottom = (share(rect.get(side)) for side in "ltrb")
    return left, top, right, bottom


def fitting_of(fill: Element) -> Fitting:
    """How a fill's picture is fitted in its shape, where it is stretched."""
    stretch = child(fill, "stretch")
    inset = edges_of(child(stretch, "fillRect")) if stretch is not None else NO_CROP
    return Fitting(source_crop=edges_of(child(fill, "srcRect")), target_inset=inset)


@dataclass(slots=True)
class Marks:
    """How many pictures are marked as shrunk for which density."""

    counts: dict[int, int]

    def take(self, blip: Blip) -> None:
        """Counts a picture's mark."""
        ppi = MARKED_PPI.get(blip.marked)
        if ppi is not None and blip.embed:
            self.counts[ppi] = self.counts.get(ppi, 0) + 1


def paint_fill(
    fill: Element,
    shape: Shape,
    relations: dict[str, Relationship],
    page: PageGatherer,
    marks: Marks,
) -> None:
    """Gathers the picture of a `blipFill` in its shape."""
    blip = blip_of(fill)
    if blip is None:
        return
    marks.take(blip)
    for layer in blip.kept_layers:
        kept = relations.get(layer)
        if kept is not None and kept.part is not None:
            page.media.edited.add(kept.part)
    if blip.is_invisible and not shape.unseen:
        shape = _unseen(shape, "fully transparent")
    fitting, tile = fitting_of(fill), child(fill, "tile")
    svg = relations.get(blip.svg)
    embedded = relations.get(blip.embed)
    if svg is not None and svg.part is not None:
        page.picture(svg.part, shape, fitting, effects=blip.effects)
        shape = fallback_shape(shape)
    if embedded is not None and embedded.part is not None:
        if tile is not None:
            shape, fitting = _tiled(tile, fill, embedded.part, shape, fitting, page)
        is_shown = not shape.unseen
        page.picture(
            embedded.part, shape, fitting, effects=blip.effects, has_mark=is_shown and tile is None
        )
    elif embedded is not None and not (svg and svg.part):
        page.left_out.append(f"picture {embedded.address}, which is missing from the file")
    elif blip.link and blip.link in relations:
        page.link(relations[blip.link].address, shape)


def _unseen(shape: Shape, why: str) -> Shape:
    return Shape(
        matrix=shape.matrix,
        own_w_pt=shape.own_w_pt,
        own_h_pt=shape.own_h_pt,
        source=shape.source,
        name=shape.name,
        heading=shape.heading,
        unseen=why,
    )


def _tiled(
    tile: Element, fill: Element, part: str, shape: Shape, fitting: Fitting, page: PageGatherer
) -> tuple[Shape, Fitting]:
    """The first tile of a fill: the picture at its native size, scaled by the fill.

    Native is by the density that the fill states, else by the picture's tag, else 96 ppi (common
    practice, no source). Its size on the shape is that of one tile; only that is judged.
    """
    file = page.media.look_at(part)
    stated = number(fill.get("dpi"))
    tag = file.tag_ppi
    across, down = (stated, stated) if stated > 0 else tag or (CSS_PX_PER_INCH, CSS_PX_PER_INCH)
    px_w, px_h = file.px
    left, top, right, bottom = fitting.source_crop
    scale_x, scale_y = share(tile.get("sx", "100000")), share(tile.get("sy", "100000"))
    width = px_w * POINTS_PER_INCH / across * abs(scale_x) * (1 - left - right)
    height = px_h * POINTS_PER_INCH / down * abs(scale_y) * (1 - top - bottom)
    if min(width, height) <= 0 or min(shape.own_w_pt, shape.own_h_pt) <= 0:
        return shape, fitting
    x = points(tile.get("tx")) / shape.own_w_pt
    y = points(tile.get("ty")) / shape.own_h_pt
    one = Matrix(width / shape.own_w_pt, 0, 0, height / shape.own_h_pt, x, y).then(shape.matrix)
    tiled = Shape(
        matrix=one,
        own_w_pt=width,
        own_h_pt=height,
        source=shape.source,
        name=shape.name,
        heading=shape.heading,
        unseen=shape.unseen,
        is_assumed=shape.is_assumed or (stated <= 0 and tag is None),
    )
    return tiled, Fitting(source_crop=fitting.source_crop)


def fill_in(properties: Element | None) -> Element | None:
    """The picture fill that a shape's properties state themselves; None where they state none."""
    return child(properties, "blipFill") if properties is not None else None


def states_fill(properties: Element | None) -> bool:
    """Whether a shape's properties state some fill, so that its style's does not show."""
    if properties is None:
        return False
    names = {"blipFill", "noFill", "solidFill", "gradFill", "pattFill", "grpFill"}
    return any(local(one) in names for one in children(properties))
