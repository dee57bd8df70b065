"""Pages of a checked PDF as images: the pixels first, then the files."""

from dataclasses import dataclass

from flask import Blueprint, render_template, request, url_for

from harnet.core.documents.userspace import seen_space
from harnet.core.errors import ValueOutOfRange
from harnet.core.measure.wording import grouped, size_text
from harnet.core.output.page_images import (
    ImageSettings,
    checked_image_settings,
    image_settings_from_values,
)
from harnet.core.output.page_pixels import PagePixels, pixels_of_pages
from harnet.media.pagedrawing.page_image import MAX_IMAGE_PX
from harnet.store.database import Session
from harnet.store.tables.documents import Document
from harnet.studio.common.errors import Refused, sentence_of
from harnet.studio.documents.making.carrying_out import DO_DOCUMENT_WORK
from harnet.studio.documents.making.works import (
    PAGES,
    ask_for_pages,
    work_with,
    works_of,
)
from harnet.studio.documents.uploads import document_with, read_of
from harnet.studio.pictures.profiles import all_profiles
from harnet.studio.tasks.states import RUNNING
from harnet.studio.tasks.work import cancel_work
from harnet.web.common.image_form import image_settings_from, usual_sizes
from harnet.web.common.shared import in_background, studio
from harnet.web.common.units import paper_unit

blueprint = Blueprint("documentimages", __name__, url_prefix="/documents/<int:document_id>/images")


@dataclass(frozen=True, slots=True)
class PixelRow:
    """Pages next to each other that leave with the same pixels."""

    pages: str
    first: PagePixels

    @property
    def size(self) -> str:
        """What leaves of each page, on paper."""
        return size_text(self.first.width_pt, self.first.height_pt, paper_unit())

    @property
    def px(self) -> str:
        """The pixels across and down."""
        return f"{grouped(self.first.px_w)} × {grouped(self.first.px_h)} px"

    @property
    def is_possible(self) -> bool:
        """Whether an image of so many pixels can be made."""
        return self.first.px_w * self.first.px_h <= MAX_IMAGE_PX


@blueprint.get("")
def show(document_id: int) -> str:
    """The settings, the pixels that the pages leave with, and what was made."""
    with studio().session() as session:
        document = document_with(session, document_id)
        settings = _latest_settings(session, document)
        pages = read_of(document).pages
        if pages:
            space = seen_space(pages[0].cut, pages[0].turn_deg)
            sizes = usual_sizes(space.width_pt, space.height_pt, settings)
        else:
            sizes = []
        return render_template(
            "documents/page_images.html",
            document=document,
            images=settings,
            sizes=sizes,
            has_bleed=any(page.bleed_pt > 0 or page.cut != page.box for page in pages),
            page_count=len(pages),
            profiles=all_profiles(session),
            is_read=document.state not in RUNNING and bool(pages),
            **_table_values(document, settings),
            **_made_values(session, document),
        )


@blueprint.get("/pixels")
def pixels(document_id: int) -> str:
    """The pixels of each page by the settings in the form."""
    with studio().session() as session:
        document = document_with(session, document_id)
        try:
            values = _table_values(
                document, checked_image_settings(image_settings_from(request.args))
            )
        except (Refused, ValueOutOfRange) as error:
            values = {"rows": [], "failure": sentence_of(error)}
        return render_template("documents/_page_pixels.html", **values)


@blueprint.post("/make")
def make(document_id: int) -> str:
    """Has the pages written as images."""
    with studio().session() as session:
        document = document_with(session, document_id)
        try:
            work_id = ask_for_pages(session, document, image_settings_from(request.form)).id
        except ValueOutOfRange as error:
            raise Refused(sentence_of(error)) from None
    in_background(DO_DOCUMENT_WORK, row_id=work_id)
    return made(document_id)


@blueprint.get("/made")
def made(document_id: int) -> str:
    """What was made; the page asks again while something is."""
    with studio().session() as session:
        document = document_with(session, document_id)
        return render_template(
            "documents/_page_images_made.html", document=document, **_made_values(session, document)
        )


@blueprint.post("/cancel/<int:work_id>")
def cancel(document_id: int, work_id: int) -> str:
    """Stops what is being made; nothing of it stays."""
    with studio().session() as session:
        cancel_work(work_with(session, document_with(session, document_id), work_id))
    return made(document_id)


def _latest_settings(session: Session, document: Document) -> ImageSettings:
    """Those that pages were written by last, else the usual ones."""
    latest = next(iter(works_of(session, document, PAGES)), None)
    return image_settings_from_values(latest.settings) if latest is not None else ImageSettings()


def _made_values(session: Session, document: Document) -> dict[str, object]:
    works = works_of(session, document, PAGES)
    return {
        "works": works,
        "running": RUNNING,
        "is_running": any(one.state in RUNNING for one in works),
        "here": url_for("documentimages.made", document_id=document.id),
    }


def _table_values(document: Document, settings: ImageSettings) -> dict[str, object]:
    try:
        found = pixels_of_pages(read_of(document).pages, settings)
    except ValueOutOfRange as error:
        return {"rows": [], "failure": sentence_of(error)}
    return {"rows": _rows(found), "failure": ""}


def _rows(found: list[PagePixels]) -> list[PixelRow]:
    """Pages with numbers in a row and the same pixels stand together."""
    groups: list[list[PagePixels]] = []
    for one in found:
        last = groups[-1][-1] if groups else None
        is_next = last is not None and last.page_number + 1 == one.page_number
        if is_next and last is not None and (last.px_w, last.px_h) == (one.px_w, one.px_h):
            groups[-1].append(one)
        else:
            groups.append([one])
    return [PixelRow(_range(group), group[0]) for group in groups]


def _range(group: list[PagePixels]) -> str:
    first, last = group[0].page_number, group[-1].page_number
    return f"{first}" if first == last else f"{first} to {last}"
