"""The Pages view of the Pages view: strip, canvas, card and ruler, drawn after every edit."""

from collections.abc import Sequence
from dataclasses import dataclass

from flask import Response, after_this_request, render_template, request, url_for

from harnet.core.measure.wording import length_text
from harnet.core.preflight.subject import FileState
from harnet.media.pagedrawing.text_lines import FONT_NAMES
from harnet.store.database import Session
from harnet.store.history import history_of
from harnet.store.tables.jobs import Item, Job
from harnet.studio.jobs.jobs import job_with, page_count, page_of, pages_between
from harnet.studio.judging.judging import catch_up
from harnet.studio.layout.placed import PICTURE, frame_of, placed_from, unit_of
from harnet.studio.layout.placing import item_in
from harnet.studio.ledger.ruler import placements_on_ruler
from harnet.studio.pictures.picture import latest_pictures
from harnet.studio.pictures.shelves import own_shelves
from harnet.studio.preflight.checking import findings_in, worst_verdict
from harnet.web.common.drawing import canvas_of, spread_of, verdict_class
from harnet.web.common.preferences import FIT_WORDS, QUALITIES, own_quality, preferred_fit_name
from harnet.web.common.ruler import Ruler, ruler_of, scale_of
from harnet.web.common.shared import JobHeader, listed_targets, studio
from harnet.web.common.values import row_number
from harnet.web.layout.card import Card, card_of

_HEAVY_FROM = 30
"""A spread with more pictures opens in light, whatever a person prefers."""
_FILM_FRAMES = 60
PLACE_LIST = 60
"""Pictures that the Pages view offers for placing; the others are found by name."""
FIELDS = ("x", "y", "width", "height")


@dataclass(frozen=True, slots=True)
class FilmFrame:
    """A page in the strip: its number, its worst grain mark, whether it is in view."""

    number: int
    mark: str
    is_shown: bool
    has_own_target: bool


def asked_items(session: Session, job_id: int) -> tuple[Job, list[Item]]:
    """The job and the selected items, unless someone changed one since it was shown.

    `items` holds numbers with versions, such as `12:3,15:1`.
    """
    job = job_with(session, job_id)
    values = request.form if request.method == "POST" else request.args
    items = []
    for part in values.get("items", "").split(","):
        number, _, version = part.partition(":")
        item_id = row_number(number)
        if item_id is not None:
            items.append(item_in(job, item_id, row_number(version)))
    return job, items


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
        _say_address(job, number, selected_ids)
    if not is_fragment or request.method == "GET":
        catch_up(session, job)
    header = JobHeader.of(job)
    shown = spread_of(job, number)
    chosen = [item for one in shown for item in page_of(job, one).items if item.id in selected_ids]
    selected = chosen[0] if len(chosen) == 1 else None
    card = _card(job, selected, header)
    quality, is_heavy = _quality(job, shown)
    is_missing = card is not None and card.placed.file_state is FileState.MISSING
    return render_template(
        "layout/_desk.html" if is_fragment else "layout/pages.html",
        header=header,
        job=job,
        number=number,
        page=page,
        film=_film(job, number, shown),
        page_count=page_count(job),
        canvas=canvas_of(job, number, [item.id for item in chosen], quality),
        chosen=chosen,
        selected_text=selected_text(chosen),
        has_pictures=any(item.kind == PICTURE for item in chosen),
        selected=selected,
        card=card,
        fields=box_fields(job, selected),
        pictures=latest_pictures(session, PLACE_LIST),
        place_list=PLACE_LIST,
        shelves=own_shelves(studio(), session),
        is_missing=is_missing,
        is_changed=card is not None and card.placed.file_state is FileState.CHANGED,
        missing=header.counts.missing,
        ruler=_ruler(session, job, header, [item.id for item in chosen]),
        findings=findings_in(session, job, item_ids=[selected.id]) if selected else [],
        is_fragment=is_fragment,
        quality=quality,
        is_heavy=is_heavy,
        qualities=QUALITIES,
        fit_words=FIT_WORDS,
        fit_name=preferred_fit_name(),
        fonts=FONT_NAMES,
        history=history_of(session, job),
        arrange_address=url_for("arrange.stack", job_id=job.id).rpartition("/")[0],
        page_fields=_page_fields(job, number),
        margin_text=length_text(job.margin_pt, *unit_of(job), 2),
        targets=listed_targets(),
    )


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


def _film(job: Job, number: int, shown: list[int]) -> list[FilmFrame]:
    """The pages of the strip: all of a short job, those around the one shown of a long one."""
    first = max(1, min(number - _FILM_FRAMES // 2, page_count(job) - _FILM_FRAMES + 1))
    pages = pages_between(job, first, first + _FILM_FRAMES - 1)
    return [
        FilmFrame(
            page.position + 1,
            verdict_class(worst_verdict(page)),
            page.position + 1 in shown,
            page.target is not None,
        )
        for page in pages
    ]


def _ruler(session: Session, job: Job, header: JobHeader, selected_ids: list[int]) -> Ruler:
    spots = placements_on_ruler(session, job)
    below = sum(count for verdict, count in header.counts.verdicts.items() if verdict.falls_short)
    return ruler_of(spots, header.target, below, scale_of(spots, header.target), selected_ids)


def _say_address(job: Job, number: int, selected_ids: Sequence[int]) -> None:
    """Has the browser's address follow an edit, so that a reload or an undo comes back to it."""
    chosen = ",".join(str(number) for number in selected_ids) or None
    place = url_for("pages.show", job_id=job.id, page=number, select=chosen)

    @after_this_request
    def add(response: Response) -> Response:
        response.headers["HX-Replace-Url"] = place
        return response


def _page_fields(job: Job, number: int) -> tuple[str, str]:
    """Width and height of a page in the job's unit."""
    page = page_of(job, number)
    width, height = (length_text(one, *unit_of(job), 2) for one in (page.width_pt, page.height_pt))
    return width, height


def box_fields(job: Job, item: Item | None) -> dict[str, str]:
    """The frame of a selected item in the job's unit, and its rotation."""
    if item is None:
        return {}
    unit, per_inch = unit_of(job)
    box = frame_of(item)
    lengths = (box.x, box.y, box.width, box.height)
    fields = {
        name: length_text(length, unit, per_inch, 2)
        for name, length in zip(FIELDS, lengths, strict=True)
    }
    return fields | {
        "rotation": f"{item.rotation_deg or 0:g}",
        "radius": length_text(item.radius_pt or 0, unit, per_inch, 2),
    }
