"""Pages of outputs as pictures, to look at two outputs side by side."""

import shutil
from pathlib import Path
from zipfile import ZipFile

from harnet.store.outputmodels import Output
from harnet.studio.desk import Desk
from harnet.studio.errors import NotThere
from harnet.studio.outputs import PACK, PDF
from harnet.studio.pdfpages import drawn_once
from harnet.studio.progress import DONE

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
    is_pack = output.file_name.endswith(".zip")

    def page_file(source: Path) -> Path:
        if not is_pack:
            return source
        path = source.with_name("page")
        with ZipFile(source) as pack, path.open("wb") as copy:
            member = sorted(pack.namelist())[number - 1]
            shutil.copyfileobj(pack.open(member), copy)
        return path

    order = {
        "is_pdf": output.kind == PDF,
        "page": 1 if is_pack else number,
        "edge_px": LOOK_EDGE_PX,
        "name": output.file_name,
    }
    return drawn_once(desk, f"{sha256}-page-{number}.png", sha256, order, page_file)
