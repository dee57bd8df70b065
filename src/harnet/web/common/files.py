"""Files as answers: sent block by block, under safe names."""

import os
from pathlib import Path

from flask import (
    Response,
    abort,
    request,
    send_file,
)
from werkzeug.wsgi import FileWrapper

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
    return blob_file(output.sha256, output.file_name, media_type_of(output))


def blob_file(sha256: str, name: str, media_type: str) -> Response:
    """Kept bytes as a download, block by block, or the range of them that is asked for.

    The store may be anywhere, so no file is handed to the server.
    """
    file = studio().blobs.open(sha256)
    size_bytes = file.seek(0, os.SEEK_END)
    file.seek(0)
    response = Response(FileWrapper(file, _BLOCK_BYTES), mimetype=media_type)
    response.direct_passthrough = True
    response.content_length = size_bytes
    response.call_on_close(file.close)
    response.headers.set("Content-Disposition", "attachment", filename=name)
    response.set_etag(sha256)
    response.make_conditional(request, accept_ranges=True, complete_length=size_bytes)
    return response


def file_blocks(path: Path, name: str) -> Response:
    """A file of a shelf as a download."""
    return send_file(path, "application/octet-stream", as_attachment=True, download_name=name)
