"""Pages of outputs as pictures, to look at two outputs side by side."""

import shutil
import tempfile
from pathlib import Path
from zipfile import ZipFile

from harnet.media.bounded import work_apart
from harnet.store.outputmodels import Output
from harnet.studio.desk import Desk
from harnet.studio.errors import NotThere
from harnet.studio.outputs import PACK, PDF
from harnet.studio.progress import DONE

_SECONDS, _MEMORY_BYTES = 60, 2_000_000_000
LOOK_EDGE_PX = 2400
"""The longer edge of a page as it is looked at."""


def pages_in(output: Output) -> int:
    """How many pages an output holds."""
    receipt = output.receipt or {}
    return int(receipt.get("pages_found", len(receipt.get("images", [1]))))


def page_look(desk: Desk, output: Output, number: int) -> bytes:
    """A page of an output as PNG, kept once it was drawn.

    Raises:
        NotThere: the output has no file, or not so many pages.
        UnreadableFile: the page cannot be drawn.
    """
    if output.kind == PACK or output.state != DONE or output.sha256 is None:
        raise NotThere("This output has no pages to look at.")
    sha256 = output.sha256
    if not 1 <= number <= pages_in(output):
        raise NotThere("This output has no such page.")
    name = f"{sha256}-page-{number}.png"
    try:
        with desk.blobs.open_preview(name) as file:
            return file.read()
    except FileNotFoundError:
        pass
    folder = Path(tempfile.mkdtemp(dir=desk.settings.scratch_folder))
    try:
        source, look = folder / "source", folder / "look.png"
        with desk.blobs.open(sha256) as kept, source.open("wb") as copy:
            shutil.copyfileobj(kept, copy)
        page = number
        if output.file_name.endswith(".zip"):
            with ZipFile(source) as pack, pack.open(sorted(pack.namelist())[number - 1]) as one:
                source, page = folder / "one", 1
                with source.open("wb") as copy:
                    shutil.copyfileobj(one, copy)
        work_apart(
            "harnet.media.pagelook",
            {
                "path": str(source),
                "is_pdf": output.kind == PDF,
                "page": page,
                "edge_px": LOOK_EDGE_PX,
                "look": str(look),
                "name": output.file_name,
            },
            name=output.file_name,
            seconds=_SECONDS,
            memory_bytes=_MEMORY_BYTES,
        )
        desk.blobs.put_preview(name, look)
        return look.read_bytes()
    finally:
        shutil.rmtree(folder, ignore_errors=True)
