"""Pages of outputs as pictures, to look at two outputs side by side."""

import shutil
from pathlib import Path
from zipfile import ZipFile

from harnet.core.output.kind import PACK, PDF
from harnet.store.tables.output import Output
from harnet.studio.common.errors import NotThere
from harnet.studio.common.studio import Studio
from harnet.studio.documents.pages import drawn_once
from harnet.studio.tasks.states import DONE

LOOK_EDGE_PX = 2400
"""The longer edge of a page as it is looked at."""


def pages_in(output: Output) -> list[int]:
    """The numbers of the job's pages that an output holds, in its order."""
    receipt = output.receipt or {}
    rows = receipt.get("pages") or receipt.get("images")
    if rows is None:
        return list(range(1, int(receipt.get("pages_found", 1)) + 1))
    return [int(row["page"]) for row in rows]


def page_look(studio: Studio, output: Output, number: int) -> bytes:
    """A page of an output, by its number in the job, as PNG; kept once it was drawn.

    Raises:
        NotThere: the output has no file, or not this page.
        UnreadableFile: the page cannot be drawn.
    """
    if output.kind == PACK or output.state != DONE or output.sha256 is None:
        raise NotThere("This output has no pages to show.")
    sha256, numbers = output.sha256, pages_in(output)
    if number not in numbers:
        raise NotThere(f"Page {number} is not in this output.")
    index = numbers.index(number)
    is_pack = output.file_name.endswith(".zip")

    def page_file(source: Path) -> Path:
        if not is_pack:
            return source
        path = source.with_name("page")
        with ZipFile(source) as pack, path.open("wb") as copy:
            # The files lie in the order of the pages, whatever they are called.
            shutil.copyfileobj(pack.open(pack.infolist()[index]), copy)
        return path

    order = {
        "is_pdf": output.kind == PDF,
        "page": 1 if is_pack else index + 1,
        "edge_px": LOOK_EDGE_PX,
        "name": output.file_name,
    }
    return drawn_once(studio, f"{sha256}-at-{index + 1}.png", sha256, order, page_file)
