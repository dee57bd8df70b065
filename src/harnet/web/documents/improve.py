"""Improve a document: its images as files, the originals of poor ones, a proven copy with those."""

from collections.abc import Callable

from flask import Blueprint, Response, render_template, request, send_file, url_for

from harnet.store.database import Session
from harnet.store.tables.documents import Document, DocumentWork
from harnet.studio.common.errors import NotThere, Refused
from harnet.studio.documents.making.carrying_out import DO_DOCUMENT_WORK
from harnet.studio.documents.making.works import (
    EXTRACT,
    FIND,
    IMPROVE,
    CopyWishes,
    ask_for_copy,
    ask_for_images,
    ask_for_originals,
    latest_found,
    plan_of_found,
    work_with,
    works_of,
)
from harnet.studio.documents.uploads import document_with, pictures_in, read_of
from harnet.studio.pictures.profiles import all_profiles
from harnet.studio.tasks.states import RUNNING
from harnet.studio.tasks.work import cancel_work
from harnet.web.common.shared import in_background, studio
from harnet.web.common.values import row_number
from harnet.web.documents.plan import changed_rows, cropped_of, image_samples, plan_rows, surplus_of

blueprint = Blueprint("improve", __name__, url_prefix="/documents/<int:document_id>/improve")


@blueprint.get("")
def show(document_id: int) -> str:
    """What can be made of the document, and what was made."""
    with studio().session() as session:
        return _view(session, document_with(session, document_id))


@blueprint.post("/find")
def find(document_id: int) -> str:
    """Looks for the originals of its poor images on all shelves."""
    return _begun(document_id, ask_for_originals)


@blueprint.post("/copy")
def copy(document_id: int) -> str:
    """Makes an improved copy with the chosen originals."""
    form = request.form
    chosen = [number for number in map(row_number, form.getlist("image")) if number is not None]
    wishes = CopyWishes.meant(
        chosen,
        form.get("trim") == "yes",
        form.get("density") == "target",
        "target" if form.get("colours") == "target" else "keep",
        form.get("profile") or None,
        form.get("cut") == "yes",
        has_own_tone=form.get("tone") == "own",
    )
    return _begun(document_id, lambda session, document: ask_for_copy(session, document, wishes))


@blueprint.post("/images")
def images(document_id: int) -> str:
    """Writes all its images or chosen ones as files into a ZIP, with a table of them."""
    form = request.form
    is_whole = form.get("which") != "chosen"
    numbers = {number for number in map(row_number, form.getlist("image")) if number is not None}
    with_alpha = form.get("alpha") == "yes"

    def ask(session: Session, document: Document) -> DocumentWork:
        painted = [
            (one.page_number, one.place) for one in pictures_in(session, document, among=numbers)
        ]
        if not is_whole and not painted:
            raise Refused("Choose the images to extract.")
        return ask_for_images(session, document, None if is_whole else painted, with_alpha)

    return _begun(document_id, ask)


@blueprint.post("/cancel/<int:work_id>")
def cancel(document_id: int, work_id: int) -> str:
    """Stops what is being made; nothing of it stays."""
    with studio().session() as session:
        document = document_with(session, document_id)
        cancel_work(work_with(session, document, work_id))
        session.flush()
        return _view(session, document)


@blueprint.get("/file/<int:work_id>")
def file(document_id: int, work_id: int) -> Response:
    """What was made, to be downloaded.

    Raises:
        NotThere: it is not made, or no longer stored.
    """
    with studio().session() as session:
        work = work_with(session, document_with(session, document_id), work_id)
        sha256, name = work.sha256, work.file_name
    if sha256 is None:
        raise NotThere("This file is not made yet.")
    try:
        stream = studio().blobs.open(sha256)
    except FileNotFoundError:
        raise NotThere("This file is no longer stored.") from None
    return send_file(stream, as_attachment=True, download_name=name)


def _begun(document_id: int, ask: Callable[[Session, Document], DocumentWork]) -> str:
    """Asks for work, has the worker do it, and shows how far it is."""
    with studio().session() as session:
        work_id = ask(session, document_with(session, document_id)).id
    in_background(DO_DOCUMENT_WORK, row_id=work_id)
    return show(document_id)


def _view(session: Session, document: Document) -> str:
    latest = {kind: next(iter(works_of(session, document, kind)), None) for kind in (EXTRACT, FIND)}
    copies = works_of(session, document, IMPROVE)
    found = latest_found(session, document)
    works = [*latest.values(), *copies]
    is_running = any(one is not None and one.state in RUNNING for one in works)
    is_fragment = "HX-Request" in request.headers
    read = read_of(document)
    return render_template(
        "documents/_improve.html" if is_fragment else "documents/improve.html",
        document=document,
        here=url_for("improve.show", document_id=document.id),
        extract=latest[EXTRACT],
        find=latest[FIND],
        found=found,
        rows=plan_rows(session, document, found) if found is not None else [],
        surplus=surplus_of(plan_of_found(found)) if found is not None else 0,
        samples=[] if is_running else image_samples(session, document),
        copies=copies,
        profiles=all_profiles(session),
        running=RUNNING,
        is_running=is_running,
        read=read,
        is_package=read.format.is_package,
        noun=read.format.noun,
        cropped=cropped_of(plan_of_found(found)) if found is not None else 0,
        changed_rows=changed_rows,
    )
