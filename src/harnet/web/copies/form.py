"""The form of a print copy: what it asks for as a recipe, and what it shows next."""

from dataclasses import dataclass, replace
from enum import Enum
from typing import TypeVar

from werkzeug.datastructures import MultiDict

from harnet.core.copies.recipe import (
    Compression,
    CopyColour,
    CopyFormat,
    Kernel,
    Padding,
    PadEdges,
    PixelBox,
    Recipe,
    bits_of_copy,
    checked,
    copy_bytes,
    plain_copy,
    whole_picture,
)
from harnet.core.copies.size import ChangedField, CopySize, at_density, copy_size
from harnet.core.errors import ValueOutOfRange
from harnet.core.measure.units import Unit
from harnet.core.measure.wording import (
    exact_length_text,
    memory_text,
    ppi_text,
    px_text,
    share_text,
    size_text,
)
from harnet.core.pictures.picture import Colour, Facts
from harnet.core.pictures.resampling import px_for
from harnet.core.targets.shipped import SHIPPED
from harnet.studio.common.errors import sentence_of
from harnet.web.common.values import choice, colour, figure, length, share, whole_figure

UNITS = (Unit.MM, Unit.CM, Unit.INCH, Unit.POINT)
KERNELS = (
    (Kernel.AUTO, "auto"),
    (Kernel.NEAREST, "nearest"),
    (Kernel.LINEAR, "linear"),
    (Kernel.CUBIC, "cubic"),
    (Kernel.MITCHELL, "mitchell"),
    (Kernel.LANCZOS3, "lanczos3"),
)
_Kind = TypeVar("_Kind", bound=Enum)
_WHITE = "#ffffff"


@dataclass(frozen=True, slots=True, kw_only=True)
class CopyForm:
    """The form's figures as texts, its recipe, and what follows from it in words."""

    recipe: Recipe
    unit: Unit
    width: str
    height: str
    density: str
    share: float
    before: str
    pad_x: str
    pad_y: str
    has_alpha: bool
    lines: tuple[str, ...]
    warning: str
    needs_tick: bool
    failure: str


def first_form(facts: Facts, fields: MultiDict[str, str]) -> CopyForm:
    """The form as it opens: all pixels at the first target, or the calculator's pixels."""
    start = plain_copy(facts, SHIPPED[0].density_ppi)
    unit = _unit(fields)
    try:
        width = length(fields.get("width", ""), unit)
        density = figure(fields.get("density", ""), "density")
        size = copy_size(start.crop, ChangedField.WIDTH, width, density)
        start = _sized(start, size)
    except ValueOutOfRange:
        pass
    return _shown(start, facts, unit, fields, "")


def read_form(facts: Facts, fields: MultiDict[str, str]) -> CopyForm:
    """The form after a change; a figure that is not valid leaves the size as it was."""
    unit = _unit(fields, "unit")
    recipe = _before(facts, fields)
    failure = ""
    try:
        before = CopySize(recipe.px_w, recipe.px_h, recipe.density_x)
        recipe = _without_size(recipe, facts, fields)
        recipe = _sized(recipe, _asked_size(recipe.crop, before, fields))
        recipe = replace(recipe, padding=_padding(recipe, fields))
        checked(replace(recipe, may_interpolate=True), facts)
    except ValueOutOfRange as error:
        failure = sentence_of(error)
    return _shown(recipe, facts, unit, fields, failure)


def _before(facts: Facts, fields: MultiDict[str, str]) -> Recipe:
    """Crop and size as they were before the change; they stand where a figure is not valid."""
    plain = plain_copy(facts, SHIPPED[0].density_ppi)
    figures = fields.get("before", "").split()
    try:
        left, top, width, height, px_w, px_h = map(int, figures[:6])
        size = CopySize(max(1, px_w), max(1, px_h), float(figures[6]))
        crop = PixelBox(left, top, width, height).clamped_to(whole_picture(facts))
        kept = replace(_sized(plain, size), crop=crop)
        return checked(replace(kept, may_interpolate=True), facts)
    except (ValueError, IndexError, ValueOutOfRange):
        return plain


def _unit(fields: MultiDict[str, str], name: str = "unit") -> Unit:
    return next((unit for unit in UNITS if unit.value == fields.get(name)), Unit.CM)


def _without_size(recipe: Recipe, facts: Facts, fields: MultiDict[str, str]) -> Recipe:
    """Everything but size and padding, as the form asks."""
    box = whole_picture(facts)
    crop = PixelBox(
        whole_figure(fields.get("crop_left", ""), "crop’s left edge"),
        whole_figure(fields.get("crop_top", ""), "crop’s top edge"),
        whole_figure(fields.get("crop_width", ""), "crop’s width"),
        whole_figure(fields.get("crop_height", ""), "crop’s height"),
    ).clamped_to(box)
    if fields.get("changed") == "whole":
        crop = box
    bits = fields.get("bits", "")
    return replace(
        recipe,
        crop=crop,
        kernel=choice(Kernel, fields.get("kernel", ""), Kernel.AUTO),
        colour=choice(CopyColour, fields.get("colour", ""), CopyColour.KEEP),
        profile=fields.get("profile") or None,
        bits=int(bits) if bits in ("8", "16") else None,
        flatten=colour(fields, "flatten") or _WHITE if fields.get("alpha") == "flatten" else None,
        format=choice(CopyFormat, fields.get("format", ""), recipe.format),
        compression=choice(Compression, fields.get("compression", ""), Compression.DEFLATE),
        is_big_endian=fields.get("byte_order") == "big",
        quality=whole_figure(fields.get("quality", ""), "JPEG quality")
        if fields.get("quality")
        else 92,
        may_interpolate=fields.get("may_interpolate") == "yes",
    )


def _asked_size(crop: PixelBox, before: CopySize, fields: MultiDict[str, str]) -> CopySize:
    shown_in = _unit(fields, "shown_unit")
    changed = fields.get("changed", "")
    if changed == "density":
        return at_density(before, figure(fields.get("density", ""), "density"))
    density = figure(fields.get("density", ""), "density")
    percent = share(fields.get(changed, ""))
    if percent is not None:
        return copy_size(crop, ChangedField.SHARE, percent, density)
    if changed in ("px_w", "px_h"):
        return copy_size(
            crop, ChangedField(changed), figure(fields.get(changed, ""), "pixels"), density
        )
    if changed in ("width", "height"):
        size_pt = length(fields.get(changed, ""), shown_in)
        return copy_size(crop, ChangedField(changed), size_pt, density)
    stays = figure(fields.get("share", ""), "share")
    return copy_size(crop, ChangedField.SHARE, stays, density)


def _sized(recipe: Recipe, size: CopySize) -> Recipe:
    return replace(
        recipe,
        px_w=size.px_w,
        px_h=size.px_h,
        density_x=size.density_ppi,
        density_y=size.density_ppi,
    )


def _padding(recipe: Recipe, fields: MultiDict[str, str]) -> Padding:
    """The form's padding in millimetres as pixels of the copy."""

    def pixels(name: str) -> int:
        size_pt = length(fields.get(name, ""), Unit.MM)
        return px_for(size_pt, recipe.density_x) if size_pt else 0

    across, down = pixels("pad_x"), pixels("pad_y")
    edges = choice(PadEdges, fields.get("edges", ""), PadEdges.COLOUR)
    return Padding(
        left=across,
        top=down,
        right=across,
        bottom=down,
        edges=edges,
        colour=colour(fields, "pad_colour") or _WHITE,
    )


def _shown(
    recipe: Recipe, facts: Facts, unit: Unit, fields: MultiDict[str, str], failure: str
) -> CopyForm:
    size = CopySize(recipe.px_w, recipe.px_h, recipe.density_x)
    crop = recipe.crop
    warning, needs_tick = _warning(recipe)
    return CopyForm(
        recipe=recipe,
        unit=unit,
        width=exact_length_text(size.width_pt, unit),
        height=exact_length_text(size.height_pt, unit),
        density=f"{recipe.density_x:.2f}".rstrip("0").rstrip("."),
        share=recipe.px_w / recipe.crop.width,
        before=f"{crop.left} {crop.top} {crop.width} {crop.height}"
        f" {recipe.px_w} {recipe.px_h} {recipe.density_x}",
        pad_x=fields.get("pad_x") or "0",
        pad_y=fields.get("pad_y") or "0",
        has_alpha=facts.alpha,
        lines=_lines(recipe, facts, unit),
        warning=warning,
        needs_tick=needs_tick,
        failure=failure,
    )


def _lines(recipe: Recipe, facts: Facts, unit: Unit) -> tuple[str, ...]:
    """What the copy will be, before anything happens."""
    width, height = recipe.file_px
    per_pt = 72 / recipe.density_x
    size = size_text(width * per_pt, height * per_pt, unit)
    lines = [
        f"{px_text(width, height)} px, {size} at {ppi_text(recipe.density_x)} ppi",
        f"unpacked {memory_text(facts.unpacked_bytes)} → {memory_text(copy_bytes(recipe, facts))}",
    ]
    change = recipe.change
    if (change.px_w, change.px_h) == (change.old_px_w, change.old_px_h):
        lines.append("not resampled: pixel for pixel")
    else:
        lines.append(f"{change.edge_percent:.4g} % of the edge, {_kernel_text(recipe)}")
    lines.append(_file_text(recipe, facts))
    if not recipe.padding.is_none:
        pad = recipe.padding
        with_what = "its mirrored edge" if pad.edges is PadEdges.MIRROR else f"colour {pad.colour}"
        lines.append(f"padded by {pad.left} px across and {pad.top} px down with {with_what}")
    if facts.colour is Colour.BILEVEL:
        lines.append("1-bit art becomes grey, since resampling needs grey levels")
    return tuple(lines)


def _kernel_text(recipe: Recipe) -> str:
    used = recipe.used_kernel
    if recipe.kernel is Kernel.AUTO and recipe.change.is_enlarging:
        return f"auto takes {used.value}, which keeps edges when enlarging"
    if recipe.kernel is Kernel.AUTO:
        return f"auto takes {used.value}, the sharper one for shrinking"
    if used is not recipe.kernel:
        return f"{used.value}, since {recipe.kernel.value} only shrinks"
    return str(used.value)


def _file_text(recipe: Recipe, facts: Facts) -> str:
    parts = [recipe.format.name]
    if recipe.format is CopyFormat.TIFF:
        parts.append(
            {Compression.NONE: "uncompressed"}.get(recipe.compression, recipe.compression.value)
        )
        parts.append("big-endian" if recipe.is_big_endian else "little-endian")
    elif recipe.format is CopyFormat.JPEG:
        parts.append(f"quality {recipe.quality}")
    parts.append(f"{bits_of_copy(recipe, facts)}-bit")
    if recipe.colour is not CopyColour.KEEP:
        parts.append(f"converted to {recipe.colour.value}")
    if facts.alpha:
        parts.append("alpha kept" if recipe.flatten is None else f"flattened onto {recipe.flatten}")
    return " · ".join(parts)


def _warning(recipe: Recipe) -> tuple[str, bool]:
    change = recipe.change
    if not change.is_enlarging:
        return "", False
    return f"{share_text(change.interpolated_share)} of the pixels would be interpolated", True


def shown_crop(recipe: Recipe, facts: Facts) -> tuple[float, float, float, float]:
    """The crop as shares of the picture: left, top, width, height."""
    width, height = facts.px_w or 1, facts.px_h or 1
    crop = recipe.crop
    return crop.left / width, crop.top / height, crop.width / width, crop.height / height
