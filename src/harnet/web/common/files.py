"""Files as answers: sent block by block, under safe names."""

from collections.abc import Iterator
from pathlib import Path

from flask import (
    Response,
    abort,
    send_file,
    stream_with_context,
)

from harnet.store.tables.output import Output
from harnet.studio.output.outputs import media_type_of
from harnet.studio.tasks.states import DONE
from harnet.web.common.shared import studio

LADDER_PPI = (1, 2, 3, 4, 12, 72, 150, 300)


_BLOCK_BYTES = 1 << 20


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
