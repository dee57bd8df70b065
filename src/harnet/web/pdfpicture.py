"""One picture of a checked PDF alone, at full size."""

from flask import Blueprint, Response, render_template
from sqlalchemy.orm import Session

from harnet.core.wording import density_text
from harnet.store.pdfmodels import CheckedPdf, PaintedPicture
from harnet.studio.checkedpdfs import density_of, line_of, pdf_with, target_of_pdf
from harnet.studio.errors import NotThere
from harnet.studio.pdfpages import picture_alone
from harnet.studio.pdfsubjects import findings_on, size_of_painted
from harnet.web.shared import desk

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
            "pdf_picture.html",
            pdf=pdf,
            picture=picture,
            line=line,
            ppi=density_text(density_of(picture)),
            size=size_of_painted(picture),
            findings=findings_on([picture], pdf.pages, target),
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


def _picture(session: Session, pdf_id: int, picture_id: int) -> tuple[CheckedPdf, PaintedPicture]:
    pdf = pdf_with(session, pdf_id)
    picture = session.get(PaintedPicture, picture_id)
    if picture is None or picture.pdf_id != pdf.id:
        raise NotThere("This picture is not in the PDF.")
    if not picture.object_number:
        raise NotThere("This picture was cut into pieces, or stands within the page's own content.")
    return pdf, picture
