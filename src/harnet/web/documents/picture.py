"""One picture of a checked document alone, at full size."""

from flask import Blueprint, Response, render_template

from harnet.core.documents.images import ImageOnPage, line_of
from harnet.core.documents.places import where_text
from harnet.core.layout.explaining import verdict_reasons
from harnet.core.measure.wording import density_text
from harnet.core.preflight.document_images import findings_on, subject_of
from harnet.store.database import Session
from harnet.store.tables.documents import Document
from harnet.studio.common.errors import NotThere
from harnet.studio.documents.pages import image_look
from harnet.studio.documents.uploads import document_with, picture_in, read_of, target_of_document
from harnet.web.common.shared import studio
from harnet.web.common.units import paper_unit
from harnet.web.drawing.marks import mark_of

blueprint = Blueprint(
    "documentpicture", __name__, url_prefix="/documents/<int:document_id>/pictures"
)
_FOREVER = 365 * 24 * 3600


@blueprint.get("/<int:picture_id>")
def alone(document_id: int, picture_id: int) -> str:
    """The picture with every pixel, its figures above it."""
    with studio().session() as session:
        document, picture = _picture(session, document_id, picture_id)
        target = target_of_document(document)
        line = line_of(picture, target)
        return render_template(
            "documents/picture.html",
            document=document,
            where=_where(document, picture),
            is_jpeg="DCTDecode" in picture.filters or picture.filters == "jpeg",
            picture=picture,
            line=line,
            ppi=density_text(picture.density),
            size=picture.size_in(paper_unit()),
            findings=findings_on([picture], read_of(document), target, paper_unit()),
        )


@blueprint.get("/<int:picture_id>/why")
def why(document_id: int, picture_id: int) -> str:
    """Why it has its verdict, for the dialog."""
    with studio().session() as session:
        document = document_with(session, document_id)
        picture = picture_in(session, document, picture_id)
        checked = subject_of(picture, read_of(document), target_of_document(document), paper_unit())
        figures = checked.figures
        return render_template(
            "common/_explain.html",
            name=picture.name,
            verdict=figures.verdict.value,
            mark=mark_of(figures),
            reasons=verdict_reasons(checked.placement, figures, paper_unit()),
            rungs=[],
        )


@blueprint.get("/<int:picture_id>.png")
def pixels(document_id: int, picture_id: int) -> Response:
    """Its pixels; the bytes of a checked PDF never change."""
    with studio().session() as session:
        document, picture = _picture(session, document_id, picture_id)
        data = image_look(studio(), document, picture, edge_px=None)
    response = Response(data, mimetype="image/png")
    response.headers["Cache-Control"] = f"private, max-age={_FOREVER}, immutable"
    return response


@blueprint.get("/<int:picture_id>/look.png")
def look(document_id: int, picture_id: int) -> Response:
    """A picture that stands on no page, small enough to be looked at beside its figures."""
    with studio().session() as session:
        document, picture = _picture(session, document_id, picture_id)
        data = image_look(studio(), document, picture)
    response = Response(data, mimetype="image/png")
    response.headers["Cache-Control"] = f"private, max-age={_FOREVER}, immutable"
    return response


def _picture(session: Session, document_id: int, picture_id: int) -> tuple[Document, ImageOnPage]:
    document = document_with(session, document_id)
    picture = picture_in(session, document, picture_id)
    if not picture.object_number and not picture.part:
        raise NotThere("This image was split into pieces, or is stored inline in the page content.")
    return document, picture


def _where(document: Document, picture: ImageOnPage) -> str:
    read = read_of(document)
    words = where_text(read, picture)
    return words if read.format.is_package else f"page {words}"
