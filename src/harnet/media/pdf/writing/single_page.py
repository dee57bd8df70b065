"""One page of a PDF as a PDF of its own, written in a process with limits."""

from pathlib import Path

import pikepdf

from harnet.core.measure.wording import counted
from harnet.media.bounded import Order, Tell
from harnet.media.errors import UnreadableFile
from harnet.media.pdf.opening.opened import opened_pdf


def work(order: Order, _tell: Tell) -> Order:
    """What happens in the process: see `harnet.media.bounded`.

    `page` counts from 1; the PDF is written to `to`, with the page's boxes, turn and resources as
    they are and the document's output intents. What notes and form fields draw becomes part of the
    page. The same page gives the same bytes.

    Raises:
        UnreadableFile: the PDF cannot be read, or has no such page.
    """
    name, number = order["name"], int(order["page"])
    with opened_pdf(Path(order["path"]), name) as pdf:
        if not 1 <= number <= len(pdf.pages):
            raise UnreadableFile(name, f"it has {counted(len(pdf.pages), 'page')}, not {number}")
        if "/Annots" in pdf.pages[number - 1].obj:
            pdf.generate_appearance_streams()
            pdf.flatten_annotations("print")
        with pikepdf.new() as alone:
            alone.pages.append(pdf.pages[number - 1])
            if "/OutputIntents" in pdf.Root:
                intents = pdf.make_indirect(pdf.Root.OutputIntents)
                alone.Root.OutputIntents = alone.copy_foreign(intents)
            version = max(pdf.pdf_version, "1.4")
            alone.save(order["to"], deterministic_id=True, min_version=version)
    return {}
