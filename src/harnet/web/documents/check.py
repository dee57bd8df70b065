"""Check a document: drop it, see every picture in it where it stands and on the ruler."""

from collections.abc import Sequence
from dataclasses import dataclass, replace

from flask import Blueprint, Response, jsonify, render_template, request, url_for
from flask.typing import ResponseReturnValue

from harnet.core.documents.document import DocumentFacts
from harnet.core.documents.images import ImageOnPage
from harnet.core.documents.places import page_label, shown_text, where_text
from harnet.core.documents.saving import saving_sentences
from harnet.core.ledger.lines import Line, LineFilter
from harnet.core.measure.wording import density_text
from harnet.core.preflight.document_images import document_findings, findings_on
from harnet.core.preflight.finding import Finding
from harnet.core.targets.target import Target
from harnet.store.database import Session
from harnet.store.tables.documents import Document
from harnet.studio.common.errors import Refused
from harnet.studio.documents.acceptance import acceptances_of
from harnet.studio.documents.keeping import READ_PDF
from harnet.studio.documents.lines import DocumentLines, PictureCounts
from harnet.studio.documents.pages import document_page
from harnet.studio.documents.reporting.report import split_by
from harnet.studio.documents.uploads import (
    add_document,
    counts_of,
    delete_document,
    document_with,
    documents_between,
    judge_by,
    lines_of,
    parts_text,
    pictures_in,
    read_of,
    target_of_document,
    unlock_document,
)
from harnet.studio.lines.ruler import placements_on_ruler
from harnet.studio.targets.targets import target_asked, target_with
from harnet.studio.tasks.states import RUNNING
from harnet.web.common.shared import in_background, studio
from harnet.web.common.units import paper_unit
from harnet.web.common.values import custom_density, row_number
from harnet.web.documents.outlines import image_alone, image_outlines, page_space
from harnet.web.documents.query import after_the_hand, query_asked
from harnet.web.drawing.ruler import Ruler, Scale, ruler_of, scale_between
from harnet.web.ledger.query import LedgerQuery

blueprint = Blueprint("documents", __name__, url_prefix="/documents")
_PER_PAGE = 40
_MOST_ROWS = 300
_FOREVER = 365 * 24 * 3600


@dataclass(frozen=True, slots=True, kw_only=True)
class DocumentRow:
    """A picture of a document as the list shows it."""

    picture: ImageOnPage
    line: Line
    ppi: str
    size: str
    pieces: Sequence[tuple[int, int]]
    findings: Sequence[Finding]
    where: str
    note: str
    """What is worth saying of it beside its figures."""


@blueprint.get("")
def listing() -> str:
    """The drop area, and the PDFs that were checked."""
    with studio().session() as session:
        return render_template("documents/list.html", **_list_values(session))


@blueprint.get("/rows")
def rows() -> str:
    """The list alone; the page asks again while something is being read."""
    with studio().session() as session:
        return render_template("documents/_rows.html", **_list_values(session))


def _list_values(session: Session) -> dict[str, object]:
    page = row_number(request.args.get("page", "")) or 1
    count, documents = documents_between(session, _PER_PAGE * (page - 1), _PER_PAGE)
    return {
        "documents": documents,
        "counts": {document.id: counts_of(session, document) for document in documents},
        "parts": {document.id: parts_text(document) for document in documents},
        "running": RUNNING,
        "page": page,
        "last": max(1, -(-count // _PER_PAGE)),
    }


@blueprint.post("/upload")
def upload() -> ResponseReturnValue:
    """Takes one document; the page sends several one after the other."""
    file = request.files.get("file")
    if file is None or not file.filename:
        raise Refused("Choose a document.")
    with studio().session() as session:
        target = target_with(session, "coated")
        document = add_document(studio(), session, file.filename, file.stream, target)
        document_id, name = document.id, document.file_name
    in_background(READ_PDF, row_id=document_id)
    return jsonify(
        name=name, is_known=False, address=url_for("documents.show", document_id=document_id)
    )


@blueprint.get("/<int:document_id>")
def show(document_id: int) -> str:
    """A page of the PDF with its pictures outlined, the ruler, and every picture in a list."""
    with studio().session() as session:
        document = document_with(session, document_id)
        values = _values(session, document)
        is_fragment = "HX-Request" in request.headers
        return render_template(
            "documents/_check.html" if is_fragment else "documents/check.html", **values
        )


def _values(session: Session, document: Document) -> dict[str, object]:
    own, read = target_of_document(document), read_of(document)
    settled = lines_of(session, document)
    scale = scale_between(settled.ends, own)
    query = after_the_hand(document, query_asked(session, request.args, own), scale)
    lines = lines_of(session, document, query.tried) if query.tried else settled
    parts, counts = query.parts, lines.counts()
    chosen = _chosen(session, document, row_number(parts["select"]))
    first = chosen.page_number if chosen else 1
    number = row_number(parts["page"]) or first
    number = min(max(1, number), max(1, len(read.pages)))
    wanted = replace(query.wanted, page=number) if parts["only"] else query.wanted
    shown = lines.shown(wanted, most=_MOST_ROWS)
    pictures = {one.id: one for one in pictures_in(session, document, among=_ids(shown))}
    on_page = pictures_in(session, document, page=number)
    found: dict[int, list[Finding]] = {}
    acceptances = acceptances_of(session, document)
    findings = findings_on(pictures.values(), read, lines.target, paper_unit())
    on_pictures, passed = split_by(findings, acceptances)
    for finding in on_pictures:
        found.setdefault(finding.item_id, []).append(finding)
    # What a PDF is found to be as a whole does not lie in its pictures.
    painted = pictures_in(session, document) if read.format.is_package else ()
    on_whole, whole_passed = split_by(document_findings(read, lines.target, painted), acceptances)
    drawing = page_space(read.pages, number)
    alone = image_alone(on_page, chosen, number) if read.pages and drawing is None else None
    page = read.page_of(number)
    return {
        "document": document,
        "read": read,
        "page_label": page_label(read, number) if page else "",
        "page_note": shown_text(page) if page else "",
        "alone": alone,
        "parts_text": parts_text(document),
        "columns": _columns(read),
        "query": query,
        "here": url_for("documents.show", document_id=document.id),
        "target": lines.target,
        "own": own,
        "number": number,
        "counts": counts.verdicts,
        "unseen": counts.not_judged,
        "ruler": _ruler(lines, counts, own, query, scale, chosen),
        "whole_findings": on_whole,
        "saving": saving_sentences(read.saving),
        "whole_passed": whole_passed,
        "passed": {finding.item_id for finding, _ in passed},
        "rows": [
            _row(read, pictures[line.item_id], line, found.get(line.item_id, ()))
            for line in shown
            # A document that is read once more may have lost it since.
            if line.item_id in pictures
        ],
        "hidden": _hidden(lines, wanted, shown),
        "total": counts.every,
        "outlines": image_outlines(read.pages, number, on_page, lines.target),
        "drawing": drawing,
        "chosen": chosen,
        "colours": counts.colours,
        "running": RUNNING,
    }


def _chosen(session: Session, document: Document, number: int | None) -> ImageOnPage | None:
    found = pictures_in(session, document, among=[number]) if number else []
    return found[0] if found else None


def _ids(lines: Sequence[Line]) -> list[int]:
    return [line.item_id for line in lines]


def _hidden(lines: DocumentLines, wanted: LineFilter, shown: Sequence[Line]) -> int:
    """How many lines that pass are not in the list."""
    return lines.count(wanted) - len(shown) if len(shown) == _MOST_ROWS else 0


def _columns(read: DocumentFacts) -> list[tuple[str, str, bool]]:
    """What the list is sorted by, its heads, and whether they stand over figures."""
    where = "Where" if read.format.is_package else "Page"
    return [
        ("shortfall", "Worst first", False),
        ("pixels", "Pixels", False),
        ("page", where, False),
        ("ppi", "ppi", True),
        ("size", "Size", False),
        ("file", "Colour", False),
    ]


def _ruler(
    lines: DocumentLines,
    counts: PictureCounts,
    own: Target,
    query: LedgerQuery,
    scale: Scale,
    chosen: ImageOnPage | None,
) -> Ruler:
    """Dots stand where their densities are; their signs are by the target that is tried."""
    below = sum(count for verdict, count in counts.verdicts.items() if verdict.falls_short)
    wanted = query.wanted
    brushed = (wanted.from_ppi, wanted.to_ppi) if wanted.to_ppi else None
    selected = [chosen.id] if chosen else []
    spots = placements_on_ruler(lines, selected)
    return ruler_of(spots, own, below, scale, selected, query.tried, brushed)


def _row(
    read: DocumentFacts, picture: ImageOnPage, line: Line, findings: Sequence[Finding]
) -> DocumentRow:
    pieces = list(zip(picture.pieces[::2], picture.pieces[1::2], strict=True))
    return DocumentRow(
        picture=picture,
        line=line,
        ppi=density_text(picture.density) if picture.px_w else "",
        size=picture.size_in(paper_unit()),
        pieces=pieces,
        findings=findings,
        where=where_text(read, picture),
        note=_note(read, picture),
    )


def _note(read: DocumentFacts, picture: ImageOnPage) -> str:
    """Why it is not visible, what lies on it, or that its size was assumed."""
    if not read.format.is_package:
        return picture.unseen
    assumed = "size assumed" if picture.is_assumed and picture.px_w else ""
    return ", ".join(one for one in (picture.unseen, *picture.effects, assumed) if one)


@blueprint.post("/<int:document_id>/password")
def give_password(document_id: int) -> Response:
    """Opens a PDF that needs a password, and has it read."""
    with studio().session() as session:
        document = document_with(session, document_id)
        unlock_document(studio(), document, request.form.get("password", ""))
    in_background(READ_PDF, row_id=document_id)
    return Response("", headers={"HX-Redirect": url_for("documents.show", document_id=document_id)})


@blueprint.post("/<int:document_id>/target")
def set_target(document_id: int) -> Response:
    """Judges the PDF by another target from now on."""
    form = request.form
    with studio().session() as session:
        document = document_with(session, document_id)
        key, own_ppi = form.get("target", ""), custom_density(form)
        target = target_asked(session, key, own_ppi, target_of_document(document))
        judge_by(document, target)
    return Response("", headers={"HX-Redirect": url_for("documents.show", document_id=document_id)})


@blueprint.post("/<int:document_id>/delete")
def delete(document_id: int) -> Response:
    """Deletes a PDF and what was found in it."""
    with studio().session() as session:
        delete_document(session, document_with(session, document_id))
    return Response("", headers={"HX-Redirect": url_for("documents.listing")})


@blueprint.get("/<int:document_id>/<int:number>.png")
def page_png(document_id: int, number: int) -> Response:
    """A page as a picture; the bytes of a checked PDF never change."""
    with studio().session() as session:
        document = document_with(session, document_id)
        data = document_page(studio(), document, number)
    response = Response(data, mimetype="image/png")
    response.headers["Cache-Control"] = f"private, max-age={_FOREVER}, immutable"
    return response
