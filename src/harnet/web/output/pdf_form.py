"""The form of a PDF: what it asks for, and what will happen to each picture."""

from collections.abc import Sequence
from dataclasses import dataclass, replace

from werkzeug.datastructures import MultiDict

from harnet.core.measure.wording import density_text, ppi_text
from harnet.core.output.pdf_settings import (
    LIGHT_PPI,
    LIGHT_QUALITY,
    TRIM_QUALITY,
    PdfColour,
    PdfSettings,
    PdfStandard,
    PictureMode,
    settings_for,
)
from harnet.core.output.treatment import TreatmentKind, treatment_of
from harnet.core.preflight.subject import FileState
from harnet.media.pdf.writing.streams import how_of
from harnet.media.pdf.writing.write import CHANGED, MISSING
from harnet.store.tables.jobs import Job
from harnet.studio.jobs.jobs import target_of
from harnet.studio.layout.placed import Placed
from harnet.studio.output.outputs import pdf_settings_of
from harnet.studio.pictures.picture import facts_of_picture
from harnet.web.common.values import choice, figure
from harnet.web.drawing.marks import mark_of

_MARKED = {FileState.MISSING: MISSING, FileState.CHANGED: CHANGED}
MODES = (
    (
        PictureMode.KEEP,
        "Keep every pixel",
        "nothing is downsampled or recompressed; JPEG data passes through byte for byte",
    ),
    (
        PictureMode.TRIM,
        "Trim the excess",
        "only pictures above the threshold are downsampled; the rest are kept unchanged",
    ),
    (
        PictureMode.LIGHT,
        "Light to send",
        f"for viewing, not for print: at most {LIGHT_PPI:g} ppi, JPEG quality {LIGHT_QUALITY}",
    ),
)
STANDARDS = (
    (PdfStandard.PLAIN, "PDF 1.7, for any reader"),
    (PdfStandard.X4, "PDF/X-4, for a print house"),
)
COLOURS = (
    (PdfColour.KEEP, "keep as supplied, profiles included"),
    (PdfColour.INTENT, "become converted to the output intent"),
)


@dataclass(frozen=True, slots=True, kw_only=True)
class Plan:
    """What will happen to a placed picture: its ppi now and in the PDF, and in words how."""

    placed: Placed
    mark: str
    now: str
    then: str
    how: str


def plans_of(placed: Sequence[Placed], settings: PdfSettings) -> list[Plan]:
    """What happens to each picture; those whose density changes come first."""
    plans = [_plan(one, settings) for one in placed]
    return sorted(plans, key=lambda plan: plan.then in ("", plan.now))


def _plan(placed: Placed, settings: PdfSettings) -> Plan:
    figures = placed.figures
    assert placed.item.picture is not None
    facts = facts_of_picture(placed.item.picture)
    now = density_text(figures.density) if figures.density else "vector"
    if placed.file_state in _MARKED:
        return Plan(
            placed=placed, mark=mark_of(figures), now=now, then="", how=_MARKED[placed.file_state]
        )
    treatment = treatment_of(facts, placed.placement, settings)
    how = how_of(treatment, facts)
    if treatment.action is TreatmentKind.PASSES:
        how += ", byte for byte"
    elif treatment.action is TreatmentKind.LOSSLESS and not treatment.is_inked:
        how += f", {facts.bits}-bit kept"
    then = ppi_text(settings.to_ppi) if treatment.action is TreatmentKind.DOWNSAMPLED else now
    return Plan(placed=placed, mark=mark_of(figures), now=now, then=then, how=how)


def pdf_settings_from(job: Job, values: MultiDict[str, str]) -> PdfSettings:
    """The settings that a form asks for; without, those that the job's PDF was made by last.

    Raises:
        Refused: no such mode, or something that is no figure.
    """
    kept = pdf_settings_of(job)
    if "mode" not in values:
        return kept
    settings = _pictures(job, kept, values)
    if "standard" not in values:
        return settings
    return replace(
        settings,
        standard=choice(PdfStandard, values["standard"]),
        colour=choice(PdfColour, values.get("colour", "keep")),
        profile=values.get("profile") or None,
        crop_marks="crop_marks" in values,
        registration_marks="registration_marks" in values,
        pages=values.get("pdf_pages", "").strip()[:200] or "all",
        language=values.get("language", "").strip()[:40],
    )


def _pictures(job: Job, kept: PdfSettings, values: MultiDict[str, str]) -> PdfSettings:
    """What the form says of pictures."""
    mode = choice(PictureMode, values["mode"])
    settings = settings_for(mode, target_of(job).density_ppi, kept)
    if mode is PictureMode.KEEP:
        return settings
    settings = replace(settings, drops_cropped="drops_cropped" in values)
    if mode is PictureMode.LIGHT:
        return settings
    usual = settings.quality or TRIM_QUALITY
    is_lossless = values.get("quality", "") == "lossless"
    quality = None if is_lossless else int(_figure(values, "quality", "quality", usual))
    return replace(
        settings,
        to_ppi=_figure(values, "to_ppi", "density", settings.to_ppi),
        threshold=_figure(values, "threshold", "threshold", settings.threshold),
        quality=quality,
    )


def _figure(values: MultiDict[str, str], name: str, what: str, usual: float) -> float:
    text = values.get(name, "").strip()
    return figure(text, what) if text else usual
