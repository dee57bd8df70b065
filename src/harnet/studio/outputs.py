"""Outputs of a job: asked for by the web, made by the worker, read back, with a receipt."""

import shutil
import tempfile
from collections.abc import Callable
from dataclasses import dataclass
from pathlib import Path
from typing import Any

from sqlalchemy import select
from sqlalchemy.orm import Session

from harnet.core.picture import facts_from_row
from harnet.core.resampling import page_px
from harnet.core.wording import grouped
from harnet.media.errors import UnreadableFile
from harnet.media.pageimage import MAX_IMAGE_PX, FoundImageFile, read_back_image, write_png
from harnet.media.pageplan import (
    LinePart,
    PagePlan,
    Part,
    PicturePart,
    RectanglePart,
    TextPart,
)
from harnet.media.pdf.readback import FoundPdf, read_back
from harnet.media.pdf.write import Promise, write_pdf
from harnet.media.textlines import TextStyle
from harnet.store.base import now_utc
from harnet.store.models import Item, Job, Output, Page
from harnet.studio.desk import Desk
from harnet.studio.errors import NotThere, Refused
from harnet.studio.gate import gate_settings
from harnet.studio.jobs import page_of, whole_job
from harnet.studio.links import file_of
from harnet.studio.placed import FRAME, LINE, PICTURE, RECTANGLE, frame_of, placement_of
from harnet.studio.progress import CANCELLED, DONE, FAILED, RUNNING, WORKING, Cancelled
from harnet.studio.takein import safe_file_name

PDF, PAGE_IMAGE = "pdf", "page image"
USUAL_DENSITIES = (72, 96, 150, 200, 220, 300, 600)
_SAME_WITHIN = 0.001
"""PDF numbers are written to eight decimals; a thousandth is far below what any eye tells."""


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


def ask_for_pdf(session: Session, job: Job, reason: str = "", name: str = "") -> Output:
    """Notes down that a PDF with every pixel kept is wanted.

    Raises:
        Refused: something blocks, and no reason or no name is given to go ahead.
    """
    settings = {"mode": "keep every pixel"} | gate_settings(session, job, reason, name)
    return _asked(session, job, PDF, settings, f"{_file_title(job)}.pdf")


def ask_for_image(session: Session, job: Job, page_number: int, density_ppi: float) -> Output:
    """Notes down that one page is wanted as PNG.

    Raises:
        Refused: a density outside 72 to 1200, or an image larger than the limit.
    """
    page = page_of(job, page_number)
    if not 72 <= density_ppi <= 1200:
        raise Refused(f"A page image leaves at 72 to 1200 ppi, not at {density_ppi:g}.")
    px_w, px_h = page_px(page.width_pt, page.height_pt, density_ppi)
    if px_w * px_h > MAX_IMAGE_PX:
        raise Refused(
            f"At {density_ppi:g} ppi this page has {grouped(px_w)} × {grouped(px_h)} pixels; the"
            f" limit is {MAX_IMAGE_PX // 10**6} megapixels. Choose a lower density."
        )
    settings = {"page": page_number, "density_ppi": density_ppi}
    name = f"{_file_title(job)} page {page_number} at {density_ppi:g} ppi.png"
    return _asked(session, job, PAGE_IMAGE, settings, name)


def _file_title(job: Job) -> str:
    """The job's title without what file names must not hold."""
    return job.title.replace(": ", " ")


def _asked(
    session: Session, job: Job, kind: str, settings: dict[str, Any], file_name: str
) -> Output:
    output = Output(
        job_id=job.id, kind=kind, settings=settings, file_name=safe_file_name(file_name)
    )
    session.add(output)
    session.flush()
    return output


def output_with(session: Session, output_id: int) -> Output:
    """The output of that number.

    Raises:
        NotThere: there is none.
    """
    output = session.get(Output, output_id)
    if output is None:
        raise NotThere("This output does not exist any more.")
    return output


def outputs_of(session: Session, job: Job) -> list[Output]:
    """A job's outputs, the latest first."""
    return list(
        session.scalars(select(Output).where(Output.job_id == job.id).order_by(Output.id.desc()))
    )


def cancel(output: Output) -> None:
    """Stops an output that is not finished; what was made of it is thrown away."""
    if output.state in RUNNING:
        output.state, output.finished_at = CANCELLED, now_utc()


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
        pages = [page_of(job, settings["page"])] if kind == PAGE_IMAGE else job.pages
        plans = [plan_of(desk, job, page) for page in pages]
    folder = Path(tempfile.mkdtemp(dir=desk.settings.scratch_folder))
    try:
        made = folder / "output"
        if kind == PDF:
            promises = write_pdf(plans, title, made, _progress_of(desk, output_id))
            receipt = pdf_receipt(plans, promises, read_back(made))
        else:
            promises = write_png(plans[0], settings["density_ppi"], made)
            receipt = image_receipt(
                plans[0], settings["density_ppi"], promises, read_back_image(made)
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
    except UnreadableFile as error:
        _fail(desk, output_id, f"{error} Nothing was made; fix or swap that picture and try again.")
    except Exception:
        _fail(desk, output_id, "Making this failed for a reason of Harnet's own. Nothing was made.")
        raise
    finally:
        shutil.rmtree(folder, ignore_errors=True)


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


@dataclass(frozen=True, slots=True)
class _Pair:
    """A promised and a found figure."""

    promised: float
    found: float | None

    @property
    def is_kept(self) -> bool:
        return self.found is not None and abs(self.found / self.promised - 1) <= _SAME_WITHIN


def pdf_receipt(plans: list[PagePlan], promises: list[Promise], found: FoundPdf) -> dict[str, Any]:
    """Promised and found, picture by picture; a missing picture is a promise not kept."""
    remaining = list(found.images)
    rows = []
    for promise in promises:
        if promise.density is None:
            row = _receipt_row(promise, promise.how.startswith("stays"))
        else:
            image = remaining.pop(0) if remaining else None
            x = _Pair(promise.density.x, image.density.x if image else None)
            y = _Pair(promise.density.y, image.density.y if image else None)
            is_same = image is not None and (image.page_number, image.px_w, image.px_h) == (
                promise.page_number,
                promise.px_w,
                promise.px_h,
            )
            row = _receipt_row(promise, is_same and x.is_kept and y.is_kept, x, y)
        rows.append(row)
    promised_sizes = [(plan.width_pt, plan.height_pt) for plan in plans]
    sizes_kept = len(promised_sizes) == len(found.page_sizes_pt) and all(
        abs(one - other) < 0.01
        for promised, seen in zip(promised_sizes, found.page_sizes_pt, strict=False)
        for one, other in zip(promised, seen, strict=True)
    )
    return {
        "rows": rows,
        "pages_promised": len(plans),
        "pages_found": len(found.page_sizes_pt),
        "sizes_kept": sizes_kept,
        "unexpected": len(remaining),
        "is_kept": sizes_kept and not remaining and all(row["is_kept"] for row in rows),
    }


def image_receipt(
    plan: PagePlan, density_ppi: float, promises: list[Promise], found: FoundImageFile
) -> dict[str, Any]:
    """Promised and found pixels and density tag, and what each picture leaves at.

    A picture leaves at its own effective ppi, or at the page image's where that is lower.
    """
    px_w, px_h = page_px(plan.width_pt, plan.height_pt, density_ppi)
    tag = [_Pair(density_ppi, found.density_x), _Pair(density_ppi, found.density_y)]
    tag_kept = all(pair.is_kept for pair in tag)
    rows = []
    for promise in promises:
        if promise.density is None:
            rows.append(_receipt_row(promise, promise.how.startswith("stays")))
            continue
        found_tag = tag[0].found or 0.0
        x = _Pair(min(promise.density.x, density_ppi), min(promise.density.x, found_tag))
        y = _Pair(min(promise.density.y, density_ppi), min(promise.density.y, found_tag))
        rows.append(_receipt_row(promise, x.is_kept and y.is_kept, x, y))
    size_kept = (found.px_w, found.px_h) == (px_w, px_h)
    return {
        "rows": rows,
        "px_promised": [px_w, px_h],
        "px_found": [found.px_w, found.px_h],
        "density_promised": density_ppi,
        "density_found": found.density_x,
        "sizes_kept": size_kept,
        "is_kept": size_kept and tag_kept and all(row["is_kept"] for row in rows),
    }


def _receipt_row(
    promise: Promise, is_kept: bool, x: _Pair | None = None, y: _Pair | None = None
) -> dict[str, Any]:
    return {
        "page": promise.page_number,
        "item": promise.item_id,
        "name": promise.name,
        "how": promise.how,
        "px": [promise.px_w, promise.px_h] if promise.px_w else None,
        "promised": [x.promised, y.promised] if x and y else None,
        "found": [x.found, y.found] if x and y and x.found is not None else None,
        "is_kept": is_kept,
    }
