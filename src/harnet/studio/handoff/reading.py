"""Reading a handoff pack: an untrusted ZIP, so everything in it is bounded and checked."""

from collections.abc import Iterator
from contextlib import contextmanager
from dataclasses import dataclass, field
from datetime import UTC, datetime
from pathlib import Path
from zipfile import BadZipFile, ZipFile

from pydantic import ValidationError

from harnet.core.layout.placing import Placement, Source, fitted, source_from
from harnet.core.measure.geometry import Box
from harnet.core.pictures.picture import Colour, Facts, Kind
from harnet.media.errors import UnreadableFile
from harnet.media.facts.bounded_reading import facts_of_each
from harnet.media.limits import MAX_FILE_BYTES
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
from harnet.store.blobs import sha256_of
from harnet.studio.common.errors import place_and_fault
from harnet.studio.common.published_file import parsed
from harnet.studio.handoff.job_file import (
    JOB_FILE,
    FrameEntry,
    ItemEntry,
    JobFile,
    LineEntry,
    PictureEntry,
    PlacedEntry,
    RectangleEntry,
    TextEntry,
)

MAX_JOB_BYTES = 64_000_000
MAX_PACK_BYTES = 20_000_000_000
_BLOCK_BYTES = 1 << 20
_LONG_AGO = datetime(2026, 1, 1, tzinfo=UTC)
_NO_FACTS = Facts(
    kind=Kind.RASTER,
    format="missing",
    px_w=1,
    px_h=1,
    density_x=None,
    density_y=None,
    colour=Colour.RGB,
    bits=8,
    channels=3,
    alpha=False,
    lossy=False,
    icc=None,
    frames=1,
    size_bytes=0,
)
_ENCRYPTED = 0x1


@dataclass(frozen=True, slots=True)
class Pack:
    """An opened pack: its job, and its pictures as files by their names."""

    name: str
    job: JobFile
    files: dict[str, Path] = field(default_factory=dict)


@contextmanager
def opened_zip(path: Path, name: str) -> Iterator[ZipFile]:
    """The pack as a ZIP.

    Raises:
        UnreadableFile: it is none, or damaged.
    """
    try:
        with ZipFile(path) as pack:
            yield pack
    except (BadZipFile, NotImplementedError, EOFError) as error:
        raise UnreadableFile(
            name,
            f"the ZIP is incomplete or damaged ({str(error).lower().rstrip('.')})",
            "Download it again",
        ) from None
    except OSError as error:
        reason = (error.strerror or str(error)).lower()
        raise UnreadableFile(name, f"the file cannot be opened ({reason})") from None


def job_in(pack: ZipFile, name: str) -> JobFile:
    """The job that a pack holds.

    Raises:
        UnreadableFile: none, or one that does not keep to the published form.
    """
    data = b"".join(_blocks(pack, JOB_FILE, MAX_JOB_BYTES, name))
    try:
        return parsed(JobFile, data.decode())
    except UnicodeDecodeError:
        raise UnreadableFile(
            name, f"its {JOB_FILE} is not UTF-8", "Ask for the pack again"
        ) from None
    except ValidationError as error:
        raise UnreadableFile(
            name,
            f"its {JOB_FILE} is not a valid job: {place_and_fault(error)}",
            "docs/schemas/job.schema.json says what it must contain",
        ) from None


def read_pack(path: Path, name: str, folder: Path) -> Pack:
    """Opens a pack; its pictures are written into `folder`, under names of Harnet's own.

    Raises:
        UnreadableFile: no pack, or a picture that is not the one it was packed with.
    """
    files = {}
    with opened_zip(path, name) as pack:
        job = job_in(pack, name)
        room = MAX_PACK_BYTES
        for index, entry in enumerate(job.pictures):
            if entry.file is None:
                continue
            file = folder / f"picture-{index}"
            with file.open("wb") as target:
                for block in _blocks(pack, entry.file, min(MAX_FILE_BYTES, room), name):
                    target.write(block)
            room -= file.stat().st_size
            _require_same(file, entry, name)
            files[entry.name] = file
    return Pack(name, job, files)


def _blocks(pack: ZipFile, member: str, most_bytes: int, name: str) -> Iterator[bytes]:
    """A file of the pack block by block; the size that a ZIP claims is not believed.

    Raises:
        UnreadableFile: the pack holds no such member, or one beyond its limit.
    """
    try:
        info = pack.getinfo(member)
    except KeyError:
        raise UnreadableFile(name, f"it contains no {member}", "Is it a handoff pack?") from None
    if info.flag_bits & _ENCRYPTED:
        raise UnreadableFile(name, "it is encrypted", "Pack it without a password")
    left = most_bytes
    with pack.open(info) as file:
        while block := file.read(_BLOCK_BYTES):
            left -= len(block)
            if left < 0:
                raise UnreadableFile(name, f"{member} in it is larger than the limit")
            yield block


def _require_same(file: Path, entry: PictureEntry, name: str) -> None:
    if entry.sha256 is not None and sha256_of(file) != entry.sha256:
        raise UnreadableFile(
            name, f"{entry.file} is not the picture that was packed", "Ask for the pack again"
        )


def pages_of_pack(pack: Pack) -> PagesToDraw:
    """The pack's pages as the writers draw them; no database is asked.

    Raises:
        UnreadableFile: a picture that is none.
    """
    job = pack.job
    names, paths = list(pack.files), list(pack.files.values())
    facts = {one.name: one.without_file.facts for one in job.pictures if one.without_file}
    for name, found in zip(names, facts_of_each(paths, names), strict=True):
        if isinstance(found, UnreadableFile):
            raise found
        facts[name] = found
    hashes = {
        entry.name: entry.sha256 or sha256_of(pack.files[entry.name])
        for entry in job.pictures
        if entry.name in pack.files
    }
    plans = []
    for number, page in enumerate(job.pages, 1):
        parts = [
            _part(item, index, pack.files, facts, hashes)
            for index, item in enumerate(page.items)
            if not isinstance(item, FrameEntry)
        ]
        plans.append(
            PagePlan(
                number=number,
                width_pt=page.width_pt or job.width_pt,
                height_pt=page.height_pt or job.height_pt,
                bleed_pt=job.bleed_pt,
                parts=tuple(parts),
            )
        )
    return PagesToDraw(job.title, tuple(plans), job.edited_at or _LONG_AGO)


def _part(
    item: ItemEntry,
    index: int,
    files: dict[str, Path],
    facts: dict[str, Facts],
    hashes: dict[str, str],
) -> Part:
    frame = Box(item.x_pt, item.y_pt, item.width_pt, item.height_pt)
    if isinstance(item, PlacedEntry):
        found = facts.get(item.picture, _NO_FACTS)
        return PicturePart(
            item_id=index,
            name=item.picture,
            sha256=hashes.get(item.picture, ""),
            path=files.get(item.picture),
            facts=found,
            placement=placement_in(item, source_from(found)),
        )
    if isinstance(item, TextEntry):
        return TextPart(frame, item.rotation_deg, item.text, TextStyle(**item.style.model_dump()))
    if isinstance(item, RectangleEntry):
        return RectanglePart(
            frame=frame,
            rotation_deg=item.rotation_deg,
            fill=item.fill,
            stroke=item.stroke,
            stroke_pt=item.stroke_pt,
        )
    assert isinstance(item, LineEntry)
    return LinePart(frame, item.rotation_deg, item.stroke, item.stroke_pt)


def placement_in(item: PlacedEntry, source: Source) -> Placement:
    """How a picture lies in its frame: as the entry says, or laid in by its fit."""
    frame = Box(item.x_pt, item.y_pt, item.width_pt, item.height_pt)
    content = item.content.content if item.content else fitted(source, frame, item.fit)
    return Placement(
        source=source,
        frame=frame,
        content=content,
        rotation_deg=item.rotation_deg,
        shape=item.shape,
        radius_pt=item.radius_pt,
    )
