"""The one door for changes to a job: each is recorded with its rows before and after.

Undo writes the values from before back through the same door, redo those from after.
"""

from collections.abc import Iterable, Iterator
from contextlib import contextmanager
from dataclasses import dataclass
from functools import cache
from typing import Any

from sqlalchemy import and_, delete, func, inspect, or_, select, update
from sqlalchemy.orm import LoaderCallableStatus, Session, attributes, load_only

from harnet.store.base import Base, now_utc
from harnet.store.bulk import write_changed
from harnet.store.tables.jobs import Edit, Item, Job, Page
from harnet.store.tables.preflight import Acceptance

_RECORDED: dict[str, type[Base]] = {
    "page": Page,
    "item": Item,
    "job": Job,
    "acceptance": Acceptance,
}
_NOT_RECORDED = {
    "version",
    "edited_at",
    "created_at",
    "deleted_at",
    "accepted_at",
    "is_archived",
    "rules_version",
    "output_settings",
    "tally",
    "made_by",
    "group_id",
    "reviewers_accept",
}

LABELS = "labels of edits"
"""Where a session keeps what was made of it, for whoever tells what happened."""
KEPT_STEPS, KEPT_ROWS, LEAST_STEPS = 200, 100_000, 20
"""So many steps of a job can be undone, or fewer that touched so many rows together; never less
than the least."""
NAMED_STEPS = 800
"""So many steps before those are kept by name."""
_OUTER = "changes of the edit around"
_LONGEST_LABEL = 200

Row = dict[str, Any]


@contextmanager
def recorded(session: Session, job: Job, label: str) -> Iterator[None]:
    """A change to a job: what is added, altered or deleted inside becomes one history entry.

    Of an altered row only the columns that differ are kept, of an added or deleted one all.
    An edit that alters nothing leaves no entry. Edits that had been undone are gone afterwards.
    A change inside another one is part of that one's entry. What lies beyond the bounds of a
    history is packed.
    """
    lock_job(session, job)
    outer: list[Row] | None = session.info.get(_OUTER)
    inner: list[Row] = []
    if outer is None:
        session.info[_OUTER] = inner
    try:
        with session.no_autoflush:
            yield
    finally:
        if outer is None:
            del session.info[_OUTER]
    changes = _changes_in(session)
    if outer is not None:
        outer += changes
        return
    changes = _merged([*inner, *changes])
    if not changes:
        return
    session.execute(delete(Edit).where(Edit.job_id == job.id, Edit.is_undone))
    label = label[:_LONGEST_LABEL]
    session.add(Edit(job_id=job.id, label=label, changes=changes, row_count=len(changes)))
    session.info.setdefault(LABELS, []).append(label)
    job.edited_at = now_utc()
    session.flush()
    _pack(session, job)


def _pack(session: Session, job: Job) -> None:
    """Lets go of the rows of steps that undo no longer reaches, and of steps long gone."""
    newest_first = Edit.id.desc()
    steps = select(
        Edit.id,
        func.row_number().over(order_by=newest_first).label("place"),
        func.sum(Edit.row_count).over(order_by=newest_first).label("rows"),
    )
    kept = steps.where(Edit.job_id == job.id, ~Edit.is_packed).subquery()
    is_beyond = or_(
        kept.c.place > KEPT_STEPS, and_(kept.c.rows > KEPT_ROWS, kept.c.place > LEAST_STEPS)
    )
    last = session.scalar(select(func.max(kept.c.id)).where(is_beyond))
    if last is None:
        return
    older = (Edit.job_id == job.id, Edit.id <= last)
    packed = update(Edit).where(*older, ~Edit.is_packed).values(changes=[], is_packed=True)
    session.execute(packed, execution_options={"synchronize_session": False})
    listed = select(Edit.id).where(*older).order_by(newest_first).offset(NAMED_STEPS)
    gone = delete(Edit).where(Edit.id.in_(listed))
    session.execute(gone, execution_options={"synchronize_session": False})


def _changes_in(session: Session) -> list[Row]:
    """What the session holds that is not written yet, as changes; writes it."""
    changes = [_change(row, _before(row), None) for row in _touched(session.deleted)]
    for row in _touched(session.dirty):
        before, after = _before(row), _now(row)
        if before != after:
            altered = [name for name in after if before[name] != after[name]]
            changes.append(
                _change(
                    row,
                    {name: before[name] for name in altered},
                    {name: after[name] for name in altered},
                )
            )
    added = list(_touched(session.new))
    write_changed(session)
    session.flush()
    return changes + [_change(row, None, _now(row)) for row in added]


def _merged(changes: Iterable[Row]) -> list[Row]:
    """One change for each row: from before the first to after the last."""
    found: dict[tuple[str, int], Row] = {}
    for change in changes:
        key = (change["table"], change["id"])
        first = found.get(key)
        if first is None:
            found[key] = change
            continue
        is_new, is_gone = first["before"] is None, change["after"] is None
        before = None if is_new else {**(change["before"] or {}), **first["before"]}
        after = None if is_gone else {**(first["after"] or {}), **change["after"]}
        found[key] = first | {"before": before, "after": after}
    return [one for one in found.values() if (one["before"], one["after"]) != (None, None)]


def lock_job(session: Session, job: Job) -> None:
    """Waits until nobody else changes the job; held to the end of the transaction.

    Positions are counted from what is there, so two at once would count the same.
    """
    if job.id is not None:
        lock_jobs(session, [job.id])


def lock_jobs(session: Session, job_ids: Iterable[int]) -> None:
    """Waits until nobody else changes these jobs, in their order; held to the end.

    Whatever belongs to a job is written only under its lock, so that two never wait for each other.
    Rows that only name the job may be added meanwhile.
    """
    wanted = select(Job.id).where(Job.id.in_(sorted(set(job_ids)))).order_by(Job.id)
    session.execute(wanted.with_for_update(key_share=True))


def latest_edit(session: Session, job: Job) -> Edit | None:
    """The edit that the next undo would be about."""
    return session.get(Edit, step_numbers(session, job)[0])


def latest_undone(session: Session, job: Job) -> Edit | None:
    """The edit that the next redo would be about."""
    return session.get(Edit, step_numbers(session, job)[1])


def step_numbers(session: Session, job: Job) -> tuple[int, int]:
    """The numbers of the edits that undo and redo would be about; 0 where there is none."""
    made = select(Edit.id).where(Edit.job_id == job.id, ~Edit.is_undone, ~Edit.is_packed)
    undone = select(Edit.id).where(Edit.job_id == job.id, Edit.is_undone)
    ends = (made.order_by(Edit.id.desc()).limit(1), undone.order_by(Edit.id).limit(1))
    undo_id, redo_id = session.execute(select(*(one.scalar_subquery() for one in ends))).one()
    return undo_id or 0, redo_id or 0


def rows_changed_by(session: Session, edit_ids: Iterable[int]) -> int:
    """How many rows these edits changed, all in all."""
    counted = select(func.sum(Edit.row_count)).where(Edit.id.in_(list(edit_ids)))
    return session.scalar(counted) or 0


def undo(session: Session, job: Job) -> Edit | None:
    """Takes the latest edit back; None where there is nothing to undo."""
    lock_job(session, job)
    edit = latest_edit(session, job)
    if edit is not None:
        _write(session, edit.changes, "before")
        edit.is_undone = True
        session.info.setdefault(LABELS, []).append(edit.label)
        job.edited_at = now_utc()
        session.flush()
    return edit


def redo(session: Session, job: Job) -> Edit | None:
    """Makes the edit undone last again; None where there is nothing to redo."""
    lock_job(session, job)
    edit = latest_undone(session, job)
    if edit is not None:
        _write(session, edit.changes, "after")
        edit.is_undone = False
        session.info.setdefault(LABELS, []).append(edit.label)
        job.edited_at = now_utc()
        session.flush()
    return edit


def _touched(rows: Any) -> list[Any]:
    """The recorded rows, pages before the items on them."""
    order = list(_RECORDED.values())
    kept = [row for row in rows if type(row) in order]
    return sorted(kept, key=lambda row: order.index(type(row)))


@cache
def _columns(model: type[Base]) -> tuple[str, ...]:
    keys = (column.key for column in inspect(model).column_attrs)
    return tuple(key for key in keys if key not in _NOT_RECORDED)


def _now(row: Base) -> Row:
    return {name: getattr(row, name) for name in _columns(type(row))}


def _before(row: Any) -> Row:
    values = _now(row)
    committed = inspect(row).committed_state
    unknown = [name for name in committed if name in values and _is_unknown(committed[name])]
    for name in tuple(committed):
        if name in values and name not in unknown:
            past = attributes.get_history(row, name)
            values[name] = past.deleted[0] if past.deleted else values[name]
    return values | _stored(row, unknown)


def _is_unknown(value: Any) -> bool:
    """Whether a column was set that had not been read: the session does not know what it held."""
    return value is LoaderCallableStatus.NO_VALUE


def _stored(row: Any, names: list[str]) -> Row:
    """Columns of a row as the database has them."""
    session, model = attributes.instance_state(row).session, type(row)
    if not names or session is None:
        return {}
    columns = [getattr(model, name) for name in names]
    found = session.execute(select(*columns).where(model.id == row.id)).one_or_none()
    return dict(zip(names, found, strict=True)) if found is not None else {}


def _change(row: Any, before: Row | None, after: Row | None) -> Row:
    return {"table": row.__tablename__, "id": row.id, "before": before, "after": after}


def _write(session: Session, changes: list[Row], side: str) -> None:
    """Brings each changed row to one side of its change; adds pages before their items."""
    returning = [change for change in changes if change[side] is not None]
    leaving = [change for change in changes if change[side] is None]
    returning.sort(key=lambda change: list(_RECORDED).index(change["table"]))
    rows = _rows_of(session, changes)
    for change in returning:
        model = _RECORDED[change["table"]]
        row = rows.get((change["table"], change["id"]))
        # Columns that a later version of the tables has no more are left out.
        known = inspect(model).column_attrs
        values = {name: value for name, value in change[side].items() if name in known}
        if row is None:
            session.add(model(**values))
        else:
            for name, value in values.items():
                if getattr(row, name) != value:
                    setattr(row, name, value)
    write_changed(session)
    session.flush()
    for table in reversed(_RECORDED):
        going = [change for change in leaving if change["table"] == table]
        for row in _rows_of(session, going).values():
            session.delete(row)
        session.flush()
        # A page already loaded would otherwise delete its items once more.
        session.expire_all()


def _rows_of(session: Session, changes: list[Row]) -> dict[tuple[str, int], Any]:
    """The rows that changes are about, as far as there are any, by table and number."""
    found: dict[tuple[str, int], Any] = {}
    for table, model in _RECORDED.items():
        numbers = [change["id"] for change in changes if change["table"] == table]
        if numbers:
            number = inspect(model).primary_key[0]
            rows: Iterable[Any] = session.scalars(select(model).where(number.in_(numbers)))
            found |= {(table, row.id): row for row in rows}
    return found


def history_of(session: Session, job: Job, most: int = 60) -> list[Edit]:
    """The latest edits of a job, newest first; those that were undone are still among them."""
    wanted = select(Edit).where(Edit.job_id == job.id).order_by(Edit.id.desc()).limit(most)
    # The rows before and after may be thousands; the list only names the edits.
    return list(
        session.scalars(
            wanted.options(
                load_only(Edit.label, Edit.is_undone, Edit.is_packed, Edit.made_by, Edit.made_at)
            )
        )
    )


@dataclass(frozen=True, slots=True)
class UndoReach:
    """How far undo goes: so many steps, to the state after the edit of that number.

    The number is 0 where undo reaches the state that the job began with.
    """

    steps: int
    first_id: int


def undo_reach(session: Session, job: Job) -> UndoReach:
    """How many steps of a job can be undone, and where that ends."""
    steps = func.count().filter(~Edit.is_undone, ~Edit.is_packed)
    first = func.coalesce(func.max(Edit.id).filter(Edit.is_packed), 0)
    found = session.execute(select(steps, first).where(Edit.job_id == job.id)).one()
    return UndoReach(*found)


class EntryGone(LookupError):
    """The edit asked for is not among those of the job, or no longer."""


def steps_between(session: Session, job: Job, edit_id: int) -> list[int]:
    """The edits to undo or redo, one way only, until that one is the latest made; 0 undoes all.

    Raises:
        EntryGone: the job has no such edit, or undo does not reach it.
    """
    kept = select(Edit.id, Edit.is_undone).where(Edit.job_id == job.id, ~Edit.is_packed)
    edits = session.execute(kept.order_by(Edit.id)).all()
    states: dict[int, bool] = {edit.id: edit.is_undone for edit in edits}
    if edit_id not in states and edit_id != undo_reach(session, job).first_id:
        raise EntryGone(edit_id)
    back = [number for number, undone in states.items() if number > edit_id and not undone]
    return back or [number for number, undone in states.items() if number <= edit_id and undone]


def go_to(session: Session, job: Job, edit_id: int) -> None:
    """Undoes or redoes until the edit of that number is the latest one made; 0 undoes all.

    Raises:
        EntryGone: the job has no such edit; nothing was undone.
    """
    for step in steps_between(session, job, edit_id):
        (undo if step > edit_id else redo)(session, job)
