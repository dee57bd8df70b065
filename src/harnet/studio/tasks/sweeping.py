"""Letting go of what nothing needs any longer: bytes that no row names, folders of crashed work.

Nothing is deleted where it stops being needed: the transaction there may yet fail, and the same
bytes may come in again in the meantime. The sweep looks at all of it, some time later.
"""

import shutil
import time
from collections.abc import Iterator
from dataclasses import dataclass
from typing import Any

from sqlalchemy import Select, select
from sqlalchemy.orm import Session

from harnet.store.tables.documents import Document, DocumentWork
from harnet.store.tables.handoff import PackOpening
from harnet.store.tables.output import Output
from harnet.store.tables.pictures import ColourProfile, Picture
from harnet.studio.common.studio import Studio
from harnet.studio.tasks.states import RUNNING

GRACE_SECONDS = 24 * 3600.0
_HOLDERS: tuple[Select[Any], ...] = (
    select(Output.sha256),
    select(Picture.sha256),
    select(Picture.in_bucket["sha256"].as_string()),
    select(Document.sha256),
    select(Document.locked_sha256),
    select(DocumentWork.sha256),
    select(ColourProfile.sha256),
    select(PackOpening.sha256).where(PackOpening.state.in_(RUNNING)),
)
"""Whatever names bytes in the store; a new table that does belongs here."""


@dataclass(frozen=True, slots=True)
class Sweep:
    """What a sweep found that nothing needs any longer."""

    blobs: int
    blob_bytes: int
    leftovers: int
    """Files and folders of work that ended without tidying."""


def sweep(studio: Studio, grace_seconds: float = GRACE_SECONDS, *, is_dry: bool = False) -> Sweep:
    """Deletes bytes that nothing names, and scratch, once they are older than the grace.

    A dry one deletes nothing and tells the same. The worker does this every hour.
    """
    before = time.time() - grace_seconds
    old = dict(studio.blobs.older_than(studio.blobs.now() - grace_seconds))
    with studio.session() as session:
        held = set(_held(session))
    unused = {sha256: size for sha256, size in old.items() if sha256 not in held}
    leftovers = [
        one for one in studio.settings.scratch_folder.iterdir() if one.stat().st_mtime < before
    ]
    if not is_dry:
        for sha256 in unused:
            studio.blobs.delete(sha256)
        for left in leftovers:
            if left.is_dir():
                shutil.rmtree(left, ignore_errors=True)
            else:
                left.unlink(missing_ok=True)
    return Sweep(len(unused), sum(unused.values()), len(leftovers))


def _held(session: Session) -> Iterator[str]:
    for holders in _HOLDERS:
        yield from (sha256 for sha256 in session.scalars(holders.distinct()) if sha256)
