"""Pictures offered for a place, each as it would be there."""

from collections.abc import Sequence
from dataclasses import dataclass

from harnet.core.layout.figures import figures_of
from harnet.core.layout.placing import Content, Placement, source_from
from harnet.core.layout.sheets import filling_ppi
from harnet.core.measure.density import judged_ppi
from harnet.core.measure.geometry import Box
from harnet.core.measure.verdict import verdict_of_judged
from harnet.core.measure.wording import density_text, ppi_text, px_text, share_text
from harnet.core.pictures.picture import Colour, Facts
from harnet.core.targets.target import Target
from harnet.store.tables.jobs import Page
from harnet.store.tables.pictures import Picture
from harnet.studio.layout.matching import Candidate
from harnet.studio.pictures.picture import facts_of_picture
from harnet.web.drawing.marks import mark_of
from harnet.web.drawing.pages import Crop, crop_in


@dataclass(frozen=True, slots=True, kw_only=True)
class SwapOffer:
    """A picture that could take the place, as it would be there."""

    picture_id: int
    name: str
    shelf: str
    crop: Crop
    mark: str
    pixels: str
    ppi: str
    headroom: str
    detail: str
    is_same_shot: bool
    is_denser: bool


def marks_on_page(
    page: Page, target: Target, pictures: Sequence[Picture]
) -> dict[int, tuple[str, str]]:
    """Each picture's mark and density if it covered a whole page, by its number."""
    found = {}
    for picture in pictures:
        facts = facts_of_picture(picture)
        if facts.px_w is None or facts.px_h is None:
            found[picture.id] = _mark_of_drawing(page, target, facts)
            continue
        ppi = judged_ppi(filling_ppi(facts.px_w, facts.px_h, page.width_pt, page.height_pt))
        limits = target.for_bits(facts.colour is Colour.BILEVEL)
        mark = verdict_of_judged(ppi, limits).value
        found[picture.id] = (mark, f"{ppi_text(ppi)} ppi")
    return found


def _mark_of_drawing(page: Page, target: Target, facts: Facts) -> tuple[str, str]:
    """Images inside a drawing decide about it; without any it prints at any size."""
    if not facts.images:
        return "line", "any size"
    source = source_from(facts)
    width, height = source.native_size_pt
    scale = max(page.width_pt / width, page.height_pt / height)
    frame = Box(0, 0, width * scale, height * scale)
    figures = figures_of(
        Placement(source=source, frame=frame, content=Content(scale, scale)), target
    )
    return mark_of(figures), f"{ppi_text(figures.judged_ppi or 0.0)} ppi"


def offer_of(one: Candidate, now_ppi: float | None) -> SwapOffer:
    """A candidate, ready to show; `now_ppi` is the density in place, None without."""
    figures, picture = one.match.figures, one.picture
    facts = facts_of_picture(picture)
    density = figures.density
    return SwapOffer(
        picture_id=picture.id,
        name=picture.file_name,
        shelf=picture.shelf.name if picture.shelf else "",
        crop=crop_in(picture.sha256, one.match.placement),
        mark=mark_of(figures),
        pixels=f"{px_text(facts.px_w, facts.px_h)} px" if facts.px_w else "vector",
        ppi=f"{density_text(density)} ppi" if density else "sharp at any size",
        headroom="any" if figures.headroom is None else share_text(figures.headroom, signed=True),
        detail=one.match.detail.words(facts.px_w or 0)
        if one.match.detail is not None and one.match.is_enlarged
        else "",
        is_same_shot=one.match.is_same_shot,
        is_denser=density is None or (now_ppi is not None and density.worst > now_ppi),
    )
