"""An image of a document and the part of its original that it shows, under one glass."""

import math

from flask import Blueprint, render_template

from harnet.core.documents.same_shot import Registration
from harnet.studio.common.errors import NotThere
from harnet.studio.documents.making.works import latest_found
from harnet.studio.documents.uploads import document_with
from harnet.web.common.shared import studio
from harnet.web.documents.plan import plan_rows

blueprint = Blueprint("glass", __name__, url_prefix="/documents/<int:document_id>/improve/original")
_STRAIGHT_DEG = 0.05


@blueprint.get("/<int:key>")
def show(document_id: int, key: int) -> str:
    """The image right over the same part of its original, with a wipe between them.

    Raises:
        NotThere: no original is known of it.
    """
    with studio().session() as session:
        document = document_with(session, document_id)
        found = latest_found(session, document)
        rows = plan_rows(session, document, found) if found is not None else []
        row = next((one for one in rows if one.planned.image.key == key), None)
        if row is None or row.planned.candidate is None:
            raise NotThere("No original is known of this image. Look for originals again.")
        how = _how(row.planned.candidate.registration)
        return render_template("documents/glass.html", document=document, row=row, how=how)


def _how(found: Registration) -> str:
    """How the image is laid over its original, in words."""
    matrix = found.to_original
    turn_deg = -math.degrees(math.atan2(matrix.b, matrix.a))
    if found.is_mirrored:
        turn_deg = -turn_deg
    turned = f"turned by {round(turn_deg, 1):g}°" if abs(turn_deg) > _STRAIGHT_DEG else ""
    parts = [f"{found.scale:.2f} × the pixels", "mirrored" if found.is_mirrored else "", turned]
    return ", ".join(filter(None, parts))
