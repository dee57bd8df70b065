"""Missing pictures of a job, found again in a folder by content and by name."""

from pathlib import Path

from sqlalchemy import select
from sqlalchemy.orm import Session

from harnet.core.measure.wording import counted
from harnet.core.preflight.subject import FileState
from harnet.store.bucket_folder import is_bucket
from harnet.store.history import recorded
from harnet.store.tables.jobs import Item, Job
from harnet.store.tables.pictures import Shelf
from harnet.store.tables.preflight import Judgement
from harnet.studio.common.errors import Refused
from harnet.studio.common.studio import Studio
from harnet.studio.judging.judging import catch_up
from harnet.studio.layout.placing import relink
from harnet.studio.pictures.buckets import bucket_meant
from harnet.studio.pictures.shelves import all_shelves, import_folder
from harnet.studio.pictures.watching import watch_folder


def relink_all_in(studio: Studio, session: Session, job: Job, folder_text: str) -> tuple[int, int]:
    """Looks in a folder for every missing picture of a job, by content, then by name.

    Returns how many were found and how many are still missing.

    Raises:
        Refused: no such folder, or nothing is missing.
    """
    missing = missing_items(session, job)
    if not missing:
        raise Refused("No picture in this job is missing.")
    shelf = _shelf_on(studio, session, folder_text)
    import_folder(session, shelf)
    session.refresh(shelf)
    by_content = {picture.sha256: picture for picture in shelf.pictures}
    by_name = {picture.file_name.lower(): picture for picture in shelf.pictures}
    found = 0
    with recorded(session, job, f"Relink {counted(len(missing), 'missing picture')}"):
        for item in missing:
            lost = item.picture
            assert lost is not None
            other = by_content.get(lost.sha256) or by_name.get(lost.file_name.lower())
            if other is not None and other.id != lost.id:
                relink(session, job, item, other, is_recorded=False)
                found += 1
    return found, len(missing) - found


def _shelf_on(studio: Studio, session: Session, folder_text: str) -> Shelf:
    text = folder_text.strip()
    wanted = Path(text).expanduser()
    for shelf in all_shelves(session):
        if is_bucket(text) and shelf.folder == bucket_meant(text):
            return shelf
        if wanted.is_absolute() and Path(shelf.folder).resolve() == wanted.resolve():
            return shelf
    return watch_folder(studio, session, folder_text)


def missing_items(session: Session, job: Job) -> list[Item]:
    """The placed pictures of a job whose file is not there."""
    catch_up(session, job)
    wanted = select(Item).join(Judgement, Judgement.item_id == Item.id)
    wanted = wanted.where(
        Judgement.job_id == job.id, Judgement.file_state == FileState.MISSING.value
    )
    return list(session.scalars(wanted.order_by(Item.id)))
