"""Bytes for the browser: previews, page fonts and finished outputs."""

from collections.abc import Iterator
from pathlib import Path

from flask import (
    Blueprint,
    Response,
    abort,
    request,
    send_file,
    send_from_directory,
    stream_with_context,
)

from harnet.media.pagedrawing.text_lines import FONT_FOLDER
from harnet.media.pixels.previews import SIZES, SPOT, preview_name, rung
from harnet.store.tables.output import Output
from harnet.studio.output.outputs import media_type_of, output_with
from harnet.studio.tasks.states import DONE
from harnet.web.common.shared import studio

blueprint = Blueprint("files", __name__)
_FOREVER = 365 * 24 * 3600
LADDER_PPI = (1, 2, 3, 4, 12, 72, 150, 300)
LADDER_EDGE_PX, SPOT_EDGE_PX = 150, 380
_DENSEST_PPI = 1200
_BLOCK_BYTES = 1 << 20
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
        abort(404)
    kind = "image/png" if data.startswith(_PNG_START) else "image/jpeg"
    response = Response(data, mimetype=kind)
    response.headers["Cache-Control"] = f"private, max-age={_FOREVER}, immutable"
    return response


@blueprint.get("/ladder/<sha256>/<int:density_ppi>")
def ladder_rung(sha256: str, density_ppi: int) -> Response:
    """A picture's spot at one density of the ladder."""
    if not 1 <= density_ppi <= _DENSEST_PPI or not sha256.isalnum():
        abort(404)
    edge = SPOT_EDGE_PX if request.args.get("size") == "large" else LADDER_EDGE_PX
    try:
        with studio().blobs.open_preview(preview_name(sha256, SPOT)) as file:
            data = rung(file.read(), density_ppi, edge)
    except FileNotFoundError:
        abort(404)
    response = Response(data, mimetype="image/png")
    response.headers["Cache-Control"] = f"private, max-age={_FOREVER}, immutable"
    return response


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


def output_file(output: Output) -> Response:
    """A finished output as a download; one that is not finished is not there."""
    if output.state != DONE or output.sha256 is None:
        abort(404)
    response = blob_file(output.sha256, output.file_name, media_type_of(output))
    if output.size_bytes is not None:
        response.content_length = output.size_bytes
    return response


def blob_file(sha256: str, name: str, media_type: str) -> Response:
    """Kept bytes as a download."""
    response = Response(stream_with_context(_blocks_of(sha256)), mimetype=media_type)
    response.headers.set("Content-Disposition", "attachment", filename=name)
    return response


def file_blocks(path: Path, name: str) -> Response:
    """A file of a shelf as a download."""
    return send_file(path, "application/octet-stream", as_attachment=True, download_name=name)


def _blocks_of(sha256: str) -> Iterator[bytes]:
    """The bytes block by block: the store may be anywhere, so no file is handed to the server."""
    with studio().blobs.open(sha256) as file:
        while block := file.read(_BLOCK_BYTES):
            yield block
