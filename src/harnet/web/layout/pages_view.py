"""The Pages view of the Pages view: strip, canvas, card and ruler, drawn after every edit."""

from collections.abc import Sequence
from dataclasses import dataclass

from flask import Response, after_this_request, render_template, request, url_for

from harnet.core.layout.facing import spread_at
from harnet.core.measure.units import to_points
from harnet.core.measure.wording import exact_length_text, length_text
from harnet.core.preflight.subject import FileState
from harnet.media.pagedrawing.text_lines import FONT_NAMES
from harnet.store.database import Session
from harnet.store.history import history_of, undo_reach
from harnet.store.tables.jobs import Item, Job, Page
from harnet.studio.jobs.jobs import job_with, page_count, page_of, pages_between
from harnet.studio.judging.judging import catch_up
from harnet.studio.layout.film import stamps_of
from harnet.studio.layout.guides import grid_of, guides_of_page
from harnet.studio.layout.matching import candidates_for
from harnet.studio.layout.placed import (
    FRAME,
    PICTURE,
    TEXT,
    frame_of,
    placed_from,
    placement_of,
    target_on,
)
from harnet.studio.layout.placing import items_shown
from harnet.studio.layout.text_styles import TEXT_STYLES, differs
from harnet.studio.ledger.lines import LedgerLines
from harnet.studio.lines.ruler import placements_on_ruler
from harnet.studio.pictures.picture import latest_pictures, names_told_apart
from harnet.studio.pictures.shelves import own_shelves
from harnet.studio.preflight.checking import Listed, findings_in, worst_verdict
from harnet.studio.preflight.speaking import spoken_in
from harnet.web.common.preferences import (
    FIT_WORDS,
    QUALITIES,
    keeps_proportion,
    own_adjusts,
    own_quality,
    preferred_fit_name,
)
from harnet.web.common.shared import JobHeader, drawn_box, listed_targets, studio
from harnet.web.common.units import paper_unit, shown_unit
from harnet.web.common.values import row_number
from harnet.web.drawing.loupe import loupe_panel
from harnet.web.drawing.pages import spread_of, verdict_class
from harnet.web.drawing.ruler import Ruler, ruler_of, scale_between
from harnet.web.layout.canvas import canvas_of
from harnet.web.layout.card import Card, card_of
from harnet.web.layout.offers import SwapOffer, marks_on_page, offer_of

_HEAVY_FROM = 30
"""A spread with more pictures opens in light, whatever a person prefers."""
_FILM_FRAMES = 60
_MOST_OFFERED = 12
_FILM_PX = 94.0
"""Room for a page or a spread in the strip."""
PLACE_LIST = 60
"""Pictures that the Pages view offers for placing; the others are found by name."""
LENGTHS = ("x", "y", "width", "height", "picture_x", "picture_y")
"""The fields of the card that hold lengths."""


@dataclass(frozen=True, slots=True)
class FilmFrame:
    """A page in the strip: its number, its worst grain mark, whether it is in view."""

    number: int
    mark: str
    is_shown: bool
    has_own_target: bool
    stamp: str
    """Changes when the page's drawing does."""
    width: float
    height: float
    """In pixels of the strip."""


def asked_items(session: Session, job_id: int, whole_pages: bool = False) -> tuple[Job, list[Item]]:
    """The job and the selected items, unless someone changed one since it was shown.

    `items` holds numbers with versions, such as `12:3,15:1`. With `whole_pages` what lies beside
    them is read along.
    """
    job = job_with(session, job_id)
    values = request.form if request.method == "POST" else request.args
    parts = [part.partition(":") for part in values.get("items", "").split(",")]
    numbers = [(row_number(number), row_number(version)) for number, _, version in parts]
    wanted = [(number, version) for number, version in numbers if number is not None]
    return job, items_shown(session, job, wanted, whole_pages)


def selected_text(items: Sequence[Item]) -> str:
    """The selected items with their versions, as the page sends them back."""
    return ",".join(f"{item.id}:{item.version}" for item in items)


def items_view(session: Session, job: Job, items: Sequence[Item]) -> str:
    """The Pages view with these items chosen, on the page of the first."""
    session.flush()
    number = items[0].page.position + 1 if items else request.form.get("page", 1, int)
    return desk_view(session, job, number, [item.id for item in items])


def desk_view(
    session: Session,
    job: Job,
    number: int,
    selected_ids: Sequence[int] = (),
    is_fragment: bool = True,
) -> str:
    """The Pages view, as a fragment after an edit or as a page of its own."""
    page = page_of(job, number)
    if request.method == "POST":
        say_address(job, number, selected_ids)
    if not is_fragment or request.method == "GET":
        catch_up(session, job)
    header = JobHeader.of(job)
    shown = spread_of(job, number)
    chosen = [item for one in shown for item in page_of(job, one).items if item.id in selected_ids]
    order = list(selected_ids)
    chosen.sort(key=lambda item: order.index(item.id))
    selected = chosen[0] if len(chosen) == 1 else None
    card = _card(job, selected, header)
    quality, is_heavy = _quality(job, shown)
    pictures = latest_pictures(session, PLACE_LIST)
    is_missing = card is not None and card.placed.file_state is FileState.MISSING
    return render_template(
        "layout/_desk.html" if is_fragment else "layout/pages.html",
        header=header,
        job=job,
        number=number,
        page=page,
        film=_film(session, job, number, shown),
        page_count=page_count(job),
        canvas=canvas_of(job, number, [item.id for item in chosen], quality),
        chosen=chosen,
        selected_text=selected_text(chosen),
        has_pictures=any(item.kind == PICTURE for item in chosen),
        has_texts=any(item.kind == TEXT for item in chosen),
        text_styles=TEXT_STYLES,
        style_differs=selected is not None and selected.kind == TEXT and differs(job, selected),
        selected=selected,
        card=card,
        offers=_offers(session, job, selected),
        fields=figure_fields(job, selected),
        radius=_radius_text(job, selected),
        unit=shown_unit(job)[0].value,
        unit_pt=to_points(1, *shown_unit(job)),
        guides=_guides(job, page),
        grid_fields=_grid_fields(job),
        adjusts=request.form.get("adjusts") or own_adjusts(),
        keeps_proportion=_keeps_proportion(),
        pictures=pictures,
        names=names_told_apart(pictures),
        page_marks=marks_on_page(page, target_on(page, job), pictures),
        place_list=PLACE_LIST,
        shelves=own_shelves(studio(), session),
        loupe=loupe_panel(session, url_for("loupe.page", job_id=job.id), "page"),
        is_missing=is_missing,
        is_changed=card is not None and card.placed.file_state is FileState.CHANGED,
        missing=header.counts.missing,
        ruler=_ruler(session, job, header, [item.id for item in chosen]),
        findings=_findings(session, job, selected),
        is_fragment=is_fragment,
        quality=quality,
        is_heavy=is_heavy,
        qualities=QUALITIES,
        fit_words=FIT_WORDS,
        fit_name=preferred_fit_name(),
        fonts=FONT_NAMES,
        history=history_of(session, job),
        undo_reach=undo_reach(session, job),
        arrange_address=url_for("arrange.stack", job_id=job.id).rpartition("/")[0],
        page_fields=_page_fields(job, number),
        margin_text=exact_length_text(job.margin_pt, *shown_unit(job)),
        targets=listed_targets(),
    )


def _keeps_proportion() -> bool:
    """The choice that was sent just now, else the one that is remembered."""
    if request.endpoint == "pages.figures":
        return request.form.get("keeps_proportion") == "yes"
    return keeps_proportion()


def _quality(job: Job, shown: list[int]) -> tuple[str, bool]:
    """The preview quality of a spread, and whether it is light only because there is so much."""
    quality = job.quality or own_quality()
    pictures = sum(item.kind == PICTURE for one in shown for item in page_of(job, one).items)
    is_heavy = quality == "exact" and pictures > _HEAVY_FROM and job.quality is None
    return ("light" if is_heavy else quality), is_heavy


def _card(job: Job, selected: Item | None, header: JobHeader) -> Card | None:
    if selected is None or selected.kind != PICTURE:
        return None
    number = selected.page.position + 1
    return card_of(job, placed_from(selected, number, header.target))


def _offers(session: Session, job: Job, selected: Item | None) -> list[SwapOffer]:
    """What fills a selected empty frame best."""
    if selected is None or selected.kind != FRAME:
        return []
    offered = candidates_for(session, job, selected, most=_MOST_OFFERED)
    return [offer_of(one, None) for one in offered]


def _film(session: Session, job: Job, number: int, shown: list[int]) -> list[list[FilmFrame]]:
    """The pages of the strip, spread by spread: all of a short job, those around the one shown."""
    count = page_count(job)
    first = max(1, min(number - _FILM_FRAMES // 2, count - _FILM_FRAMES + 1))
    pages = pages_between(job, first, first + _FILM_FRAMES - 1)
    stamps = stamps_of(session, pages)
    frames: dict[int, list[FilmFrame]] = {}
    for page in pages:
        here = page.position + 1
        beside = spread_at(here, count, job.is_facing)
        room = _FILM_PX / len(beside) if len(beside) > 1 else _FILM_PX
        width, height = drawn_box(page.width_pt, page.height_pt, room, _FILM_PX)
        frame = FilmFrame(
            here,
            verdict_class(worst_verdict(page)),
            here in shown,
            page.target is not None,
            stamps[page.id],
            round(width, 1),
            round(height, 1),
        )
        frames.setdefault(beside[0], []).append(frame)
    return list(frames.values())


def _ruler(session: Session, job: Job, header: JobHeader, selected_ids: list[int]) -> Ruler:
    lines = LedgerLines(session, job)
    spots = placements_on_ruler(lines, selected_ids)
    below = sum(count for verdict, count in header.counts.verdicts.items() if verdict.falls_short)
    scale = scale_between(lines.ends, header.target)
    return ruler_of(spots, header.target, below, scale, selected_ids)


def say_address(job: Job, number: int, selected_ids: Sequence[int]) -> None:
    """Has the browser's address follow an edit, so that a reload or an undo comes back to it."""
    chosen = ",".join(str(number) for number in selected_ids) or None
    place = url_for("pages.show", job_id=job.id, page=number, select=chosen)

    @after_this_request
    def add(response: Response) -> Response:
        response.headers["HX-Replace-Url"] = place
        return response


def _findings(session: Session, job: Job, selected: Item | None) -> list[Listed]:
    """What preflight found on the selected item, in this person's unit."""
    if selected is None:
        return []
    return spoken_in(job, findings_in(session, job, item_ids=[selected.id]), paper_unit(job))


def _guides(job: Job, page: Page) -> dict[str, list[tuple[float, str]]]:
    """Each guide's place in points and as text, by axis."""
    unit = shown_unit(job)
    return {
        axis: [(at, exact_length_text(at, *unit)) for at in places]
        for axis, places in guides_of_page(page).items()
    }


def _grid_fields(job: Job) -> dict[str, str]:
    grid, unit = grid_of(job), shown_unit(job)
    return {
        "columns": str(grid.columns),
        "gutter": exact_length_text(grid.gutter_pt, *unit),
        "step": exact_length_text(grid.step_pt, *unit),
    }


def _page_fields(job: Job, number: int) -> tuple[str, str]:
    """Width and height of a page in the job's unit."""
    page = page_of(job, number)
    width, height = (
        length_text(one, *shown_unit(job), 2) for one in (page.width_pt, page.height_pt)
    )
    return width, height


def figure_fields(job: Job, item: Item | None) -> dict[str, str]:
    """The figures of a selected item as the card's fields show them, lengths in the shown unit."""
    if item is None:
        return {}
    unit = shown_unit(job)
    box = frame_of(item)
    lengths = [box.x, box.y, box.width, box.height]
    fields = {"rotation": f"{round(item.rotation_deg or 0, 2):g}"}
    if item.kind == PICTURE:
        placement = placement_of(item)
        lengths += [placement.content.offset_x, placement.content.offset_y]
        fields["scale"] = f"{placement.native_share * 100:.1f}".removesuffix(".0")
        density = placement.density
        if density is not None:
            fields["density"] = f"{min(density.x, density.y):.1f}".removesuffix(".0")
    for name, length in zip(LENGTHS, lengths, strict=False):
        fields[name] = exact_length_text(length, *unit)
    return fields


def _radius_text(job: Job, item: Item | None) -> str:
    """The rounding of a frame's corners."""
    return exact_length_text(item.radius_pt or 0, *shown_unit(job)) if item is not None else ""
