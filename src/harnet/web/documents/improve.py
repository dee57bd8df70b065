"""Improve a PDF: its images as files, the originals of poor ones, a proven copy with those."""

from collections.abc import Callable, Sequence
from dataclasses import dataclass

from flask import Blueprint, Response, jsonify, render_template, request, send_file, url_for

from harnet.core.documents.improving import CopyColours, Fate, PlannedImage
from harnet.core.documents.same_shot import Sureness
from harnet.core.documents.userspace import seen_space
from harnet.core.measure.geometry import Matrix
from harnet.core.measure.verdict import Verdict, verdict_of_judged
from harnet.core.output.pdf_settings import DEFAULT_THRESHOLD
from harnet.core.targets.target import Target
from harnet.store.database import Session
from harnet.store.tables.documents import Document, DocumentWork
from harnet.studio.common.errors import NotThere
from harnet.studio.documents.making.works import (
    DO_DOCUMENT_WORK,
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
from harnet.studio.documents.uploads import document_with, read_of
from harnet.studio.tasks.states import DONE, RUNNING
from harnet.studio.tasks.work import cancel_work
from harnet.web.common.shared import in_background, studio
from harnet.web.common.values import row_number

blueprint = Blueprint("improve", __name__, url_prefix="/pdf/<int:document_id>/improve")


@dataclass(frozen=True, slots=True, kw_only=True)
class PlanRow:
    """An image that falls short, beside the part of the original that it shows.

    `page_matrix` draws its page, and `original_matrix` the original, in the image's own pixels.
    """

    planned: PlannedImage
    verdict: Verdict
    then: Verdict
    page_number: int
    page_size: tuple[float, float]
    page_matrix: str
    sha256: str
    original_size: tuple[int, int]
    original_matrix: str

    @property
    def is_sure(self) -> bool:
        """Whether its original is surely the same shot, and has more pixels."""
        candidate = self.planned.candidate
        is_replaced = self.planned.fate is Fate.REPLACED
        return is_replaced and candidate is not None and candidate.sureness is Sureness.SURE

    @property
    def can_be_chosen(self) -> bool:
        """Whether there is an original to put in its place."""
        return self.planned.fate is Fate.REPLACED


@blueprint.get("")
def show(document_id: int) -> str:
    """What can be made of the PDF, and what was made."""
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
    wishes = CopyWishes(
        chosen=chosen,
        is_trimmed=form.get("trim") == "yes",
        at_target=form.get("density") == "target",
        colours=CopyColours.TARGET if form.get("colours") == "target" else CopyColours.KEEP,
    )
    return _begun(document_id, lambda session, pdf: ask_for_copy(session, pdf, wishes))


@blueprint.post("/images")
def images(document_id: int) -> str:
    """Writes its images as files into a ZIP, with a table of them."""
    with_alpha = request.form.get("alpha") == "yes"
    return _begun(document_id, lambda session, pdf: ask_for_images(session, pdf, None, with_alpha))


@blueprint.post("/cancel/<int:work_id>")
def cancel(document_id: int, work_id: int) -> str:
    """Stops what is being made; nothing of it stays."""
    with studio().session() as session:
        pdf = document_with(session, document_id)
        cancel_work(work_with(session, pdf, work_id))
        session.flush()
        return _view(session, pdf)


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


@blueprint.get("/receipt/<int:work_id>.json")
def receipt(document_id: int, work_id: int) -> Response:
    """The receipt of an improved copy, by its published schema.

    Raises:
        NotThere: there is none.
    """
    with studio().session() as session:
        work = work_with(session, document_with(session, document_id), work_id)
        if work.kind != IMPROVE or work.state != DONE:
            raise NotThere("This receipt is not there.")
        return jsonify(work.result)


def _begun(document_id: int, ask: Callable[[Session, Document], DocumentWork]) -> str:
    """Asks for work, has the worker do it, and shows how far it is."""
    with studio().session() as session:
        work_id = ask(session, document_with(session, document_id)).id
    in_background(DO_DOCUMENT_WORK, row_id=work_id)
    return show(document_id)


def _view(session: Session, pdf: Document) -> str:
    latest = {kind: next(iter(works_of(session, pdf, kind)), None) for kind in (EXTRACT, FIND)}
    copies = works_of(session, pdf, IMPROVE)
    found = latest_found(session, pdf)
    plan = plan_of_found(found) if found is not None else None
    works = [*latest.values(), *copies]
    is_fragment = "HX-Request" in request.headers
    return render_template(
        "documents/_improve.html" if is_fragment else "documents/improve.html",
        pdf=pdf,
        here=url_for("improve.show", document_id=pdf.id),
        extract=latest[EXTRACT],
        find=latest[FIND],
        found=found,
        rows=_rows(pdf, found, plan.images) if found is not None and plan is not None else [],
        surplus=_surplus(plan.images, plan.settings.target) if plan is not None else 0,
        copies=copies,
        running=RUNNING,
        is_running=any(one is not None and one.state in RUNNING for one in works),
    )


def _surplus(images: Sequence[PlannedImage], target: Target) -> int:
    """How many images are so much denser than the target that trimming them is offered."""
    above_ppi = target.density_ppi * DEFAULT_THRESHOLD
    return sum(one.image.is_seen and one.image.ppi > above_ppi for one in images)


def _rows(pdf: Document, found: DocumentWork, images: Sequence[PlannedImage]) -> list[PlanRow]:
    """The images that fall short, as they are painted, worst first among what can be replaced."""
    pages = read_of(pdf).pages
    stored = {values["key"]: values.get("candidate") for values in found.result["images"]}
    limits_of = plan_of_found(found).settings.target.for_bits
    rows = []
    for one in images:
        image, limits = one.image, limits_of(one.image.is_bilevel)
        verdict = verdict_of_judged(image.ppi, limits)
        if not (image.is_seen and verdict.falls_short):
            continue
        use = image.largest
        page = pages[use.page_number - 1]
        space = seen_space(page.box, page.turn_deg)
        # The image's pixels, counted from its upper left corner, on the page as it is seen.
        from_pixels = Matrix(1 / image.px_w, 0, 0, -1 / image.px_h, 0, 1)
        on_page = from_pixels.then(use.matrix).then(space.matrix)
        candidate, original = stored[image.key], one.candidate
        rows.append(
            PlanRow(
                planned=one,
                verdict=verdict,
                then=verdict_of_judged(one.ppi, limits),
                page_number=use.page_number,
                page_size=(space.width_pt, space.height_pt),
                page_matrix=_text(on_page.inverse),
                sha256=candidate["sha256"] if candidate else "",
                original_size=(candidate["px"][0], candidate["px"][1]) if candidate else (0, 0),
                original_matrix=(
                    _text(original.registration.to_original.inverse) if original else ""
                ),
            )
        )
    return rows


def _text(matrix: Matrix) -> str:
    return "matrix(" + " ".join(f"{value:.8g}" for value in matrix.as_tuple()) + ")"
