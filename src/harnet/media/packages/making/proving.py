"""Proof of an improved copy of a document: read again, part by part beside the first one."""

from pathlib import Path
from typing import Any

import pyvips

from harnet.core.documents.images import Crop, ImageOnPage
from harnet.core.measure.geometry import Matrix
from harnet.media.bounded import Order, Tell
from harnet.media.packages.archive import MOST_MEDIA_BYTES, Package, PartStore, UnreadablePart
from harnet.media.packages.making.held import HeldDocument, held_document
from harnet.media.packages.making.replacing import sizes_in
from harnet.media.packages.xml import allow_nesting, local, parsed
from harnet.media.pixels.registration.drawn import drawn_beside
from harnet.media.pixels.registration.seen import seen

_SAME_PT = 0.02
_MOST_TOLD = 10


def work(order: Order, tell: Tell) -> Order:
    """What happens in the process: see `harnet.media.bounded`.

    Takes and answers what `harnet.media.pdf.improving.proving` does. Instead of pages that differ
    the answer has as `differs` what is not as it was beside the changed files: parts with other
    bytes, and images that are shown elsewhere or otherwise. Pixels are read by Pillow.

    Raises:
        UnreadableFile: one of the documents cannot be read.
    """
    allow_nesting()
    name, keys = order["name"], set(order["changed"])
    with (
        held_document(Path(order["path"]), name, order["pages"]) as before,
        held_document(Path(order["after"]), name, order["pages"]) as after,
    ):
        count = [before.facts.count, after.facts.count]
        changed = {one.part: one.key for one in before.parts if one.key in keys}
        differs = _parts_that_differ(before, after, set(changed))
        differs += _images_that_moved(before.images, after.images)
        found, drawn = {}, {}
        for done, one in enumerate(one for one in before.parts if one.key in keys):
            tell([done, len(keys)])
            part = _part_after(before, after, one.part)
            try:
                data = after.store.read(part, MOST_MEDIA_BYTES)
                found[str(one.key)] = list(sizes_in(data))
                crops = one.uses[0].crop, _crop_after(after, part)
                size = one.uses[0].px_w, one.uses[0].px_h
                beside = _beside(before.store, one.part, data, crops, size)
            except (OSError, pyvips.Error):
                continue
            if beside is not None:
                drawn[str(one.key)] = beside
    return {
        "pages": [],
        "differs": differs[:_MOST_TOLD],
        "drawn": drawn,
        "found": found,
        "count": count,
    }


def _part_after(before: HeldDocument, after: HeldDocument, part: str) -> str:
    """The same picture's part in the copy: pictures in a text are numbered anew, in their order."""
    if part in after.store.names:
        return part
    return after.store.names[before.store.names.index(part)]


def _crop_after(after: HeldDocument, part: str) -> Crop:
    found = next((one for one in after.images if one.part == part), None)
    return found.crop if found is not None else (0.0, 0.0, 0.0, 0.0)


def _parts_that_differ(before: HeldDocument, after: HeldDocument, changed: set[str]) -> list[str]:
    """What of a package is not byte for byte as it was; XML may have other crops in it."""
    old, new = before.store, after.store
    if not (isinstance(old, Package) and isinstance(new, Package)):
        return []
    if old.names != new.names:
        return ["The copy has other parts, or has them in another order."]
    differs = []
    for part in old.names:
        if part in changed or old.fingerprint(part) == new.fingerprint(part):
            continue
        if not _differs_in_crops_alone(old, new, part):
            differs.append(f"{part} is not as it was.")
    return differs


def _differs_in_crops_alone(old: Package, new: Package, part: str) -> bool:
    if not part.endswith(".xml"):
        return False
    try:
        return _without_crops(old, part) == _without_crops(new, part)
    except UnreadablePart:
        return False


def _without_crops(package: Package, part: str) -> list[Any]:
    """The elements of a part in order, without source rectangles and clips."""
    root = parsed(package.read(part), part)
    return [
        (
            one.tag,
            one.text,
            one.tail,
            sorted((k, v) for k, v in one.attrib.items() if k.rpartition("}")[2] != "clip"),
        )
        for one in root.iter()
        if local(one) != "srcRect"
    ]


def _images_that_moved(before: list[ImageOnPage], after: list[ImageOnPage]) -> list[str]:
    """Images whose visible part does not lie where it lay."""
    if len(before) != len(after):
        return [f"The copy shows {len(after)} images instead of {len(before)}."]
    moved = []
    for old, new in zip(before, after, strict=True):
        pairs = zip(old.shown_matrix.as_tuple(), new.shown_matrix.as_tuple(), strict=True)
        # Denser pixels have edges between those of the old ones.
        pixel = max(old.matrix.u_length / max(1, old.px_w), old.matrix.v_length / max(1, old.px_h))
        if any(abs(a - b) > max(_SAME_PT, pixel) for a, b in pairs):
            moved.append(f"{old.name} is not where it was.")
        elif old.unseen != new.unseen:
            moved.append(f"{old.name} was {old.unseen or 'seen'} and is {new.unseen or 'seen'}.")
    return moved


def _beside(
    old: PartStore, part: str, data: bytes, crops: tuple[Crop, Crop], px: tuple[int, int]
) -> dict[str, Any] | None:
    """How what is seen of a picture looks before and after; None where it is too small."""
    first = seen(_seen(old.read(part, MOST_MEDIA_BYTES), crops[0]))
    height, width = first.shape[:2]
    second = _seen(data, crops[1]).thumbnail_image(width, height=height, size="force")
    shown = (1 - crops[0][0] - crops[0][2]) * px[0], (1 - crops[0][1] - crops[0][3]) * px[1]
    whole = Matrix(width, 0, 0, height, 0, 0)
    return drawn_beside(first, seen(second), whole, (round(shown[0]), round(shown[1])))


def _seen(data: bytes, crop: Crop) -> pyvips.Image:
    image = pyvips.Image.new_from_buffer(data, "", access="random")
    left, top = int(crop[0] * image.width), int(crop[1] * image.height)
    width = max(1, round((1 - crop[0] - crop[2]) * image.width))
    height = max(1, round((1 - crop[1] - crop[3]) * image.height))
    return image.crop(
        min(left, image.width - 1),
        min(top, image.height - 1),
        min(width, image.width - min(left, image.width - 1)),
        min(height, image.height - min(top, image.height - 1)),
    )
