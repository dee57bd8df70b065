"""How large a PDF will be, before it is made: pictures measured one by one, and remembered."""

import tempfile
import time
from dataclasses import dataclass, replace
from hashlib import sha256
from pathlib import Path

from sqlalchemy import select
from sqlalchemy.dialects.postgresql import insert
from sqlalchemy.orm import Session

from harnet.core.output.pdf_settings import PdfSettings
from harnet.core.output.treatment import Treatment, TreatmentKind
from harnet.media.bounded import Order, work_apart
from harnet.media.errors import UnreadableFile
from harnet.media.pagedrawing.plan import PagePlan, PagesToDraw, PicturePart
from harnet.media.pdf.writing.stored_size import order_of
from harnet.media.pdf.writing.write import write_pdf
from harnet.media.pixels.colour import cmyk_profile_file
from harnet.store.tables.output import StoredWeight
from harnet.studio.common.studio import Studio
from harnet.studio.output.rendering import finish_by, selected_pages, treatments_by
from harnet.studio.pictures.profiles import profile_file, require_profile

_SECONDS_AT_MOST, _MEMORY_BYTES = 60, 2_000_000_000
_Thing = tuple[PicturePart, Treatment | None]
"""What is measured: a picture as it will be stored, or, without a fate, the profile it brings."""


@dataclass(frozen=True, slots=True)
class Prediction:
    """The bytes of a PDF to come; `waiting` pictures are not measured yet and not counted."""

    size_bytes: int
    measured: int
    waiting: int
    unreadable: tuple[str, ...] = ()


def predicted_size(
    studio: Studio,
    session: Session,
    document: PagesToDraw,
    settings: PdfSettings,
    seconds: float = 1.0,
) -> Prediction:
    """The size of a PDF by these settings, weighing what is unknown for about so many seconds.

    What was measured is kept; asking again goes on where it ended.

    Raises:
        ValueOutOfRange: pages that the document does not have.
        Refused: a profile that is not here.
    """
    require_profile(session, settings.profile)
    plans = selected_pages(document, settings.pages)
    treatment = treatments_by(settings)
    wanted: dict[str, tuple[PicturePart, Treatment]] = {}
    for part in _pictures(plans):
        one = treatment(part)
        wanted.setdefault(_key(part, one, settings), (part, one))
    profiled = {
        _profile_key(part): part for part, one in wanted.values() if _brings_profile(part, one)
    }
    known = _known(session, [*wanted, *profiled])
    unreadable: list[str] = []
    with tempfile.TemporaryDirectory(dir=studio.settings.scratch_folder) as name:
        folder = Path(name)
        supplied = profile_file(studio, settings.profile, folder)
        intent = cmyk_profile_file(supplied, folder) if settings.has_intent else None
        things: dict[str, _Thing] = wanted | {key: (part, None) for key, part in profiled.items()}
        unknown = {key: thing for key, thing in things.items() if key not in known}
        for key, found in _weighed(unknown, intent, seconds).items():
            if isinstance(found, str):
                unreadable.append(found)
                known[key] = 0
            else:
                known[key] = found
                # Two windows may weigh the same picture at once; both find the same.
                row = insert(StoredWeight).values(key=key, size_bytes=found)
                session.execute(row.on_conflict_do_nothing())
        rest = _rest_bytes(plans, document, settings, intent, folder)
    pictures = sum(known.get(key, 0) for key in wanted)
    # A profile is stored once, however many pictures bring it along.
    profiles = {(part.facts.icc, known.get(key, 0)) for key, part in profiled.items()}
    return Prediction(
        rest + pictures + sum(size for _, size in profiles),
        sum(key in known for key in wanted),
        len(things) - len(known),
        tuple(unreadable),
    )


def _brings_profile(part: PicturePart, treatment: Treatment) -> bool:
    is_kept = treatment.action is not TreatmentKind.VECTOR and not treatment.is_inked
    return is_kept and part.facts.icc is not None


def _profile_key(part: PicturePart) -> str:
    return sha256(f"{part.sha256} profile".encode()).hexdigest()


def _pictures(plans: tuple[PagePlan, ...]) -> list[PicturePart]:
    return [
        part
        for plan in plans
        for part in plan.parts
        if isinstance(part, PicturePart) and part.path is not None
    ]


def _key(part: PicturePart, treatment: Treatment, settings: PdfSettings) -> str:
    profile = settings.profile if treatment.is_inked else ""
    return sha256(f"{part.sha256} {treatment} {profile}".encode()).hexdigest()


def _known(session: Session, keys: list[str]) -> dict[str, int]:
    found = session.scalars(select(StoredWeight).where(StoredWeight.key.in_(keys)))
    return {one.key: one.size_bytes for one in found}


def _weighed(
    unknown: dict[str, _Thing], intent: Path | None, seconds: float
) -> dict[str, int | str]:
    """What the first of these weigh, as many as the time allows; a text where one cannot be read.

    One process measures them all. If a file brings it down, each is tried in a process of its own,
    so that the others are measured and the one is named.
    """
    if not unknown:
        return {}
    orders = [order_of(part, treatment, intent) for part, treatment in unknown.values()]
    names = [part.name for part, _ in unknown.values()]
    try:
        found = _answers(orders, names[0], seconds)
    except UnreadableFile as error:
        if len(orders) == 1:
            return dict.fromkeys(unknown, str(error))
        until = time.monotonic() + seconds
        found = []
        for order, name in zip(orders, names, strict=True):
            try:
                found += _answers([order], name, seconds)
            except UnreadableFile as failure:
                found.append(str(failure))
            if time.monotonic() > until:
                break
    return dict(zip(unknown, found, strict=False))


def _answers(orders: list[Order], name: str, seconds: float) -> list[int | str]:
    answer = work_apart(
        "harnet.media.pdf.writing.stored_size",
        {"pictures": orders, "seconds": seconds},
        name=name,
        seconds=_SECONDS_AT_MOST,
        memory_bytes=_MEMORY_BYTES,
    )
    return list(answer["found"])


def _rest_bytes(
    plans: tuple[PagePlan, ...],
    document: PagesToDraw,
    settings: PdfSettings,
    intent: Path | None,
    folder: Path,
) -> int:
    """Everything but pictures: text with its fonts, lines, marks, the output intent."""
    bare = [
        replace(plan, parts=tuple(p for p in plan.parts if not isinstance(p, PicturePart)))
        for plan in plans
    ]
    finish = finish_by(settings, document, intent)
    path = folder / "rest.pdf"
    write_pdf(bare, document.title, path, finish=finish)
    return path.stat().st_size
