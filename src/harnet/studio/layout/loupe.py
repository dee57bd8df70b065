"""What lies under the press loupe on a page: its pictures around a place, topmost last."""

from dataclasses import dataclass

from harnet.core.layout.placing import Placement
from harnet.core.layout.shape import Outline
from harnet.core.layout.turned_box import bounds_of
from harnet.core.measure.geometry import Matrix
from harnet.core.targets.target import Target
from harnet.media.pixels.halftone import PrintedPicture
from harnet.store.tables.jobs import Item, Job, Page
from harnet.studio.common.studio import Studio
from harnet.studio.jobs.jobs import target_of
from harnet.studio.layout.crossing import crossing_onto, page_beside
from harnet.studio.layout.placed import PICTURE, placement_of, target_for
from harnet.studio.pictures.exact import exact_file
from harnet.studio.pictures.loupe import LoupeSettings, Sample, prints_black_only, sampled
from harnet.studio.pictures.picture import facts_of_picture

_STEPS_PER_CURVE = 12


@dataclass(frozen=True, slots=True, kw_only=True)
class PageSample:
    """A sample of a page: the picture that is under its middle, its target, what is seen.

    `item` is None where no picture lies there. `waiting` are pictures whose exact previews are not
    made yet; `sample` is None while the one in the middle is among them, or has no pixels.
    """

    item: Item | None = None
    target: Target | None = None
    sample: Sample | None = None
    waiting: tuple[int, ...] = ()


def sample_at(
    studio: Studio, job: Job, page: Page, at: tuple[float, float], settings: LoupeSettings
) -> PageSample:
    """The sample around a place of a page, in points from its trim's top left.

    Raises:
        ValueOutOfRange: settings that cannot be.
    """
    half = settings.lens().edge_px / settings.lens().px_per_inch * 36
    near = [
        (item, placement)
        for item, placement in _pictures_on(job, page)
        if _is_near(placement, at, half)
    ]
    under = [one for one in near if _holds(one[1], at)]
    if not under:
        return PageSample()
    item, _ = under[-1]
    target = target_for(item, target_of(job))
    parts: list[PrintedPicture] = []
    waiting: list[int] = []
    for one, placement in near[: near.index(under[-1]) + 1]:
        assert one.picture is not None
        facts = facts_of_picture(one.picture)
        if facts.is_vector:
            continue
        path = exact_file(studio, one.picture.sha256)
        if path is None:
            waiting.append(one.picture.id)
            continue
        parts.append(
            PrintedPicture(
                path=path,
                matrix=placement.matrix.then(Matrix.translation(-at[0], -at[1])),
                outline=_corners(placement.outline, at),
                black_only=prints_black_only(facts),
            )
        )
    assert item.picture is not None
    facts = facts_of_picture(item.picture)
    sample = None
    if item.picture.id not in waiting and facts.px_w and facts.px_h:
        is_bilevel = placement_of(item).source.is_bilevel
        sample = sampled(parts, (facts.px_w, facts.px_h), target, is_bilevel, settings, at)
    return PageSample(item=item, target=target, sample=sample, waiting=tuple(waiting))


def _pictures_on(job: Job, page: Page) -> list[tuple[Item, Placement]]:
    """The pictures seen on a page, lowest first; those of the page beside reach over from below."""
    beside = page_beside(job, page)
    crossing = crossing_onto(job, page, beside) if beside is not None else []
    over = [(item, one) for item, one in crossing if isinstance(one, Placement)]
    own = [
        (item, placement_of(item))
        for item in page.items
        if item.kind == PICTURE and item.picture is not None
    ]
    return over + own


def _is_near(placement: Placement, at: tuple[float, float], half: float) -> bool:
    box = bounds_of(placement.corners)
    return (
        box.x < at[0] + half
        and box.x + box.width > at[0] - half
        and box.y < at[1] + half
        and box.y + box.height > at[1] - half
    )


def _holds(placement: Placement, at: tuple[float, float]) -> bool:
    """Whether a place lies in the frame and on the picture."""
    x, y = placement.turn.inverse.applied(*at)
    frame = placement.frame
    u, v = placement.matrix.inverse.applied(*at)
    is_framed = frame.x <= x <= frame.x + frame.width and frame.y <= y <= frame.y + frame.height
    return is_framed and 0 <= u <= 1 and 0 <= v <= 1


def _corners(outline: Outline, at: tuple[float, float]) -> tuple[tuple[float, float], ...]:
    """The outline as a polygon around a place; curves in steps too short to be seen."""
    points = [outline.start]
    for step in outline.steps:
        if len(step) == 1:
            points.append(step[0])
            continue
        start, (first, second, end) = points[-1], step
        for count in range(1, _STEPS_PER_CURVE + 1):
            t = count / _STEPS_PER_CURVE
            shares = ((1 - t) ** 3, 3 * t * (1 - t) ** 2, 3 * t * t * (1 - t), t**3)
            curve = (start, first, second, end)
            points.append(
                (
                    sum(share * x for share, (x, _) in zip(shares, curve, strict=True)),
                    sum(share * y for share, (_, y) in zip(shares, curve, strict=True)),
                )
            )
    return tuple((x - at[0], y - at[1]) for x, y in points)
