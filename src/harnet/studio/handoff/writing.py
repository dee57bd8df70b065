"""Writing a handoff pack: the job, its pictures, the PDF with its receipt, the report, credits."""

import csv
import io
import json
from collections.abc import Callable
from pathlib import Path
from typing import Any, cast
from zipfile import ZIP_DEFLATED, ZIP_STORED, ZipFile, ZipInfo

from sqlalchemy import select
from sqlalchemy.orm import Session

from harnet.core.copies.recipe import recipe_from_values
from harnet.core.measure.table_text import cell_text
from harnet.core.output.kind import PAGE_IMAGE, PDF
from harnet.core.output.page_images import image_settings_from_values
from harnet.core.output.pdf_settings import settings_from_values
from harnet.store.blobs import sha256_of
from harnet.store.tables.jobs import Item, Job
from harnet.store.tables.pictures import Picture
from harnet.store.tables.preflight import Acceptance
from harnet.studio.common.studio import Studio
from harnet.studio.copies.copies import recipes_behind
from harnet.studio.handoff.job_file import (
    JOB_FILE,
    PICTURES_FOLDER,
    AcceptedEntry,
    ContentEntry,
    FileEntry,
    FrameEntry,
    GridEntry,
    GuidesEntry,
    ItemEntry,
    JobFile,
    LineEntry,
    OutputEntry,
    PageEntry,
    PictureEntry,
    PlacedEntry,
    RectangleEntry,
    TextEntry,
    TextStyleEntry,
    TextStyleName,
    TypeEntry,
    UnitName,
)
from harnet.studio.layout.links import file_of
from harnet.studio.layout.placed import FRAME, LINE, PICTURE, RECTANGLE, placement_of
from harnet.studio.pictures.importing import numbered, safe_file_name
from harnet.studio.pictures.picture import credits_of, facts_of_picture, rights_of
from harnet.studio.preflight.report import report_as_json, report_of
from harnet.studio.preflight.report_pdf import report_as_pdf
from harnet.studio.presets.presets import chosen_preset, preset_entry, preset_with, presets_of
from harnet.studio.targets.files import TargetEntry

_FIXED_TIME = (1980, 1, 1, 0, 0, 0)
_BLOCK_BYTES = 1 << 20


def job_as_file(studio: Studio, session: Session, job: Job) -> tuple[JobFile, dict[str, Path]]:
    """The job in its open form, and the files of its pictures by their names in the pack.

    Two pictures of one name get a number behind it; the same bytes are packed once. Originals of
    print copies are named and not packed, unless they stand on a page themselves.
    """
    placed: dict[int, Item] = {}
    for page in job.pages:
        for item in page.items:
            if item.kind == PICTURE and item.picture is not None:
                placed.setdefault(item.picture.id, item)
    names: dict[int, str] = {}
    files: dict[str, Path] = {}
    entries: list[PictureEntry] = []
    for number, item in placed.items():
        assert item.picture is not None
        path = file_of(studio, item)
        entry = _picture_entry(item.picture, path, set(names.values()))
        names[number] = entry.name
        entries.append(entry)
        if path is not None and entry.file is not None:
            files[entry.file] = path
    for number, copy in recipes_behind(session, placed).items():
        original = copy.picture
        if original.id not in names:
            entry = _picture_entry(original, None, set(names.values()))
            names[original.id] = entry.name
            entries.append(entry)
        made = next(one for one in entries if one.name == names[number])
        made.copy_of, made.recipe = names[original.id], recipe_from_values(copy.recipe)
    accepted = _accepted(session, job)
    pages = [
        PageEntry(
            width_pt=page.width_pt,
            height_pt=page.height_pt,
            target=_target(page.target),
            guides=GuidesEntry.model_validate(page.guides),
            items=[_item_entry(item, names, accepted.get(item.id, [])) for item in page.items],
        )
        for page in job.pages
    ]
    file = JobFile(
        format="harnet job",
        version=1,
        title=job.title,
        width_pt=job.width_pt,
        height_pt=job.height_pt,
        bleed_pt=job.bleed_pt,
        margin_pt=job.margin_pt,
        unit=cast(UnitName, job.unit),
        px_per_inch=job.px_per_inch,
        is_facing=job.is_facing,
        target=_target(job.target),
        text_styles={
            cast(TextStyleName, key): TextStyleEntry.model_validate(style)
            for key, style in job.text_styles.items()
        },
        grid=GridEntry.model_validate(job.grid),
        edited_at=job.edited_at,
        outputs=_outputs(session, job),
        pictures=entries,
        pages=pages,
    )
    return file, files


def _picture_entry(picture: Picture, path: Path | None, taken: set[str]) -> PictureEntry:
    name = next(one for one in numbered(picture.file_name) if one not in taken)
    return PictureEntry(
        name=name,
        file=f"{PICTURES_FOLDER}{safe_file_name(name)}" if path is not None else None,
        # Of the bytes that leave: a file may have changed since it was placed.
        sha256=sha256_of(path) if path is not None else picture.sha256,
        rights=rights_of(picture),
        without_file=FileEntry.of(facts_of_picture(picture)) if path is None else None,
    )


def _accepted(session: Session, job: Job) -> dict[int, list[AcceptedEntry]]:
    """What was accepted of a job's findings, by item."""
    found: dict[int, list[AcceptedEntry]] = {}
    wanted = select(Acceptance).where(Acceptance.job_id == job.id).order_by(Acceptance.rule_id)
    for one in session.scalars(wanted):
        entry = AcceptedEntry(
            rule=one.rule_id,
            badness=one.badness,
            headline=one.headline,
            reason=one.reason,
            name=one.name,
            accepted_at=one.accepted_at,
        )
        found.setdefault(one.item_id, []).append(entry)
    return found


def _outputs(session: Session, job: Job) -> OutputEntry:
    """How the job's outputs were made last, and the presets that hold just that."""
    kept = job.output_settings
    entry = OutputEntry(
        pdf=settings_from_values(kept["pdf"]) if kept.get("pdf") else None,
        images=image_settings_from_values(kept["images"]) if kept.get("images") else None,
    )
    for kind, settings in ((PDF, entry.pdf), (PAGE_IMAGE, entry.images)):
        presets = presets_of(session, kind)
        if settings is not None and (number := chosen_preset(presets, settings)):
            entry.presets.append(preset_entry(preset_with(session, number)))
    return entry


def _target(values: dict[str, Any] | None) -> TargetEntry | None:
    return None if values is None else TargetEntry.model_validate(values)


def _item_entry(item: Item, names: dict[int, str], accepted: list[AcceptedEntry]) -> ItemEntry:
    frame: dict[str, Any] = {
        "x_pt": item.x_pt,
        "y_pt": item.y_pt,
        "width_pt": item.width_pt,
        "height_pt": item.height_pt,
        "rotation_deg": item.rotation_deg or 0.0,
        "accepted": accepted,
    }
    style = item.style or {}
    shape: dict[str, Any] = {"shape": item.shape, "radius_pt": item.radius_pt or 0.0}
    if item.kind == PICTURE:
        assert item.picture is not None
        return PlacedEntry(
            kind="picture",
            picture=names[item.picture.id],
            content=ContentEntry.of(placement_of(item).content),
            target=_target(item.target),
            column=style.get("column", ""),
            **frame,
            **shape,
        )
    if item.kind == FRAME:
        pattern: dict[str, Any] = {
            "column": style.get("column", ""),
            "wanted": style.get("wanted", ""),
        }
        return FrameEntry(kind="frame", **frame, **shape, **pattern)
    if item.kind == RECTANGLE:
        return RectangleEntry(kind="rectangle", **frame, **style)
    if item.kind == LINE:
        return LineEntry(kind="line", **frame, **style)
    return TextEntry(kind="text", text=item.text or "", style=TypeEntry(**style), **frame)


def write_pack(
    studio: Studio,
    session: Session,
    job: Job,
    pdf: tuple[str, Path, dict[str, Any]],
    path: Path,
    progress: Callable[[int, int], None],
) -> dict[str, Any]:
    """Writes the pack with the PDF that was made for it: its name, its file and its receipt.

    Returns what a receipt tells of the pack: the names of pictures in it, and of those missing.
    """
    file, pictures = job_as_file(studio, session, job)
    report = report_of(session, job)
    name, pdf_path, receipt = pdf
    texts = {
        JOB_FILE: file.model_dump_json(indent=1) + "\n",
        "receipt.json": _json(receipt),
        "report.json": _json(report_as_json(report)),
        "credits.csv": _credits(job),
    }
    with ZipFile(path, "w") as pack:
        for member, text in texts.items():
            pack.writestr(ZipInfo(member, _FIXED_TIME), text, ZIP_DEFLATED)
        pack.writestr(
            ZipInfo("report.pdf", _FIXED_TIME), report_as_pdf(studio, report), ZIP_DEFLATED
        )
        for done, (member, source) in enumerate([(name, pdf_path), *pictures.items()]):
            progress(done, len(pictures) + 1)
            info = ZipInfo(member, _FIXED_TIME)
            info.compress_type = ZIP_STORED
            with source.open("rb") as data, pack.open(info, "w", force_zip64=True) as target:
                while block := data.read(_BLOCK_BYTES):
                    target.write(block)
    progress(len(pictures) + 1, len(pictures) + 1)
    placed = file.placed_names
    missing = [one.name for one in file.pictures if one.file is None and one.name in placed]
    return {
        "pictures": len(pictures),
        "missing": missing,
        "files": sorted([*texts, "report.pdf", name]),
    }


def _json(values: dict[str, Any]) -> str:
    return json.dumps(values, indent=1, ensure_ascii=False) + "\n"


def _credits(job: Job) -> str:
    text = io.StringIO()
    writer = csv.writer(text)
    writer.writerow(["picture", "licence", "credit", "origin", "pages"])
    for one in credits_of(job):
        rights = one.rights
        pages = " ".join(str(number) for number in one.page_numbers)
        cells = [one.picture.file_name, rights.licence, rights.credit, rights.origin, pages]
        writer.writerow(map(cell_text, cells))
    return text.getvalue()
