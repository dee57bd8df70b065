"""Bytes for the browser: previews, page fonts and finished outputs."""

from flask import Blueprint, Response, abort, send_file, send_from_directory

from harnet.media.previews import SIZES, preview_name
from harnet.media.textlines import FONT_FOLDER
from harnet.studio.outputs import DONE, PDF, output_with
from harnet.web.shared import desk

blueprint = Blueprint("files", __name__)
_FOREVER = 365 * 24 * 3600
_PNG_START = b"\x89PNG"


@blueprint.get("/preview/<sha256>/<size>")
def preview(sha256: str, size: str) -> Response:
    """A preview of a picture by its content; it never changes."""
    if size not in SIZES or not sha256.isalnum():
        abort(404)
    try:
        file = desk().blobs.open_preview(preview_name(sha256, size))
    except FileNotFoundError:
        abort(404)
    kind = "image/png" if file.read(4) == _PNG_START else "image/jpeg"
    file.seek(0)
    response = send_file(file, mimetype=kind, max_age=_FOREVER)
    response.headers["Cache-Control"] = f"private, max-age={_FOREVER}, immutable"
    return response


@blueprint.get("/fonts/<name>.ttf")
def font(name: str) -> Response:
    """A font that pages are set in, the same file that PDFs embed."""
    return send_from_directory(FONT_FOLDER, f"{name}.ttf", max_age=_FOREVER)


@blueprint.get("/outputs/<int:output_id>/file")
def finished(output_id: int) -> Response:
    """A finished output, as a download under its name."""
    with desk().session() as session:
        output = output_with(session, output_id)
    if output.state != DONE or output.sha256 is None:
        abort(404)
    return send_file(
        desk().blobs.open(output.sha256),
        mimetype="application/pdf" if output.kind == PDF else "image/png",
        as_attachment=True,
        download_name=output.file_name,
    )
