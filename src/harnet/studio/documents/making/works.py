"""What is made of a checked PDF in the background: files, originals, improved copies."""

from collections.abc import Sequence
from dataclasses import dataclass, field
from pathlib import Path
from typing import Any

from sqlalchemy import select
from sqlalchemy.orm import Session, object_session

from harnet.core.documents.improving import (
    AT_TARGET,
    MOST_TIMES,
    CopyColours,
    Fate,
    ImproveSettings,
)
from harnet.core.documents.same_shot import Sureness
from harnet.core.output.page_images import (
    ImageSettings,
    checked_image_settings,
    image_settings_as_values,
)
from harnet.core.output.page_pixels import pixels_of_pages
from harnet.core.output.pdf_settings import DEFAULT_THRESHOLD
from harnet.core.targets.values import target_as_values, target_from_values
from harnet.store.acting import actor
from harnet.store.tables.documents import Document, DocumentWork
from harnet.store.tables.pictures import Picture
from harnet.studio.common.errors import NotThere, Refused
from harnet.studio.common.rows import row_with
from harnet.studio.documents.making.improving import (
    Plan,
    plan_from,
)
from harnet.studio.documents.uploads import read_of, target_of_document
from harnet.studio.people.access import sees_picture
from harnet.studio.people.quotas import require_turn
from harnet.studio.pictures.profiles import require_profile
from harnet.studio.tasks.states import DONE, RUNNING

EXTRACT, PAGES, FIND, IMPROVE = "extract", "pages", "find", "improve"
_NOT_HERE = "This is no longer here."


@dataclass(frozen=True, slots=True, kw_only=True)
class CopyWishes:
    """How an improved copy is wished for: the keys of the images to replace, and how."""

    chosen: Sequence[int] = field(default=())
    is_trimmed: bool = False
    at_target: bool = False
    colours: CopyColours = CopyColours.KEEP
    profile: str | None = None
    """The CMYK profile by its hash; None for the generic one."""
    is_cut: bool = False
    """Whether cropped-off parts are cut away for good."""
    has_own_tone: bool = False
    """Whether originals keep their own tone, which changes how the pages look."""
    own_tone_images: Sequence[int] = field(default=())
    """Images, by their keys, whose originals keep their own tone all the same."""

    @classmethod
    def meant(
        cls,
        chosen: Sequence[int],
        is_trimmed: bool,
        at_target: bool,
        colours: str,
        profile: str | None,
        is_cut: bool = False,
        *,
        has_own_tone: bool = False,
        own_tone_images: Sequence[int] = (),
    ) -> "CopyWishes":
        """The wishes as a form or a program says them; `colours` is keep or target."""
        return cls(
            chosen=chosen,
            is_trimmed=is_trimmed,
            at_target=at_target,
            colours=CopyColours(colours),
            profile=profile,
            is_cut=is_cut,
            has_own_tone=has_own_tone,
            own_tone_images=own_tone_images,
        )


def works_of(session: Session, document: Document, kind: str) -> list[DocumentWork]:
    """What was made of a PDF of one kind, the latest first."""
    wanted = select(DocumentWork).where(
        DocumentWork.document_id == document.id, DocumentWork.kind == kind
    )
    return list(session.scalars(wanted.order_by(DocumentWork.id.desc())))


def all_works(session: Session, document: Document) -> list[DocumentWork]:
    """What was made of a PDF, the latest first."""
    wanted = select(DocumentWork).where(DocumentWork.document_id == document.id)
    return list(session.scalars(wanted.order_by(DocumentWork.id.desc())))


def work_numbered(session: Session, work_id: int) -> DocumentWork:
    """What was made of whichever PDF under that number.

    Raises:
        NotThere: there is none.
    """
    return row_with(session, DocumentWork, work_id, _NOT_HERE)


def work_with(session: Session, document: Document, work_id: int) -> DocumentWork:
    """One of them.

    Raises:
        NotThere: there is none of that number.
    """
    found = work_numbered(session, work_id)
    if found.document_id != document.id:
        raise NotThere(_NOT_HERE)
    return found


def ask_for_images(
    session: Session, document: Document, chosen: Sequence[tuple[int, int]] | None, with_alpha: bool
) -> DocumentWork:
    """Has images of a PDF written to a ZIP; `chosen` are page and place, None for all."""
    pairs = None if chosen is None else [list(one) for one in chosen]
    return _asked(session, document, EXTRACT, {"chosen": pairs, "with_alpha": with_alpha})


def ask_for_pages(session: Session, document: Document, settings: ImageSettings) -> DocumentWork:
    """Has pages of a PDF written as images.

    Raises:
        ValueOutOfRange: a figure outside its range, or there is no such page.
        Refused: it is no PDF, its CMYK profile is gone, or pages are being written already.
    """
    if read_of(document).format.is_package:
        raise Refused("Pages are written as images from PDFs alone.")
    checked_image_settings(settings)
    pixels_of_pages(read_of(document).pages, settings)
    require_profile(session, settings.profile)
    return _asked(session, document, PAGES, image_settings_as_values(settings))


def ask_for_originals(session: Session, document: Document) -> DocumentWork:
    """Has the originals of poor images looked for on all shelves, by the PDF's target."""
    target = target_as_values(target_of_document(document))
    return _asked(session, document, FIND, {"target": target})


def ask_for_copy(session: Session, document: Document, wishes: CopyWishes) -> DocumentWork:
    """Has an improved copy made from the originals that were found last.

    Raises:
        Refused: none were looked for, nothing is to be changed, or the CMYK profile is gone.
    """
    require_profile(session, wishes.profile)
    found = latest_found(session, document)
    if found is None:
        raise Refused("Look for originals first.")
    if not (wishes.chosen or wishes.is_trimmed or wishes.is_cut):
        raise Refused("Choose an image to replace, or have surplus images trimmed.")
    if read_of(document).format.is_package and wishes.colours is CopyColours.TARGET:
        raise Refused("Only images in PDFs are converted to CMYK.")
    settings = {
        "found": found.id,
        "chosen": list(wishes.chosen),
        "is_trimmed": wishes.is_trimmed,
        "at_target": wishes.at_target,
        "colours": wishes.colours.value,
        "profile": wishes.profile,
        "is_cut": wishes.is_cut,
        "has_own_tone": wishes.has_own_tone,
        "own_tone_images": list(wishes.own_tone_images),
    }
    return _asked(session, document, IMPROVE, settings)


def _asked(
    session: Session, document: Document, kind: str, settings: dict[str, Any]
) -> DocumentWork:
    """A new row, unless one of its kind is being made.

    Raises:
        Refused: it is being made already.
    """
    running = [one for one in works_of(session, document, kind) if one.state in RUNNING]
    if running:
        raise Refused("This is being made already.")
    require_turn(session)
    work = DocumentWork(document_id=document.id, kind=kind, settings=settings, result={})
    session.add(work)
    session.flush()
    return work


def latest_found(session: Session, document: Document) -> DocumentWork | None:
    """The latest look for originals that came to its end."""
    done = (one for one in works_of(session, document, FIND) if one.state == DONE)
    return next(done, None)


def images_found(found: DocumentWork) -> list[dict[str, Any]]:
    """The images with their originals, as far as whoever is at work may see those.

    The document is everybody's; an original may lie on the shelf of a group.
    """
    session = object_session(found)
    assert session is not None
    images: list[dict[str, Any]] = found.result["images"]
    if actor().groups is None:
        return images
    numbers = {one["candidate"]["picture_id"] for one in images if one.get("candidate")}
    pictures = session.scalars(select(Picture).where(Picture.id.in_(numbers)))
    seen = {one.id for one in pictures if sees_picture(session, one)}
    return [
        one if one.get("candidate") and one["candidate"]["picture_id"] in seen else not_chosen(one)
        for one in images
    ]


def keys_that_are(found: DocumentWork, sureness: Sureness) -> list[int]:
    """The images that could be replaced by originals that are at least that sure.

    None that somebody edited: replacing those is for a person to decide, one by one.
    """
    allowed = {Sureness.SURE, sureness}
    return [
        one.image.key
        for one in plan_of_found(found).images
        if one.fate is Fate.REPLACED
        and one.candidate
        and one.candidate.sureness in allowed
        and one.candidate.outcome.is_replaced_unasked
    ]


def plan_of_found(
    found: DocumentWork, wishes: CopyWishes | None = None, *, only_chosen: bool = False
) -> Plan:
    """What an improved copy would do, from what was found: with all originals, or those chosen."""
    wishes = wishes or CopyWishes()
    settings = ImproveSettings(
        target=target_from_values(found.settings["target"]),
        most_times=AT_TARGET if wishes.at_target else MOST_TIMES,
        colours=wishes.colours,
        chooses=Sureness.PERHAPS,
        threshold=DEFAULT_THRESHOLD if wishes.is_trimmed else None,
        cuts=wishes.is_cut,
        accepts_edited=True,
        carries_tone=not wishes.has_own_tone,
        keeps_own_tone=frozenset(wishes.own_tone_images),
    )
    images = images_found(found)
    if only_chosen:
        chosen = set(wishes.chosen)
        images = [one if one["key"] in chosen else not_chosen(one) for one in images]
    return plan_from(images, Path(), "", settings)


def not_chosen(values: dict[str, Any]) -> dict[str, Any]:
    """An image as `look_for_originals` found it, its original left aside."""
    if values.get("candidate") is None:
        return values
    return {**values, "candidate": None, "failure": "not chosen"}
