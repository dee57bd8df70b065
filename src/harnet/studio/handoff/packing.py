"""Writing a handoff pack: the job, its pictures, the PDF with its receipt, the report, credits."""

import csv
import io
import json
from collections.abc import Callable
from pathlib import Path
from typing import Any
from zipfile import ZIP_DEFLATED, ZIP_STORED, ZipFile, ZipInfo

from sqlalchemy.orm import Session

from harnet.core.placing import Content
from harnet.core.tabletext import cell_text
from harnet.store.blobs import sha256_of
from harnet.store.models import Item, Job, Picture
from harnet.studio.desk import Desk
from harnet.studio.handoff.jobfile import (
    JOB_FILE,
    PICTURES_FOLDER,
    FrameEntry,
    ItemEntry,
    JobFile,
    LineEntry,
    PageEntry,
    PictureEntry,
    PlacedEntry,
    RectangleEntry,
    TextEntry,
    TypeEntry,
)
from harnet.studio.links import file_of
from harnet.studio.pictures import credits_of, rights_of
from harnet.studio.placed import FRAME, LINE, PICTURE, RECTANGLE, placement_of
from harnet.studio.report import report_as_json, report_of
from harnet.studio.reportpdf import report_as_pdf
from harnet.studio.takein import safe_file_name
from harnet.studio.targetfiles import TargetEntry

_FIXED_TIME = (1980, 1, 1, 0, 0, 0)
_BLOCK_BYTES = 1 << 20


def job_as_file(desk: Desk, job: Job) -> tuple[JobFile, dict[str, Path]]:
    """The job in its open form, and the files of its pictures by their names in the pack.

    Two pictures of one name get a number behind it; the same bytes are packed once.
    """
    names: dict[int, str] = {}
    entries: list[PictureEntry] = []
    files: dict[str, Path] = {}
    for page in job.pages:
        for item in page.items:
            if item.kind == PICTURE and item.picture is not None and item.picture.id not in names:
                entry, path = _picture_entry(desk, item, item.picture, set(names.values()))
                names[item.picture.id] = entry.name
                entries.append(entry)
                if path is not None and entry.file is not None:
                    files[entry.file] = path
    pages = [
        PageEntry(
            width_pt=page.width_pt,
            height_pt=page.height_pt,
            target=_target(page.target),
            items=[_item_entry(item, names) for item in page.items],
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
        unit=job.unit,  # type: ignore[arg-type]
        px_per_inch=job.px_per_inch,
        is_facing=job.is_facing,
        target=_target(job.target),
        edited_at=job.edited_at,
        pictures=entries,
        pages=pages,
    )
    return file, files


def _picture_entry(
    desk: Desk, item: Item, picture: Picture, taken: set[str]
) -> tuple[PictureEntry, Path | None]:
    stem, dot, ending = picture.file_name.rpartition(".")
    name, number = picture.file_name, 1
    while name in taken:
        number += 1
        name = f"{stem} {number}.{ending}" if dot else f"{picture.file_name} {number}"
    path = file_of(desk, item)
    entry = PictureEntry(
        name=name,
        file=f"{PICTURES_FOLDER}{safe_file_name(name)}" if path is not None else None,
        # Of the bytes that leave: a file may have changed since it was placed.
        sha256=sha256_of(path) if path is not None else None,
        rights=rights_of(picture),
    )
    return entry, path


def _target(values: dict[str, Any] | None) -> TargetEntry | None:
    return None if values is None else TargetEntry.model_validate(values)


def _item_entry(item: Item, names: dict[int, str]) -> ItemEntry:
    frame: dict[str, Any] = {
        "x_pt": item.x_pt,
        "y_pt": item.y_pt,
        "width_pt": item.width_pt,
        "height_pt": item.height_pt,
        "rotation_deg": item.rotation_deg or 0.0,
    }
    style = item.style or {}
    shape: dict[str, Any] = {"shape": item.shape, "radius_pt": item.radius_pt or 0.0}
    if item.kind == PICTURE:
        assert item.picture is not None
        content: Content = placement_of(item).content
        return PlacedEntry(
            kind="picture",
            picture=names[item.picture.id],
            content=content,
            target=_target(item.target),
            column=style.get("column", ""),
            **frame,
            **shape,
        )
    if item.kind == FRAME:
        asked: dict[str, Any] = {
            "column": style.get("column", ""),
            "wanted": style.get("wanted", ""),
        }
        return FrameEntry(kind="frame", **frame, **shape, **asked)
    if item.kind == RECTANGLE:
        return RectangleEntry(kind="rectangle", **frame, **style)
    if item.kind == LINE:
        return LineEntry(kind="line", **frame, **style)
    return TextEntry(kind="text", text=item.text or "", style=TypeEntry(**style), **frame)


def write_pack(
    desk: Desk,
    session: Session,
    job: Job,
    pdf: tuple[str, Path, dict[str, Any]],
    path: Path,
    progress: Callable[[int, int], None],
) -> dict[str, Any]:
    """Writes the pack with the PDF that was made for it: its name, its file and its receipt.

    Returns what a receipt tells of the pack: the names of pictures in it, and of those missing.
    """
    file, pictures = job_as_file(desk, job)
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
        pack.writestr(ZipInfo("report.pdf", _FIXED_TIME), report_as_pdf(desk, report), ZIP_DEFLATED)
        for done, (member, source) in enumerate([(name, pdf_path), *pictures.items()]):
            progress(done, len(pictures) + 1)
            info = ZipInfo(member, _FIXED_TIME)
            info.compress_type = ZIP_STORED
            with source.open("rb") as data, pack.open(info, "w", force_zip64=True) as target:
                while block := data.read(_BLOCK_BYTES):
                    target.write(block)
    progress(len(pictures) + 1, len(pictures) + 1)
    missing = [entry.name for entry in file.pictures if entry.file is None]
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
