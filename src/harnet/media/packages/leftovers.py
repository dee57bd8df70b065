"""Pictures that a package holds and no page shows, and why they are there."""

from collections import defaultdict
from typing import Any

from harnet.core.documents.document import LeftoverKind
from harnet.media.packages.archive import UnreadablePart
from harnet.media.packages.media import MediaStore, looks_like_picture
from harnet.media.packages.relationships import Parts

_THUMBNAIL = "thumbnail"
_MOST_TOLD = 500


def office_leftovers(parts: Parts, media: MediaStore) -> list[dict[str, Any]]:
    """Those of a package whose parts refer to each other by relationships."""
    package = parts.package
    candidates = {
        one for one in package.names if looks_like_picture(one) and one not in media.used
    } | (media.edited - media.used)
    if not candidates:
        return []
    owners: dict[str, list[tuple[str, str]]] = defaultdict(list)
    thumbnails: set[str] = set()
    waiting, seen = [""], {""}
    while waiting:
        owner = waiting.pop()
        for one in parts.relations(owner).values():
            if one.part is None:
                continue
            owners[one.part].append((owner, one.id))
            if one.kind == _THUMBNAIL:
                thumbnails.add(one.part)
            if one.part not in seen:
                seen.add(one.part)
                waiting.append(one.part)
    found = []
    for part in package.names:
        if part not in candidates or part in thumbnails:
            continue
        if part in media.edited:
            kind = LeftoverKind.EDITED
        else:
            is_named = any(_names(parts, owner, id_) for owner, id_ in owners.get(part, ()))
            kind = LeftoverKind.UNKNOWN if is_named else LeftoverKind.UNUSED
        found.append(leftover_values(media, part, kind))
    return found[:_MOST_TOLD]


def leftover_values(media: MediaStore, part: str, kind: LeftoverKind) -> dict[str, Any]:
    """A leftover as JSON keeps it."""
    px_w, px_h = media.look_at(part).px
    size = media.package.unpacked_size_of(part)
    return {"part": part, "kind": kind.value, "size_bytes": size, "px_w": px_w, "px_h": px_h}


def _names(parts: Parts, owner: str, relation_id: str) -> bool:
    """Whether a part that has a relationship uses it."""
    try:
        data = parts.package.read(owner) if owner else b""
    except UnreadablePart:
        return False
    return f'"{relation_id}"'.encode() in data or f"'{relation_id}'".encode() in data
