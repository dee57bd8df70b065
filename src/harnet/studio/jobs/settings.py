"""What a job was set up with, changed later: title, unit, bleed, margin, facing pages."""

from dataclasses import dataclass

from sqlalchemy.orm import Session

from harnet.core.errors import ValueOutOfRange
from harnet.core.measure.units import CSS_PX_PER_INCH, Unit
from harnet.core.measure.wording import exact_length_text
from harnet.store.history import recorded
from harnet.store.tables.jobs import Job
from harnet.studio.jobs.jobs import require_bleed, title_given


@dataclass(frozen=True, slots=True, kw_only=True)
class JobSettings:
    """The settings of a job, lengths in points; pages and what is on them stay as they are."""

    title: str
    unit: Unit
    px_per_inch: float | None
    bleed_pt: float
    margin_pt: float
    is_facing: bool


def change_settings(session: Session, job: Job, settings: JobSettings) -> None:
    """Gives a job these settings, as one edit.

    Raises:
        Refused: no title.
        ValueOutOfRange: a bleed, a margin or a density that no job can have.
    """
    title = title_given(settings.title)
    require_bleed(settings.bleed_pt)
    if not 0 <= settings.margin_pt < min(job.width_pt, job.height_pt) / 2:
        per_inch = settings.px_per_inch or CSS_PX_PER_INCH
        margin = exact_length_text(settings.margin_pt, settings.unit, per_inch)
        raise ValueOutOfRange(f"a margin of {margin} {settings.unit.value} leaves no page")
    if settings.px_per_inch is not None and not 1 <= settings.px_per_inch <= 2400:
        raise ValueOutOfRange(
            f"the pixel density of a page is 1 to 2400 ppi, not {settings.px_per_inch:g}"
        )
    with recorded(session, job, "Job settings"):
        job.title, job.unit = title, settings.unit.value
        job.px_per_inch = settings.px_per_inch if settings.unit is Unit.PX else None
        job.bleed_pt, job.margin_pt = settings.bleed_pt, settings.margin_pt
        job.is_facing = settings.is_facing
