"""Making outputs: the worker draws what was asked for, reads it back and writes the receipt."""

import shutil
import tempfile
from collections.abc import Callable, Sequence
from pathlib import Path
from typing import Any
from zipfile import ZIP_STORED, ZipFile, ZipInfo

from harnet.core.pageimages import ImageSettings, image_name, image_settings_from_values
from harnet.core.pdfmode import PdfSettings, fate_of, settings_from_values
from harnet.core.picture import facts_from_row
from harnet.media.errors import TooLarge, UnreadableFile
from harnet.media.pageimage import read_back_image, write_page_image
from harnet.media.pageplan import (
    LinePart,
    PagePlan,
    Part,
    PicturePart,
    RectanglePart,
    TextPart,
)
from harnet.media.pdf.readback import read_back
from harnet.media.pdf.write import write_pdf
from harnet.media.textlines import TextStyle
from harnet.store.base import now_utc
from harnet.store.models import Item, Job, Output, Page
from harnet.studio.desk import Desk
from harnet.studio.jobs import page_count, page_of, whole_job
from harnet.studio.links import file_of
from harnet.studio.outputs import PAGE_IMAGE, PDF, output_with, plain_title
from harnet.studio.placed import FRAME, LINE, PICTURE, RECTANGLE, frame_of, placement_of
from harnet.studio.progress import CANCELLED, DONE, FAILED, RUNNING, WORKING, Cancelled
from harnet.studio.receipts import images_receipt, pdf_receipt
from harnet.studio.takein import safe_file_name


def plan_of(desk: Desk, job: Job, page: Page) -> PagePlan:
    """A page as the writers draw it; empty frames are not drawn."""
    parts = tuple(_part(desk, item) for item in page.items if item.kind != FRAME)
    return PagePlan(page.position + 1, page.width_pt, page.height_pt, job.bleed_pt, parts)


def _part(desk: Desk, item: Item) -> Part:
    if item.kind == PICTURE:
        assert item.picture is not None
        picture = item.picture
        return PicturePart(
            item.id,
            picture.file_name,
            picture.sha256,
            file_of(desk, item),
            facts_from_row(picture.facts),
            placement_of(item),
        )
    if item.kind == RECTANGLE:
        style = item.style
        return RectanglePart(
            frame_of(item),
            item.rotation_deg,
            style.get("fill"),
            style.get("stroke"),
            style.get("stroke_pt", 1.0),
        )
    if item.kind == LINE:
        style = item.style
        return LinePart(frame_of(item), item.rotation_deg, style["stroke"], style["stroke_pt"])
    return TextPart(frame_of(item), item.rotation_deg, item.text or "", TextStyle(**item.style))


def make_output(desk: Desk, output_id: int) -> None:
    """Makes what was asked for, reads it back and writes the receipt; the worker calls this.

    The finished file is kept whole or not at all. A file that cannot be read ends the output
    with a sentence that names it.
    """
    with desk.session() as session:
        output = session.get(Output, output_id)
        if output is None or output.state not in RUNNING:
            return
        output.state = WORKING
        job = whole_job(session, output.job_id)
        kind, settings, title = output.kind, dict(output.settings), job.title
        pages = job.pages
        if kind == PAGE_IMAGE:
            pages = [page_of(job, number) for number in settings["numbers"]]
        all_pages = page_count(job)
        plans = [plan_of(desk, job, page) for page in pages]
    folder = Path(tempfile.mkdtemp(dir=desk.settings.scratch_folder))
    try:
        made = folder / "output"
        if kind == PDF:
            pdf = settings_from_values(settings["pdf"]) if "pdf" in settings else PdfSettings()
            promises = write_pdf(
                plans,
                title,
                made,
                _progress_of(desk, output_id),
                lambda part: fate_of(part.facts, part.placement, pdf),
            )
            receipt = pdf_receipt(plans, promises, read_back(made))
        else:
            images = image_settings_from_values(settings["images"])
            receipt = _write_images(
                plans,
                images,
                (title, all_pages),
                made,
                _progress_of(desk, output_id),
            )
        sha256 = desk.blobs.put_file(made)
        with desk.session() as session:
            output = output_with(session, output_id)
            if output.state != CANCELLED:
                output.state, output.finished_at = DONE, now_utc()
                output.sha256, output.size_bytes = sha256, made.stat().st_size
                output.receipt = receipt
    except Cancelled:
        return
    except TooLarge as error:
        _fail(desk, output_id, f"{error} Nothing was made.")
    except UnreadableFile as error:
        _fail(desk, output_id, f"{error} Nothing was made; fix or swap that picture and try again.")
    except Exception:
        _fail(desk, output_id, "Making this failed for a reason of Harnet's own. Nothing was made.")
        raise
    finally:
        shutil.rmtree(folder, ignore_errors=True)


def _write_images(
    plans: Sequence[PagePlan],
    settings: ImageSettings,
    job: tuple[str, int],
    made: Path,
    progress: Callable[[int, int], None],
) -> dict[str, Any]:
    """Writes one image, or a ZIP of several, and returns the receipt; `job` is title and pages."""
    title, all_pages = job
    written = []
    for done, plan in enumerate(plans):
        progress(done, len(plans))
        path = made.with_name(f"page-{plan.number}")
        ppi, promises = write_page_image(plan, settings, path)
        written.append((plan, ppi, promises, read_back_image(path)))
    progress(len(plans), len(plans))
    if len(plans) == 1:
        path.rename(made)
        return images_receipt(written)
    with ZipFile(made, "w", ZIP_STORED) as pack:
        for plan, ppi, *_ in written:
            name = image_name(settings, plain_title(title), plan.number, all_pages, ppi)
            # A fixed time, so that the same pages give the same bytes.
            entry = ZipInfo(safe_file_name(name), (1980, 1, 1, 0, 0, 0))
            pack.writestr(entry, made.with_name(f"page-{plan.number}").read_bytes())
    return images_receipt(written)


def _fail(desk: Desk, output_id: int, sentence: str) -> None:
    with desk.session() as session:
        output = output_with(session, output_id)
        output.state, output.trouble, output.finished_at = FAILED, sentence, now_utc()


def _progress_of(desk: Desk, output_id: int) -> Callable[[int, int], None]:
    def progress(done: int, total: int) -> None:
        with desk.session() as session:
            output = session.get(Output, output_id)
            if output is None or output.state == CANCELLED:
                raise Cancelled
            output.done_steps, output.all_steps = done, total

    return progress
