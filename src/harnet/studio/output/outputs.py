"""Outputs of a job: asked for by the web, made by the worker, read back, with a receipt."""

from collections.abc import Mapping
from dataclasses import replace
from typing import Any

from sqlalchemy import select
from sqlalchemy.orm import Session

from harnet.core.errors import ValueOutOfRange
from harnet.core.measure.wording import grouped
from harnet.core.output.kind import PACK, PAGE_IMAGE, PDF
from harnet.core.output.page_images import (
    ImageSettings,
    checked_image_settings,
    image_name,
    image_settings_as_values,
    image_settings_from_values,
    page_numbers,
    plain_title,
)
from harnet.core.output.pdf_settings import (
    PdfSettings,
    PictureMode,
    checked_settings,
    settings_as_values,
    settings_from_values,
)
from harnet.media.pagedrawing.page_image import MAX_IMAGE_PX
from harnet.store.tables.jobs import Job
from harnet.store.tables.output import Output
from harnet.studio.common.activity import add_detail
from harnet.studio.common.errors import NotThere, Refused, sentence_of
from harnet.studio.jobs.jobs import page_count, page_of, target_of
from harnet.studio.people.access import sees
from harnet.studio.people.quotas import require_turn
from harnet.studio.pictures.importing import safe_file_name
from harnet.studio.pictures.profiles import require_profile
from harnet.studio.preflight.gate import gate_settings


def ask_for_pdf(
    session: Session,
    job: Job,
    reason: str = "",
    name: str = "",
    pdf: PdfSettings | None = None,
) -> Output:
    """Records that a PDF is wanted, by these settings or the job's; they are remembered.

    Raises:
        Refused: settings that are not valid; or something blocks, and no reason or no name is
            given to go ahead.
    """
    try:
        wanted = checked_settings(pdf or pdf_settings_of(job))
        page_numbers(wanted.pages, page_count(job))
    except ValueOutOfRange as error:
        raise Refused(sentence_of(error)) from None
    require_profile(session, wanted.profile)
    passed = gate_settings(session, job, reason, name)
    values = settings_as_values(wanted)
    job.output_settings = {**job.output_settings, "pdf": values}
    ending = {PictureMode.LIGHT: " light", PictureMode.TRIM: " trimmed"}.get(wanted.mode, "")
    return _asked(session, job, PDF, {"pdf": values} | passed, f"{_file_title(job)}{ending}.pdf")


def ask_for_pack(session: Session, job: Job, reason: str = "", name: str = "") -> Output:
    """Records that a handoff pack is wanted, with a PDF by the job's settings in it.

    Raises:
        Refused: something blocks, and no reason or no name is given to go ahead.
    """
    settings = pdf_settings_of(job)
    require_profile(session, settings.profile)
    passed = gate_settings(session, job, reason, name)
    values = {"pdf": settings_as_values(settings)} | passed
    return _asked(session, job, PACK, values, f"{_file_title(job)} pack.zip")


def pdf_settings_of(job: Job) -> PdfSettings:
    """How the job's PDF was made last; every pixel kept until someone chose otherwise."""
    kept = (job.output_settings or {}).get("pdf")
    if kept is not None:
        return settings_from_values(kept)
    return PdfSettings(to_ppi=target_of(job).density_ppi)


def ask_for_images(session: Session, job: Job, settings: ImageSettings) -> Output:
    """Records that pages are wanted as images; the settings are remembered for the job.

    Raises:
        Refused: settings that are not valid, no such page, or an image larger than the limit.
    """
    try:
        numbers = page_numbers(checked_image_settings(settings).pages, page_count(job))
    except ValueOutOfRange as error:
        raise Refused(sentence_of(error)) from None
    require_profile(session, settings.profile)
    for number in numbers:
        page = page_of(job, number)
        size = settings.size_of(page.width_pt, page.height_pt, job.bleed_pt)
        px_w, px_h = settings.px_for(*size)
        if px_w * px_h > MAX_IMAGE_PX:
            raise Refused(
                f"Page {number} would have {grouped(px_w)} × {grouped(px_h)} pixels; the limit is"
                f" {MAX_IMAGE_PX // 10**6} megapixels. Choose a lower density."
            )
    values = image_settings_as_values(settings)
    job.output_settings = {**job.output_settings, "images": values}
    if len(numbers) == 1:
        page = page_of(job, numbers[0])
        size = settings.size_of(page.width_pt, page.height_pt, job.bleed_pt)
        ppi = settings.density_for(*size)
        name = image_name(settings, _file_title(job), numbers[0], page_count(job), ppi)
    else:
        name = f"{_file_title(job)} {len(numbers)} pages.zip"
    return _asked(session, job, PAGE_IMAGE, {"images": values}, name)


def ask_again(
    session: Session, job: Job, output: Output, reason: str = "", name: str = ""
) -> Output:
    """Wants an output once more, by the settings it was made by; the gate is asked again.

    Raises:
        Refused: something blocks now, and no reason is given; or a page is gone.
    """
    if output.kind == PACK:
        return ask_for_pack(session, job, reason, name)
    if output.kind == PDF:
        pdf = settings_from_values(output.settings.get("pdf", {}))
        return ask_for_pdf(session, job, reason, name, pdf)
    return ask_for_images(session, job, asked_images(output.settings))


def asked_images(settings: Mapping[str, Any]) -> ImageSettings:
    """The page images that an output's settings ask for, in today's form or the first one."""
    if "images" in settings:
        return image_settings_from_values(settings["images"])
    first = ImageSettings(pages=str(settings.get("page", "all")))
    return replace(first, density_ppi=settings.get("density_ppi", first.density_ppi))


def image_settings_of(job: Job) -> ImageSettings:
    """How the job's page images were made last; PNG at 300 ppi until someone chose otherwise."""
    kept = (job.output_settings or {}).get("images")
    return image_settings_from_values(kept) if kept is not None else ImageSettings()


def media_type_of(output: Output) -> str:
    """What a finished output's file is, for whoever downloads it."""
    if output.kind == PDF:
        return "application/pdf"
    if output.file_name.endswith(".zip"):
        return "application/zip"
    return asked_images(output.settings).format.media_type


def _file_title(job: Job) -> str:
    return plain_title(job.title)


def _asked(
    session: Session, job: Job, kind: str, settings: dict[str, Any], file_name: str
) -> Output:
    require_turn(session)
    output = Output(
        job_id=job.id, kind=kind, settings=settings, file_name=safe_file_name(file_name)
    )
    session.add(output)
    session.flush()
    add_detail(session, output.file_name)
    return output


def output_with(session: Session, output_id: int) -> Output:
    """The output of that number.

    Raises:
        NotThere: there is none.
    """
    output = session.get(Output, output_id)
    if output is None or not sees(output.job.group_id):
        raise NotThere("This output no longer exists.")
    return output


def outputs_of(session: Session, job: Job) -> list[Output]:
    """A job's outputs, the latest first."""
    return list(
        session.scalars(select(Output).where(Output.job_id == job.id).order_by(Output.id.desc()))
    )
