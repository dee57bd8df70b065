"""One picture of a checked PDF alone, at full size."""

from flask import Blueprint, Response, render_template
from sqlalchemy.orm import Session

from harnet.core.documents.painted import Painted, line_of
from harnet.core.measure.wording import density_text
from harnet.core.preflight.painted import findings_on
from harnet.store.tables.documents import CheckedPdf
from harnet.studio.common.errors import NotThere
from harnet.studio.documents.kept import pdf_with, picture_in, read_of, target_of_pdf
from harnet.studio.documents.pages import picture_alone
from harnet.web.common.shared import desk

blueprint = Blueprint("pdfpicture", __name__, url_prefix="/pdf/<int:pdf_id>/pictures")
_FOREVER = 365 * 24 * 3600


@blueprint.get("/<int:picture_id>")
def alone(pdf_id: int, picture_id: int) -> str:
    """The picture with every pixel, its figures above it."""
    with desk().session() as session:
        pdf, picture = _picture(session, pdf_id, picture_id)
        target = target_of_pdf(pdf)
        line = line_of(picture, target)
        return render_template(
            "documents/picture.html",
            pdf=pdf,
            picture=picture,
            line=line,
            ppi=density_text(picture.density),
            size=picture.size_text,
            findings=findings_on([picture], read_of(pdf), target),
        )


@blueprint.get("/<int:picture_id>.png")
def pixels(pdf_id: int, picture_id: int) -> Response:
    """Its pixels; the bytes of a checked PDF never change."""
    with desk().session() as session:
        pdf, picture = _picture(session, pdf_id, picture_id)
        data = picture_alone(desk(), pdf.sha256, pdf.file_name, picture.object_number)
    response = Response(data, mimetype="image/png")
    response.headers["Cache-Control"] = f"private, max-age={_FOREVER}, immutable"
    return response


def _picture(session: Session, pdf_id: int, picture_id: int) -> tuple[CheckedPdf, Painted]:
    pdf = pdf_with(session, pdf_id)
    picture = picture_in(session, pdf, picture_id)
    if not picture.object_number:
        raise NotThere("This image was split into pieces, or is stored inline in the page content.")
    return pdf, picture
