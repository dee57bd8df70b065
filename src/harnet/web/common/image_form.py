"""The form of page images: what it asks for, and the pixels that leave at the usual densities."""

from dataclasses import dataclass

from werkzeug.datastructures import MultiDict

from harnet.core.measure.units import Unit
from harnet.core.measure.wording import grouped, size_text
from harnet.core.output.page_images import (
    LOWEST_PPI,
    ImageColour,
    ImageFormat,
    ImageSettings,
    SizeBy,
    TiffCompression,
)
from harnet.core.pictures.resampling import page_px
from harnet.media.pagedrawing.page_image import MAX_IMAGE_PX
from harnet.store.tables.jobs import Job, Page
from harnet.web.common.values import choice, figure, whole_figure

USUAL_DENSITIES = (50, 72, 96, 100, 150, 200, 220, 250, 300, 600)


@dataclass(frozen=True, slots=True, kw_only=True)
class ImageSize:
    """The pixels that a page leaves with at a density."""

    density_ppi: float
    px: str
    is_possible: bool
    is_chosen: bool
    is_own: bool
    """Whether they are exactly the pixels that the page is defined in."""


def usual_sizes(
    width_pt: float, height_pt: float, settings: ImageSettings, own_ppi: float | None = None
) -> list[ImageSize]:
    """The pixels of what leaves of a page at the usual densities, and at its own if it has one."""
    densities = {float(ppi) for ppi in USUAL_DENSITIES} | ({own_ppi} if own_ppi else set())
    sizes = []
    for ppi in sorted(densities):
        px_w, px_h = page_px(width_pt, height_pt, ppi)
        is_chosen = settings.size_by is SizeBy.DENSITY and settings.density_ppi == ppi
        is_possible = px_w * px_h <= MAX_IMAGE_PX and ppi >= LOWEST_PPI
        sizes.append(
            ImageSize(
                density_ppi=ppi,
                px=f"{grouped(px_w)} × {grouped(px_h)} px",
                is_possible=is_possible,
                is_chosen=is_chosen,
                is_own=ppi == own_ppi,
            )
        )
    return sizes


def pixel_page_sentence(job: Job, page: Page) -> str:
    """Why a page of pixels leaves with others: what it measures, and what follows at 300 ppi."""
    if not job.px_per_inch:
        return ""
    own_w, own_h = page_px(page.width_pt, page.height_pt, job.px_per_inch)
    dense_w, dense_h = page_px(page.width_pt, page.height_pt, 300)
    inches = size_text(page.width_pt, page.height_pt, Unit.INCH, digits=2)
    return (
        f"This page is {grouped(own_w)} × {grouped(own_h)} px at {job.px_per_inch:g} ppi, so it"
        f" measures {inches}; at 300 ppi it is exported as {grouped(dense_w)} ×"
        f" {grouped(dense_h)} px."
    )


def image_settings_from(form: MultiDict[str, str]) -> ImageSettings:
    """The settings that a form asks for.

    Raises:
        Refused: something that is no figure, or no such format.
    """
    size = form.get("size", "own")
    is_listed = size.isascii() and size.replace(".", "", 1).isdigit()
    size_by = SizeBy.DENSITY if is_listed or size == "own" else choice(SizeBy, size)
    density = size if is_listed else form.get("own_density") or "300"
    if size_by is SizeBy.BYTES:
        density = form.get("bytes_density") or "150"
    pages = form.get("page", "") if form.get("which") == "this" else form.get("pages", "all")
    if form.get("which") == "all":
        pages = "all"
    return ImageSettings(
        format=choice(ImageFormat, form.get("format", "png")),
        size_by=size_by,
        density_ppi=figure(density, "density"),
        edge_px=whole_figure(form.get(f"{size_by.value}_px") or "0", "number of pixels"),
        limit_bytes=int(figure(form.get("limit_kb") or "0", "limit") * 1000),
        quality=whole_figure(form.get("quality") or "90", "quality"),
        compression=choice(TiffCompression, form.get("compression", "deflate")),
        pages=pages.strip()[:200] or "all",
        names=form.get("names", "").strip()[:120] or ImageSettings().names,
        colour=choice(ImageColour, form.get("tiff_colour", "rgb")),
        profile=form.get("profile") or None,
        with_bleed="with_bleed" in form,
    )
