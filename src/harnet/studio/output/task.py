"""Making outputs: the worker draws what was asked for, reads it back and writes the receipt."""

from collections.abc import Callable
from pathlib import Path
from typing import Any

from sqlalchemy.orm import Session

from harnet.core.errors import ValueOutOfRange
from harnet.core.layout.placing import Placement
from harnet.core.output.kind import PACK, PDF
from harnet.core.output.page_images import ImageSettings, plain_title
from harnet.core.output.pdf_settings import PdfSettings, settings_from_values
from harnet.core.pictures.picture import facts_from_values
from harnet.core.preflight.subject import FileState
from harnet.media.errors import TooLarge, UnreadableFile
from harnet.media.pagedrawing.plan import (
    LinePart,
    PagePlan,
    PagesToDraw,
    Part,
    PicturePart,
    RectanglePart,
    TextPart,
)
from harnet.media.pagedrawing.text_lines import TextStyle
from harnet.store.tables.jobs import Item, Job, Page
from harnet.store.tables.output import Output
from harnet.studio.common.errors import sentence_of
from harnet.studio.common.studio import Studio
from harnet.studio.common.zipped import zipped
from harnet.studio.handoff.reading import read_pack
from harnet.studio.handoff.writing import write_pack
from harnet.studio.jobs.jobs import whole_job
from harnet.studio.layout.crossing import crossing_onto, page_beside
from harnet.studio.layout.gestures import Geometry, geometry_of
from harnet.studio.layout.links import LINKED, file_of
from harnet.studio.layout.placed import FRAME, LINE, RECTANGLE
from harnet.studio.output.bounded_rendering import RenderRequest, make_apart
from harnet.studio.output.outputs import asked_images, output_with
from harnet.studio.pictures.importing import safe_file_name
from harnet.studio.pictures.picture import state_of
from harnet.studio.pictures.profiles import profile_file
from harnet.studio.tasks.task import Task
from harnet.studio.tasks.work import Work, carry_out

_OWN_FAULT = (
    "Harnet failed to make this through a fault of its own. Nothing was made; the log has the"
    " details."
)


_Files = dict[tuple[int | None, str], Path | None]
"""By picture and how it is held: the file that it is drawn from."""


def plan_of(studio: Studio, job: Job, page: Page, files: _Files | None = None) -> PagePlan:
    """A page as the writers draw it, with what reaches onto it over the fold of its spread.

    Empty frames are not drawn. Pages that share `files` look for each picture's file once.
    """
    files = {} if files is None else files
    number, beside = page.position + 1, page_beside(job, page)
    own = [(item, geometry_of(item)) for item in page.items]
    over = crossing_onto(job, page, beside) if beside is not None else []
    # On a spread what belongs to the right page lies above what belongs to the left one.
    drawn = [*over, *own] if number % 2 else [*own, *over]
    return PagePlan(
        number=number,
        width_pt=page.width_pt,
        height_pt=page.height_pt,
        bleed_pt=job.bleed_pt,
        parts=tuple(_part(studio, item, seen, files) for item, seen in drawn if item.kind != FRAME),
    )


def _part(studio: Studio, item: Item, seen: Geometry, files: _Files) -> Part:
    if isinstance(seen, Placement):
        assert item.picture is not None
        picture, held = item.picture, (item.picture_id, item.holding)
        if held not in files:
            files[held] = file_of(studio, item)
        path = files[held]
        return PicturePart(
            item_id=item.id,
            name=picture.file_name,
            sha256=picture.sha256,
            path=path,
            facts=facts_from_values(picture.facts),
            placement=seen,
            is_changed=path is None and _is_changed(item),
        )
    frame, rotation_deg = seen.box, seen.rotation_deg
    if item.kind == RECTANGLE:
        style = item.style
        return RectanglePart(
            frame=frame,
            rotation_deg=rotation_deg,
            fill=style.get("fill"),
            stroke=style.get("stroke"),
            stroke_pt=style.get("stroke_pt", 1.0),
        )
    if item.kind == LINE:
        style = item.style
        return LinePart(frame, rotation_deg, style["stroke"], style["stroke_pt"])
    return TextPart(frame, rotation_deg, item.text or "", TextStyle(**item.style))


def _is_changed(item: Item) -> bool:
    assert item.picture is not None
    return item.holding == LINKED and state_of(item.picture) is FileState.CHANGED


def pages_to_draw(studio: Studio, job: Job) -> PagesToDraw:
    """All pages of a job as the writers draw them."""
    files: _Files = {}
    plans = tuple(plan_of(studio, job, page, files) for page in job.pages)
    return PagesToDraw(job.title, plans, job.edited_at)


def make_output(studio: Studio, row_id: int) -> None:
    """Makes what was asked for, reads it back and writes the receipt; the worker calls this.

    The finished file is kept whole or not at all. A file that cannot be read ends the output
    with a sentence that names it.
    """
    work = Work(studio, Output, row_id)
    if work.begin():
        with work.scratch() as folder:
            carry_out(work, lambda: _make(work, folder), _sentence_for, _OWN_FAULT)


def _sentence_for(error: Exception) -> str | None:
    if isinstance(error, TooLarge):
        return f"{error} Nothing was made."
    if isinstance(error, ValueOutOfRange):
        return f"{sentence_of(error)} Nothing was made."
    if isinstance(error, UnreadableFile):
        return f"{error} Nothing was made; fix or swap that picture and try again."
    return None


def _make(work: Work[Output], folder: Path) -> None:
    studio = work.studio
    with studio.session() as session:
        output = output_with(session, work.row_id)
        kind, settings = output.kind, dict(output.settings)
        document = pages_to_draw(studio, whole_job(session, output.job_id))
    made, apart = folder / "output", folder / "apart"
    apart.mkdir()
    wanted = _wanted(kind, settings)
    profile = profile_file(studio, wanted.profile, folder)
    found = make_apart(RenderRequest(document, wanted, profile), apart, work.tell, work.look_up)
    receipt = found.receipt
    if len(found.paths) == 1:
        found.paths[0].rename(made)
    else:
        zipped(list(found.paths), made)
    if kind == PACK:
        receipt = _packed(studio, work.row_id, made, receipt, work.tell)
    sha256, size_bytes = studio.blobs.put_file(made), made.stat().st_size

    def keep(_session: Session, output: Output) -> None:
        output.sha256, output.size_bytes, output.receipt = sha256, size_bytes, receipt

    work.finish(keep)


def _wanted(kind: str, settings: dict[str, Any]) -> PdfSettings | ImageSettings:
    """What an output's settings ask for."""
    if kind in (PDF, PACK):
        return settings_from_values(settings.get("pdf", {}))
    return asked_images(settings)


def _packed(
    studio: Studio,
    output_id: int,
    made: Path,
    receipt: dict[str, Any],
    progress: Callable[[int, int], None],
) -> dict[str, Any]:
    """Puts the PDF that was made into a pack in its place; the pack is opened again to see."""
    pdf, folder = made.with_name("made.pdf"), made.with_name("read again")
    made.rename(pdf)
    folder.mkdir()
    with studio.session() as session:
        job = whole_job(session, output_with(session, output_id).job_id)
        name = safe_file_name(f"{plain_title(job.title)}.pdf")
        pack_receipt = write_pack(studio, session, job, (name, pdf, receipt), made, progress)
        placed = sum(len(page.items) for page in job.pages)
    pack = read_pack(made, "the pack", folder)
    found = sum(len(page.items) for page in pack.job.pages)
    packed_kept = (found, len(pack.files)) == (
        placed,
        pack_receipt["pictures"],
    ) and not pack_receipt["missing"]
    pack_receipt |= {"items_promised": placed, "items_found": found, "is_kept": packed_kept}
    return receipt | {"pack": pack_receipt, "is_kept": receipt["is_kept"] and packed_kept}


MAKE_OUTPUT = Task(name="make_output", queue="outputs", run=make_output, model=Output)
