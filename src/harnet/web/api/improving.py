"""What is made of a checked PDF: images and pages as files, originals found, improved copies."""

from collections.abc import Callable
from typing import Any, Literal, cast

from flask import Response

from harnet.core.documents.same_shot import Sureness
from harnet.core.errors import ValueOutOfRange
from harnet.core.output.page_images import ImageSettings, checked_image_settings
from harnet.core.output.page_pixels import pixels_of_pages
from harnet.store.database import Session
from harnet.store.tables.documents import Document, DocumentWork
from harnet.studio.common.errors import NotThere, Refused, sentence_of
from harnet.studio.documents.keeping import READ_PDF
from harnet.studio.documents.making.carrying_out import DO_DOCUMENT_WORK
from harnet.studio.documents.making.works import (
    EXTRACT,
    FIND,
    IMPROVE,
    PAGES,
    CopyWishes,
    all_works,
    ask_for_copy,
    ask_for_images,
    ask_for_originals,
    ask_for_pages,
    keys_that_are,
    latest_found,
    plan_of_found,
    work_numbered,
)
from harnet.studio.documents.uploads import document_with, pictures_in, read_of, unlock_document
from harnet.studio.tasks.states import DONE
from harnet.studio.tasks.work import cancel_work
from harnet.web.api.door import fails, file_answer, resource
from harnet.web.api.forms.base import WorkState
from harnet.web.api.forms.checks import CheckOut
from harnet.web.api.forms.improving import (
    CopyIn,
    CopyReceiptOut,
    ImagesIn,
    PagePixelsOut,
    PagesPixels,
    PasswordIn,
    PlanImageOut,
    PlanOut,
    WorkOut,
    Works,
)
from harnet.web.api.forms.outputs import ImageSettingsIn
from harnet.web.api.values.checks import check_out
from harnet.web.api.values.images import image_settings_meant
from harnet.web.common.files import blob_file
from harnet.web.common.shared import in_background, studio

blueprint = resource("improving", "Improved PDFs")
_Kind = Literal["images", "page images", "originals", "copy"]
_KINDS: dict[str, _Kind] = {
    EXTRACT: "images",
    PAGES: "page images",
    FIND: "originals",
    IMPROVE: "copy",
}
_NOTHING_MADE = "This file is not made yet, or there is none."


def work_out(work: DocumentWork) -> WorkOut:
    """Work on a checked PDF in the API's form."""
    return WorkOut(
        id=work.id,
        check=work.document_id,
        kind=_KINDS[work.kind],
        state=cast(WorkState, work.state),
        steps_done=work.steps_done,
        steps_total=work.steps_total,
        file=work.file_name,
        size_bytes=work.size_bytes,
        failure=work.failure,
        copy_check=work.copy_id,
        requested_at=work.requested_at,
        finished_at=work.finished_at,
    )


def _begun(document_id: int, ask: Callable[[Session, Document], DocumentWork]) -> WorkOut:
    """Asks for work on a check, and has the worker do it."""
    with studio().session() as session:
        try:
            answer = work_out(ask(session, document_with(session, document_id)))
        except ValueOutOfRange as error:
            raise Refused(sentence_of(error)) from None
    in_background(DO_DOCUMENT_WORK, row_id=answer.id)
    return answer


@blueprint.post("/checks/<int:document_id>/password")
@blueprint.input(PasswordIn)
@blueprint.output(CheckOut, status_code=202)
def open_with_password(document_id: int, json_data: PasswordIn) -> CheckOut:
    """Opens a PDF that needs a password; the worker reads it."""
    with studio().session() as session:
        document = document_with(session, document_id)
        unlock_document(studio(), document, json_data.password)
        answer = check_out(session, document)
    in_background(READ_PDF, row_id=document_id)
    return answer


@blueprint.get("/checks/<int:document_id>/works")
@blueprint.output(Works)
def works(document_id: int) -> Works:
    """What was made of a check, the latest first."""
    with studio().session() as session:
        found = all_works(session, document_with(session, document_id))
        return Works(items=[work_out(one) for one in found])


@blueprint.post("/checks/<int:document_id>/images")
@blueprint.input(ImagesIn)
@blueprint.output(WorkOut, status_code=202)
def images(document_id: int, json_data: ImagesIn) -> WorkOut:
    """Has images written as files, in a ZIP with a table of them."""

    def ask(session: Session, document: Document) -> DocumentWork:
        if json_data.images is None:
            return ask_for_images(session, document, None, json_data.alpha)
        chosen = [(one.page, one.place) for one in json_data.images]
        there = {(one.page_number, one.place) for one in pictures_in(session, document)}
        for page, place in chosen:
            if (page, place) not in there:
                raise Refused(f"There is no image {place} on page {page}.")
        return ask_for_images(session, document, chosen, json_data.alpha)

    return _begun(document_id, ask)


def _settings(body: ImageSettingsIn) -> ImageSettings:
    return image_settings_meant(ImageSettings(), body)


@blueprint.post("/checks/<int:document_id>/pixels")
@blueprint.input(ImageSettingsIn)
@blueprint.output(PagesPixels)
def pixels(document_id: int, json_data: ImageSettingsIn) -> PagesPixels:
    """Tells the pixels that its pages would leave with as images; nothing is made."""
    with studio().session() as session:
        pages = read_of(document_with(session, document_id)).pages
    try:
        found = pixels_of_pages(pages, checked_image_settings(_settings(json_data)))
    except ValueOutOfRange as error:
        raise Refused(sentence_of(error)) from None
    items = [
        PagePixelsOut(
            page=one.page_number,
            width_pt=one.width_pt,
            height_pt=one.height_pt,
            density_ppi=one.density_ppi,
            px_w=one.px_w,
            px_h=one.px_h,
        )
        for one in found
    ]
    return PagesPixels(items=items)


@blueprint.post("/checks/<int:document_id>/page-images")
@blueprint.input(ImageSettingsIn)
@blueprint.output(WorkOut, status_code=202)
def page_images(document_id: int, json_data: ImageSettingsIn) -> WorkOut:
    """Has its pages written as images and read back."""
    return _begun(
        document_id,
        lambda session, document: ask_for_pages(session, document, _settings(json_data)),
    )


@blueprint.post("/checks/<int:document_id>/originals")
@blueprint.output(WorkOut, status_code=202)
@blueprint.doc(extensions=fails(422))
def originals(document_id: int) -> WorkOut:
    """Has the originals of its poor images looked for on all shelves."""
    return _begun(document_id, ask_for_originals)


def _wishes(found: DocumentWork, body: CopyIn) -> CopyWishes:
    if body.images is not None and body.choose is not None:
        raise Refused("Send images or choose, not both.")
    chosen = body.images
    if chosen is None:
        chosen = keys_that_are(found, Sureness(body.choose or "sure"))
    return CopyWishes.meant(
        chosen,
        body.trim,
        body.at_target,
        body.colours,
        body.profile,
        body.cut_away,
        has_own_tone=body.own_tone,
        own_tone_images=body.own_tone_images,
    )


def _found(session: Session, document: Document) -> DocumentWork:
    found = latest_found(session, document)
    if found is None:
        raise Refused("Look for originals first.")
    return found


@blueprint.post("/checks/<int:document_id>/plan")
@blueprint.input(CopyIn)
@blueprint.output(PlanOut)
def plan(document_id: int, json_data: CopyIn) -> PlanOut:
    """Tells what an improved copy would do to each image; nothing is made."""
    with studio().session() as session:
        found = _found(session, document_with(session, document_id))
        made = plan_of_found(found, _wishes(found, json_data), only_chosen=True)
    keys = [one.image.key for one in made.images]
    items = [PlanImageOut(key=key, **row) for key, row in zip(keys, made.rows(), strict=True)]
    return PlanOut(target_ppi=made.settings.target.density_ppi, images=items)


@blueprint.post("/checks/<int:document_id>/copies")
@blueprint.input(CopyIn)
@blueprint.output(WorkOut, status_code=202)
def copies(document_id: int, json_data: CopyIn) -> WorkOut:
    """Has an improved copy made by the originals found last, and proven."""

    def ask(session: Session, document: Document) -> DocumentWork:
        return ask_for_copy(session, document, _wishes(_found(session, document), json_data))

    return _begun(document_id, ask)


@blueprint.get("/works/<int:work_id>")
@blueprint.output(WorkOut)
def work(work_id: int) -> WorkOut:
    """One of them, and how far it is."""
    with studio().session() as session:
        return work_out(work_numbered(session, work_id))


@blueprint.post("/works/<int:work_id>/cancel")
@blueprint.output(WorkOut)
def stop(work_id: int) -> WorkOut:
    """Cancels what is not finished; nothing of it stays."""
    with studio().session() as session:
        found = work_numbered(session, work_id)
        cancel_work(found)
        return work_out(found)


@blueprint.get("/works/<int:work_id>/file")
@blueprint.doc(responses=file_answer("The file."))
def file(work_id: int) -> Response:
    """The finished file; 404 while it is being made, and where there is none."""
    with studio().session() as session:
        found = work_numbered(session, work_id)
        if found.sha256 is None:
            raise NotThere(_NOTHING_MADE)
        kind = "application/pdf" if found.kind == IMPROVE else "application/octet-stream"
        return blob_file(found.sha256, found.file_name, kind)


@blueprint.get("/works/<int:work_id>/receipt")
@blueprint.output(CopyReceiptOut)
def receipt(work_id: int) -> dict[str, Any]:
    """What was done to each image and how the copy was proven; 404 until it is made."""
    with studio().session() as session:
        found = work_numbered(session, work_id)
        if found.kind != IMPROVE or found.state != DONE:
            raise NotThere("There is no receipt: this is no improved copy, or it is not made yet.")
        return found.result
