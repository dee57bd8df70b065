"""What placements and texts share: finding one of a job, removing it, and how it stands after."""

from harnet.store.database import Session
from harnet.store.tables.jobs import Item, Job
from harnet.studio.common.errors import NotThere
from harnet.studio.jobs.jobs import job_with
from harnet.studio.judging.judging import settle
from harnet.studio.layout.placed import PICTURE, TEXT
from harnet.studio.layout.placing import item_in, remove_items
from harnet.web.common.shared import studio

_CALLED = {PICTURE: "placed picture", TEXT: "text"}


def item_of(job: Job, item_id: int, kind: str, version: int | None = None) -> Item:
    """The placement or text of that number; with a version, if it still has it.

    Raises:
        NotThere: the job has none.
        Conflict: someone changed it in the meantime.
    """
    item = item_in(job, item_id, version)
    if item.kind != kind:
        raise NotThere(f"This is not a {_CALLED[kind]}.")
    return item


def removed(job_id: int, item_id: int, kind: str) -> str:
    """Removes a placement or a text from its page, and answers with nothing."""
    with studio().session() as session:
        job = job_with(session, job_id)
        remove_items(session, job, [item_of(job, item_id, kind)])
    return ""


def as_it_stands(session: Session, item: Item) -> Item:
    """The item once its page is judged, with the version that it has now."""
    settle(session)
    session.refresh(item)
    return item
