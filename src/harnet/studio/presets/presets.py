"""Presets: named output settings that the studio keeps, and files of them."""

from collections.abc import Sequence
from typing import Any

from sqlalchemy import select
from sqlalchemy.orm import Session

from harnet.core.errors import ValueOutOfRange
from harnet.core.output.kind import PAGE_IMAGE, PDF
from harnet.core.output.page_images import (
    ImageSettings,
    checked_image_settings,
    image_settings_as_values,
    image_settings_from_values,
)
from harnet.core.output.pdf_settings import (
    PdfSettings,
    checked_settings,
    settings_as_values,
    settings_from_values,
)
from harnet.store.tables.jobs import Job
from harnet.store.tables.output import OutputPreset
from harnet.studio.common.errors import Refused, sentence_of
from harnet.studio.common.published_file import file_in
from harnet.studio.common.rows import row_with
from harnet.studio.presets.forms import MOST_PRESETS, ImagePreset, PdfPreset, PresetFile

_IN_JOB = {PDF: "pdf", PAGE_IMAGE: "images"}


def presets_of(session: Session, kind: str) -> list[OutputPreset]:
    """The studio's presets of one kind, by name."""
    wanted = select(OutputPreset).where(OutputPreset.kind == kind)
    return list(session.scalars(wanted.order_by(OutputPreset.name)))


def preset_with(session: Session, preset_id: int) -> OutputPreset:
    """The preset of that number.

    Raises:
        NotThere: there is none of that number.
    """
    return row_with(session, OutputPreset, preset_id, "This preset no longer exists.")


def keep_preset(
    session: Session, name: str, settings: PdfSettings | ImageSettings, made_by: str = ""
) -> OutputPreset:
    """Keeps settings under a name; those that had the name before are replaced.

    `made_by` is the name of who keeps them, where it is known.

    Raises:
        Refused: no name, settings that are not valid, or too many presets.
    """
    name = " ".join(name.split())
    if not 1 <= len(name) <= 80:
        raise Refused("A preset needs a name of 1 to 80 characters.")
    kind, values = _checked_values(settings)
    kept = {preset.name: preset for preset in presets_of(session, kind)}
    if name in kept:
        kept[name].settings, kept[name].made_by = values, made_by[:120]
        return kept[name]
    if len(kept) >= MOST_PRESETS:
        raise Refused(f"There are {MOST_PRESETS} presets already. Delete one first.")
    preset = OutputPreset(kind=kind, name=name, settings=values, made_by=made_by[:120])
    session.add(preset)
    session.flush()
    return preset


def _checked_values(settings: PdfSettings | ImageSettings) -> tuple[str, dict[str, Any]]:
    try:
        if isinstance(settings, PdfSettings):
            return PDF, settings_as_values(checked_settings(settings))
        return PAGE_IMAGE, image_settings_as_values(checked_image_settings(settings))
    except ValueOutOfRange as error:
        raise Refused(f"The preset was not saved: {sentence_of(error)}") from None


def settings_in(preset: OutputPreset) -> PdfSettings | ImageSettings:
    """The settings that a preset holds."""
    if preset.kind == PDF:
        return settings_from_values(preset.settings)
    return image_settings_from_values(preset.settings)


def use_for_job(job: Job, settings: PdfSettings | ImageSettings) -> None:
    """Makes these the job's settings, so that its next output is asked for by them."""
    kind, values = _checked_values(settings)
    job.output_settings = {**job.output_settings, _IN_JOB[kind]: values}


def chosen_preset(presets: Sequence[OutputPreset], settings: PdfSettings | ImageSettings) -> int:
    """The number of the preset that holds just these settings; 0 where none does."""
    return next((one.id for one in presets if settings_in(one) == settings), 0)


def preset_entry(preset: OutputPreset) -> PdfPreset | ImagePreset:
    """A preset as it stands in files."""
    settings = settings_in(preset)
    if isinstance(settings, PdfSettings):
        return PdfPreset(kind="pdf", name=preset.name, settings=settings)
    return ImagePreset(kind="page image", name=preset.name, settings=settings)


def add_preset(session: Session, entry: PdfPreset | ImagePreset) -> bool:
    """Imports a preset unless there is one of its name already, or no room; says whether."""
    kept = {preset.name for preset in presets_of(session, entry.kind)}
    if entry.name in kept or len(kept) >= MOST_PRESETS:
        return False
    keep_preset(session, entry.name, entry.settings)
    return True


def presets_as_file(presets: list[OutputPreset]) -> str:
    """Presets as the text of a file.

    Raises:
        Refused: there are none.
    """
    if not presets:
        raise Refused("There are no presets to export yet.")
    entries = [preset_entry(one) for one in presets]
    file = PresetFile(format="harnet presets", version=1, presets=entries)
    return file.model_dump_json(indent=2) + "\n"


def read_presets(session: Session, text: str, made_by: str = "") -> list[str]:
    """Imports a file of presets and returns their names; presets of the same name are replaced.

    Raises:
        Refused: the file is none, or settings in it are not valid; nothing was imported.
    """
    file = file_in(PresetFile, text, "presets")
    for entry in file.presets:
        _checked_values(entry.settings)
    return [keep_preset(session, one.name, one.settings, made_by).name for one in file.presets]
