"""Bytes for the browser: previews, page fonts and finished outputs."""

from flask import (
    Blueprint,
    Response,
    abort,
    request,
    send_from_directory,
)

from harnet.media.pagedrawing.text_lines import FONT_FOLDER
from harnet.media.pixels.exact import exact_square
from harnet.media.pixels.previews import SIZES, SPOT, SPOT_PX, preview_name, rung
from harnet.studio.output.outputs import output_with
from harnet.studio.pictures.exact import MAKE_EXACT, exact_file
from harnet.studio.pictures.pdf_pages import page_thumbnail
from harnet.studio.pictures.picture import picture_of_content, picture_with
from harnet.studio.pictures.shelves import want_preview
from harnet.web.common.files import output_file
from harnet.web.common.shared import in_background, send_look, studio

blueprint = Blueprint("files", __name__)
_FOREVER = 365 * 24 * 3600
LADDER_EDGE_PX, SPOT_EDGE_PX = 150, 380
_DENSEST_PPI = 1200
_PNG_START = b"\x89PNG"


@blueprint.get("/preview/<sha256>/<size>")
def preview(sha256: str, size: str) -> Response:
    """A preview of a picture by its content; it never changes."""
    if size not in SIZES or not sha256.isalnum():
        abort(404)
    try:
        with studio().blobs.open_preview(preview_name(sha256, size)) as file:
            data = file.read()
    except FileNotFoundError:
        _ask_for_preview(sha256)
        abort(404)
    kind = "image/png" if data.startswith(_PNG_START) else "image/jpeg"
    response = Response(data, mimetype=kind)
    response.headers["Cache-Control"] = f"private, max-age={_FOREVER}, immutable"
    return response


@blueprint.get("/pdf-page/<int:picture_id>/<int:number>.png")
def pdf_page(picture_id: int, number: int) -> Response:
    """A small drawing of a page of a PDF on a shelf."""
    with studio().session() as session:
        data = page_thumbnail(studio(), picture_with(session, picture_id), number)
    response = Response(data, mimetype="image/png")
    response.headers["Cache-Control"] = "private, max-age=600"
    return response


def _ask_for_preview(sha256: str) -> None:
    """Has the worker make a preview that is gone; the page asks for it again."""
    with studio().session() as session:
        is_known = want_preview(session, sha256)
    if is_known:
        send_look()


@blueprint.get("/ladder/<sha256>/<int:density_ppi>")
def ladder_rung(sha256: str, density_ppi: int) -> Response:
    """A picture's sample at one density of the ladder; `x` and `y` choose it, as shares."""
    if not 1 <= density_ppi <= _DENSEST_PPI or not sha256.isalnum():
        abort(404)
    edge = SPOT_EDGE_PX if request.args.get("size") == "large" else LADDER_EDGE_PX
    try:
        data = rung(_sample(sha256), density_ppi, edge)
    except FileNotFoundError:
        abort(404)
    response = Response(data, mimetype="image/png")
    response.headers["Cache-Control"] = f"private, max-age={_FOREVER}, immutable"
    return response


def _sample(sha256: str) -> bytes:
    """The square inch that the ladder shows, as PNG.

    Raises:
        FileNotFoundError: it is being made.
    """
    x, y = (request.args.get(name, None, float) for name in ("x", "y"))
    if x is None or y is None or not (0 <= x <= 1 and 0 <= y <= 1):
        with studio().blobs.open_preview(preview_name(sha256, SPOT)) as file:
            return file.read()
    path = exact_file(studio(), sha256)
    if path is None:
        with studio().session() as session:
            picture_id = picture_of_content(session, sha256)
        if picture_id is not None and "asked" not in request.args:
            in_background(MAKE_EXACT, picture_id=picture_id)
        raise FileNotFoundError(sha256)
    return exact_square(path, (x, y), SPOT_PX)


@blueprint.get("/fonts/<name>.ttf")
def font(name: str) -> Response:
    """A font that pages are set in, the same file that PDFs embed."""
    return send_from_directory(FONT_FOLDER, f"{name}.ttf", max_age=_FOREVER)


@blueprint.get("/outputs/<int:output_id>/file")
def finished(output_id: int) -> Response:
    """A finished output, as a download under its name."""
    with studio().session() as session:
        output = output_with(session, output_id)
    return output_file(output)
