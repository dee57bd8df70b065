"""The picture card: everything about the selected placement, ready to show."""

from dataclasses import dataclass

from harnet.core.layout.figures import reach_zones
from harnet.core.layout.placing import Source, deciding_width_pt
from harnet.core.measure.units import Unit
from harnet.core.measure.verdict import Verdict
from harnet.core.measure.wording import (
    counted,
    density_text,
    grouped,
    ppi_text,
    px_text,
    reach_text,
    share_text,
    short_length_text,
    size_text,
)
from harnet.core.pictures.colour_words import COLOUR_WORDS
from harnet.core.pictures.picture import Facts
from harnet.store.tables.jobs import Job
from harnet.studio.layout.placed import Placed, has_own_target
from harnet.studio.pictures.picture import facts_of_picture
from harnet.web.common.units import shown_unit
from harnet.web.drawing.marks import mark_of

_BAR_PX = 308.0


@dataclass(frozen=True, slots=True)
class BarZone:
    """A stretch of the reach bar, in pixels of its drawing."""

    verdict: Verdict
    x: float
    width: float


@dataclass(frozen=True, slots=True, kw_only=True)
class ReachBar:
    """The picture's drawn width against the widths of each verdict."""

    zones: tuple[BarZone, ...]
    now_x: float
    now_text: str
    label_x: float
    label_anchor: str
    reach_x: float
    reach_text: str
    end_text: str
    end_pt: float

    @property
    def now_left(self) -> float:
        """The left edge of the mark of the width now."""
        return self.now_x - 1


@dataclass(frozen=True, slots=True, kw_only=True)
class Card:
    """What the picture card says; texts carry their units."""

    placed: Placed
    name: str
    page_line: str
    verdict_class: str
    verdict_text: str
    ppi: str
    shortfall: str
    headroom: str
    bar: ReachBar | None
    facts: tuple[tuple[str, str], ...]
    native_label: str

    @property
    def is_uneven(self) -> bool:
        """Whether there is something to even out."""
        return self.placed.figures.is_uneven


def card_of(job: Job, placed: Placed) -> Card:
    """The card of a placed picture."""
    assert placed.item.picture is not None
    unit, per_inch = shown_unit(job)
    placement, figures = placed.placement, placed.figures
    facts = facts_of_picture(placed.item.picture)
    density = figures.density
    target_ppi = ppi_text(figures.target.density_ppi)
    kind = "vector" if facts.is_vector else "picture"
    pixels = f"{px_text(facts.px_w, facts.px_h)} px" if facts.px_w else ""
    if facts.image_count:
        pixels = f"{counted(facts.image_count, 'image')} inside"
    return Card(
        placed=placed,
        name=placed.name,
        page_line=" · ".join(_page_line(placed, kind, pixels)),
        verdict_class=mark_of(figures),
        verdict_text=_verdict_text(figures.verdict, density is None),
        ppi=_ppi_line(placed),
        shortfall=_shortfall(placed),
        headroom="any size"
        if figures.headroom is None
        else share_text(figures.headroom, signed=True),
        bar=_bar(placed, unit, per_inch) if density is not None else None,
        facts=_facts(job, placed, target_ppi),
        native_label=f"Scale to native {ppi_text(placement.source.native_x)}",
    )


def _page_line(placed: Placed, kind: str, pixels: str) -> list[str]:
    parts = [f"page {placed.page_number}", kind]
    if pixels:
        parts.append(pixels)
    shelf = placed.item.picture.shelf if placed.item.picture is not None else None
    if shelf is not None:
        parts.append(shelf.name)
    if has_own_target(placed.item):
        parts.append(f"own target {ppi_text(placed.figures.target.density_ppi)} ppi")
    return parts


def _verdict_text(verdict: Verdict, is_vector: bool) -> str:
    if is_vector:
        return "Vector, sharp at any size"
    return {
        Verdict.COARSE: "Coarse: pixels will show",
        Verdict.THIN: "Thin for this target",
        Verdict.NEAR: "Near: within tolerance",
        Verdict.FULL: "Full: meets the target",
        Verdict.SURPLUS: "Surplus: more than needed",
    }[verdict]


def _ppi_line(placed: Placed) -> str:
    density = placed.figures.density
    return "—" if density is None else density_text(density)


def _shortfall(placed: Placed) -> str:
    figures = placed.figures
    if figures.judged_ppi is None:
        return "vector, no ppi"
    target = figures.target.density_ppi
    if figures.judged_ppi < target:
        return f"{ppi_text(target - figures.judged_ppi)} short of {ppi_text(target)}"
    return f"target {ppi_text(target)} is met"


def _facts(job: Job, placed: Placed, target_ppi: str) -> tuple[tuple[str, str], ...]:
    assert placed.item.picture is not None
    unit, per_inch = shown_unit(job)
    placement, figures = placed.placement, placed.figures
    facts = facts_of_picture(placed.item.picture)
    frame = placement.frame
    drawn = size_text(*placement.drawn_size_pt, unit, per_inch)
    rows = [
        ("Frame", size_text(frame.width, frame.height, unit, per_inch)),
        ("Picture", f"{drawn} at {share_text(placement.native_share)}"),
    ]
    if facts.image_count:
        rows.append(("Images inside", _inside_text(facts)))
    elif figures.density is not None:
        rows.append(("Native density", _native(placement.source)))
    if figures.reach_w_pt is not None and figures.reach_h_pt is not None:
        reach = reach_text(figures.reach_w_pt, figures.reach_h_pt, unit, per_inch)
        rows.append((f"Reach at {target_ppi} ppi", reach))
        rows.append(
            ("Needed for this frame", f"{px_text(figures.needed_px_w, figures.needed_px_h)} px")
        )
    if figures.is_uneven:
        rows.append(("Evenness", f"{share_text(figures.evenness)} uneven"))
    colour = facts.icc or COLOUR_WORDS[facts.colour]
    rows.append(("File", f"{placed.file_state.value} · {facts.format.upper()} · {colour}"))
    return tuple(rows)


def _inside_text(facts: Facts) -> str:
    """How many images a drawing holds, and the pixels of the least dense."""
    worst = facts.images[0]
    return f"{grouped(facts.image_count)}, least dense {px_text(worst.px_w, worst.px_h)} px"


def _native(source: Source) -> str:
    if not source.has_tag:
        return "no tag, 72 ppi assumed"
    if abs(source.native_x - source.native_y) < 0.5:
        return f"{ppi_text(source.native_x)} ppi (tag)"
    return f"{ppi_text(source.native_x)} × {ppi_text(source.native_y)} ppi (tag)"


def _bar(placed: Placed, unit: Unit, per_inch: float) -> ReachBar:
    placement, figures = placed.placement, placed.figures
    zones = reach_zones(figures.px_across, figures.target)
    assert figures.density is not None and figures.reach_w_pt is not None
    now = deciding_width_pt(placement)
    end = max(zones[-1].to_pt, now * 1.08)
    per_pt = _BAR_PX / end
    drawn = [
        BarZone(zone.verdict, zone.from_pt * per_pt, (zone.to_pt - zone.from_pt) * per_pt)
        for zone in zones[:-1]
    ]
    last = zones[-1]
    drawn.append(BarZone(last.verdict, last.from_pt * per_pt, _BAR_PX - last.from_pt * per_pt))
    now_x = now * per_pt

    def short(length_pt: float) -> str:
        return short_length_text(length_pt, unit, per_inch)

    is_right = now_x > _BAR_PX * 0.6
    return ReachBar(
        zones=tuple(drawn),
        now_x=now_x,
        now_text=f"now {short(now)} {unit.value}",
        label_x=now_x - 9 if is_right else now_x + 9,
        label_anchor="end" if is_right else "start",
        reach_x=figures.reach_w_pt * per_pt,
        reach_text=f"{short(figures.reach_w_pt)} {unit.value}",
        end_text=f"{short(end)} {unit.value}",
        end_pt=end,
    )
