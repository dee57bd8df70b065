"""Writing an improved copy of a document: picture files replaced, all other parts as they were."""

import base64
import re
import zipfile
from pathlib import Path
from typing import Any

import pyvips

from harnet.media.bounded import Order, Tell
from harnet.media.errors import UnreadableFile
from harnet.media.packages.archive import MOST_MEDIA_BYTES, Package, UnreadablePart
from harnet.media.packages.making.cutting import Cutter
from harnet.media.packages.making.held import HeldDocument, HeldPart, held_document
from harnet.media.packages.making.replacing import NewFile, NotReplaced, new_file
from harnet.media.packages.xml import allow_nesting
from harnet.media.svg.document import data_in

_INLINE = re.compile(rb"data:image/[^\"'\s>)]+|(?<=binary-data>)[A-Za-z0-9+/=\s]+(?=<)")


def work(order: Order, tell: Tell) -> Order:
    """What happens in the process: see `harnet.media.bounded`.

    Takes and answers what `harnet.media.pdf.improving.copying` does. `cuts` has cropped-off parts
    cut away; such an item may have the fate `left`. Rows have the pixels of the new file as `px`.

    Raises:
        UnreadableFile: the document cannot be read.
    """
    allow_nesting()
    path, name = Path(order["path"]), order["name"]
    rows: list[dict[str, Any]] = []
    made: dict[str, NewFile] = {}
    with held_document(path, name, order["pages"]) as document:
        held = {one.key: one for one in document.parts}
        store = document.store
        cutter = Cutter(store, document.facts.format) if isinstance(store, Package) else None
        for done, item in enumerate(order["items"]):
            tell([done, len(order["items"])])
            one = held[item["key"]]
            try:
                new = _new(document, one, item, order, cutter)
            except NotReplaced as error:
                rows.append({"key": one.key, "reason": str(error)})
                continue
            except (pyvips.Error, OSError, UnreadablePart):
                rows.append({"key": one.key, "reason": "its original can no longer be read"})
                continue
            made[one.part] = new
            rows.append(
                {
                    "key": one.key,
                    "bytes": len(new.data),
                    "how": new.how,
                    "px": [new.px_w, new.px_h],
                    "is_cut": new.crop is not None,
                }
            )
        changed = {part: new.data for part, new in made.items()}
        if cutter is not None:
            _write_package(path, Path(order["copy"]), changed | cutter.changed())
        else:
            _write_text(path, Path(order["copy"]), document, changed)
        # Its proof is one piece of work, however many slides it has.
        return {"rows": rows, "broken": [], "page_count": 1}


def _new(
    document: HeldDocument,
    held: HeldPart,
    item: dict[str, Any],
    order: Order,
    cutter: Cutter | None,
) -> NewFile:
    """The new bytes of a picture file, its crops in the document changed with it.

    Raises:
        NotReplaced: it stays as it is.
        pyvips.Error: it, or its original, cannot be decoded.
    """
    cuts = bool(order["cuts"]) and held.crop is not None
    folder, quality = Path(order["folder"]), order["quality"]
    new = new_file(document, held, item, folder, quality, cuts=cuts)
    if new.crop is not None:
        if cutter is None:
            raise NotReplaced("cropped-off parts are cut away in packages alone")
        cutter.set_crop(held.part, new.crop)
    return new


def _write_package(path: Path, copy: Path, changed: dict[str, bytes]) -> None:
    """Writes the package with its parts in their order, packed as they were.

    Raises:
        UnreadableFile: a part cannot be read any longer.
    """
    with zipfile.ZipFile(path) as old, zipfile.ZipFile(copy, "w") as new:
        new.comment = old.comment
        for info in old.infolist():
            part = info.filename.lstrip("/")
            about = zipfile.ZipInfo(info.filename, info.date_time)
            about.compress_type = info.compress_type
            about.external_attr = info.external_attr
            about.create_system = info.create_system
            about.comment = info.comment
            if info.is_dir():
                new.writestr(about, b"")
                continue
            try:
                data = changed[part] if part in changed else old.read(info)
            except (zipfile.BadZipFile, RuntimeError):
                raise UnreadableFile(path.name, f"{part} is damaged", "Save it again") from None
            new.writestr(about, data)


def _write_text(path: Path, copy: Path, document: HeldDocument, changed: dict[str, bytes]) -> None:
    """Writes an XML document with other pictures in its text; every other byte stays."""
    by_old = {document.store.read(part, MOST_MEDIA_BYTES): data for part, data in changed.items()}

    def replaced(match: re.Match[bytes]) -> bytes:
        text = match.group(0)
        if text.startswith(b"data:"):
            old = data_in(text.decode("ascii", "ignore"))
            new = by_old.get(old) if old is not None else None
            head = text.split(b",", 1)[0]
            if new is None:
                return text
            kind = head if head.endswith(b";base64") else head + b";base64"
            return kind + b"," + base64.b64encode(new)
        try:
            old = base64.b64decode(b"".join(text.split()))
        except ValueError:
            return text
        new = by_old.get(old)
        return text if new is None else base64.b64encode(new)

    copy.write_bytes(_INLINE.sub(replaced, path.read_bytes()))
