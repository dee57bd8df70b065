"""Pages of PDFs as pictures, drawn apart and kept."""

import shutil
import tempfile
from pathlib import Path

from harnet.media.bounded import work_apart
from harnet.studio.desk import Desk
from harnet.studio.errors import NotThere

_SECONDS, _MEMORY_BYTES = 60, 3_000_000_000
_EDGE_PX = 1600
"""The longer edge of a page as it is looked at."""


def page_picture(desk: Desk, sha256: str, name: str, number: int) -> bytes:
    """A page as it is seen, crop box and turn included, as PNG; kept once it was drawn.

    Raises:
        NotThere: the PDF's bytes are gone.
        UnreadableFile: the page cannot be drawn.
    """
    kept = f"{sha256}-seen-{number}.png"
    try:
        with desk.blobs.open_preview(kept) as file:
            return file.read()
    except FileNotFoundError:
        pass
    folder = Path(tempfile.mkdtemp(dir=desk.settings.scratch_folder))
    try:
        source, look = folder / "source.pdf", folder / "look.png"
        try:
            with desk.blobs.open(sha256) as blob, source.open("wb") as copy:
                shutil.copyfileobj(blob, copy)
        except FileNotFoundError:
            raise NotThere("The bytes of this PDF are gone.") from None
        order = {
            "path": str(source),
            "is_pdf": True,
            "is_whole": True,
            "page": number,
            "edge_px": _EDGE_PX,
            "look": str(look),
            "name": name,
        }
        work_apart(
            "harnet.media.pagelook",
            order,
            name=name,
            seconds=_SECONDS,
            memory_bytes=_MEMORY_BYTES,
        )
        desk.blobs.put_preview(kept, look)
        return look.read_bytes()
    finally:
        shutil.rmtree(folder, ignore_errors=True)
