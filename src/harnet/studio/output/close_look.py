"""A page image before it is exported: exactly the pixels that would leave, kept to be looked at."""

import tempfile
from dataclasses import dataclass, replace
from hashlib import sha256
from pathlib import Path
from typing import Any

from harnet.core.errors import ValueOutOfRange
from harnet.core.measure.wording import grouped
from harnet.core.output.page_images import (
    ImageSettings,
    checked_image_settings,
    image_settings_from_values,
)
from harnet.media.errors import TooLarge, UnreadableFile
from harnet.media.pagedrawing.page_image import write_tiles
from harnet.media.pagedrawing.plan import PagePlan, PagesToDraw
from harnet.store.tables.jobs import Job, Page
from harnet.studio.common.errors import sentence_of
from harnet.studio.common.studio import Studio
from harnet.studio.jobs.jobs import job_with, page_of
from harnet.studio.output.bounded_rendering import RenderRequest, make_apart
from harnet.studio.output.task import plan_of
from harnet.studio.pictures.profiles import profile_file
from harnet.studio.tasks.task import Task

MOST_LOOK_PX = 120_000_000


@dataclass(frozen=True, slots=True, kw_only=True)
class CloseLook:
    """A page at the pixels that would leave: its file, or why there is none yet.

    `path` is a TIFF of Harnet's own in sRGB; None while it is being made, or where `failure` says
    why it cannot be.
    """

    path: Path | None
    failure: str
    px_w: int
    px_h: int
    density_ppi: float


def close_look(studio: Studio, job: Job, page: Page, settings: ImageSettings) -> CloseLook:
    """What is kept of a page by these settings.

    Raises:
        ValueOutOfRange: settings that cannot be.
    """
    checked_image_settings(settings)
    size = settings.size_of(page.width_pt, page.height_pt, job.bleed_pt)
    px_w, px_h = settings.px_for(*size)
    path, failure = None, ""
    if px_w * px_h > MOST_LOOK_PX:
        failure = (
            f"Page {page.position + 1} has {grouped(px_w)} × {grouped(px_h)} px at this density;"
            f" up to {MOST_LOOK_PX // 1_000_000} million are shown here. Export it to see it."
        )
    else:
        key = _key(plan_of(studio, job, page), settings)
        path = studio.blobs.preview_file(key, studio.settings.scratch_folder)
        failed = studio.blobs.preview_file(f"{key}-failed", studio.settings.scratch_folder)
        if path is None and failed is not None:
            failure = failed.read_text()
    return CloseLook(
        path=path,
        failure=failure,
        px_w=px_w,
        px_h=px_h,
        density_ppi=settings.density_for(*size),
    )


def _key(plan: PagePlan, settings: ImageSettings) -> str:
    """The name that the look is kept under; it changes with the page and with what is written."""
    told_apart = replace(settings, pages="", names="")
    return f"{sha256(f'{plan!r} {told_apart!r}'.encode()).hexdigest()}-look"


def make_close_look(studio: Studio, job_id: int, number: int, settings: dict[str, Any]) -> None:
    """Draws a page as it would leave and keeps it; the worker calls this.

    What cannot be drawn keeps its sentence, until the page or the settings change.
    """
    wanted = replace(image_settings_from_values(settings), pages="all", names="{page}")
    with studio.session() as session:
        job = job_with(session, job_id)
        plan = plan_of(studio, job, page_of(job, number))
        document = PagesToDraw(job.title, (plan,), job.edited_at)
    key = _key(plan, wanted)
    if studio.blobs.preview_file(key, studio.settings.scratch_folder) is not None:
        return
    with tempfile.TemporaryDirectory(dir=studio.settings.scratch_folder) as name:
        folder = Path(name)
        made, kept = folder / "made", folder / "kept"
        made.mkdir()
        try:
            profile = profile_file(studio, wanted.profile, folder)
            result = make_apart(RenderRequest(document, wanted, profile), made)
            write_tiles(result.paths[0], kept)
        except (UnreadableFile, TooLarge, ValueOutOfRange) as error:
            key += "-failed"
            kept.write_text(
                sentence_of(error) if isinstance(error, ValueOutOfRange) else str(error)
            )
        studio.blobs.put_preview(key, kept)


MAKE_CLOSE_LOOK = Task(name="make_close_look", queue="copies", run=make_close_look)
