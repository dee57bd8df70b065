"""Undo and redo for a window: only the step that it shows, and the page where that happened."""

from sqlalchemy import select
from sqlalchemy.orm import Session, object_session

from harnet.store.history import latest_edit, latest_undone, step_numbers, undo_reach
from harnet.store.tables.jobs import Edit, Item, Job, Page
from harnet.studio.common.errors import Conflict, Refused

_LOOKED_BACK = 20


def steps_of(job: Job) -> tuple[int, int]:
    """The numbers of the edits that undo and redo are about; 0 where there is none."""
    session = object_session(job)
    assert session is not None
    return step_numbers(session, job)


def step_known(session: Session, job: Job, known_id: int | None, is_redo: bool = False) -> Edit:
    """The edit that undo or redo is about, unless the window has not seen it yet.

    Pressed twice in a row, a window still knows the step that was undone first; the one before that
    was seen, too.

    Raises:
        Refused: there is nothing to undo or redo.
        Conflict: another window has changed the job since; the text names its step.
    """
    edit = (latest_undone if is_redo else latest_edit)(session, job)
    if edit is None:
        if not is_redo and undo_reach(session, job).first_id:
            raise Refused("Undo does not reach further back: older steps are kept by name only.")
        raise Refused(f"There is nothing to {'redo' if is_redo else 'undo'}.")
    is_unseen = known_id is not None and (edit.id < known_id if is_redo else edit.id > known_id)
    if is_unseen:
        who = edit.made_by or "Another window"
        raise Conflict(
            f"{who} changed this job: “{edit.label}” came last. Nothing was"
            f" {'redone' if is_redo else 'undone'}; reload to see it."
        )
    return edit


def page_changed_by(session: Session, job: Job, edit: Edit) -> int | None:
    """The number of the first page that an edit changed and that the job has now."""
    for change in edit.changes:
        page = None
        if change["table"] == "page":
            page = session.get(Page, change["id"])
        elif change["table"] == "item":
            item = session.get(Item, change["id"])
            page = item.page if item is not None else _page_left(session, change)
        if page is not None and page.job_id == job.id:
            return page.position + 1
    return None


def _page_left(session: Session, change: dict[str, dict[str, int] | None]) -> Page | None:
    """The page that an item was removed from."""
    for side in ("before", "after"):
        values = change[side]
        if values is not None and "page_id" in values:
            return session.get(Page, values["page_id"])
    return None


def told_of_change(session: Session, job: Job, item_id: int) -> str:
    """Who changed an item last, and how, as a sentence to add; empty where that is not known."""
    latest = select(Edit).where(Edit.job_id == job.id).order_by(Edit.id.desc()).limit(_LOOKED_BACK)
    for edit in session.scalars(latest):
        if edit.made_by and any(
            (change["table"], change["id"]) == ("item", item_id) for change in edit.changes
        ):
            undone = " and undone" if edit.is_undone else ""
            return f" {edit.made_by} came first: “{edit.label}”{undone}."
    return ""
