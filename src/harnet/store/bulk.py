"""Many rows written by one statement each, as JSON that PostgreSQL takes apart.

The ORM updates rows that have a version one by one, to see of each whether someone else was
first. A batch over thousands of placements is written in one go instead, by the same rule.
"""

import json
from collections import defaultdict
from collections.abc import Sequence
from typing import Any

from sqlalchemy import Column, Table, inspect, select, text
from sqlalchemy.orm import Session, attributes, class_mapper
from sqlalchemy.orm.exc import StaleDataError
from sqlalchemy.sql.schema import CallableColumnDefault, ScalarElementColumnDefault

from harnet.store.base import Base
from harnet.store.changed_rows import note_changed
from harnet.store.tables.jobs import Item, Page

Versioned = Item | Page
_FEWEST = 20


def insert_rows(session: Session, model: type[Base], rows: Sequence[dict[str, Any]]) -> None:
    """Adds rows to a table; all have the same columns, by their names in the table."""
    if not rows:
        return
    names = ", ".join(f'"{name}"' for name in rows[0])
    session.connection().execute(
        text(
            f'INSERT INTO "{model.__tablename__}" ({names}) SELECT {names} '
            f'FROM json_populate_recordset(NULL::"{model.__tablename__}", CAST(:rows AS json))'
        ),
        {"rows": json.dumps(rows)},
    )


def add_items(session: Session, items: Sequence[Item]) -> dict[tuple[int, int], int]:
    """Adds items that belong to no session, and know their page's number and their position.

    What they lack has its usual value. Returns their numbers by page and position.
    """
    columns = inspect(Item).columns
    usual = {column.key: _usual(column) for column in columns if column.key != "id"}
    rows = []
    for item in items:
        values = {name: getattr(item, name) for name in usual}
        rows.append({name: usual[name] if was is None else was for name, was in values.items()})
    insert_rows(session, Item, rows)
    on_pages = select(Item.page_id, Item.position, Item.id)
    on_pages = on_pages.where(Item.page_id.in_({item.page_id for item in items}))
    return {(page, position): number for page, position, number in session.execute(on_pages)}


def _usual(column: Column[Any]) -> Any:
    if column.key == "version":
        return 1
    default = column.default
    if default is None:
        return None
    if isinstance(default, ScalarElementColumnDefault):
        return default.arg
    assert isinstance(default, CallableColumnDefault)
    make: Any = default.arg
    return make(None)


def write_changed(session: Session) -> None:
    """Writes the changed columns of items and pages, those with the same ones together.

    Each comes a version on. Few of them, and what has changed in another way, are left to the
    session's own flush.

    Raises:
        StaleDataError: someone else changed one of them in the meantime.
    """
    alike: dict[tuple[type[Versioned], tuple[str, ...]], list[Versioned]] = defaultdict(list)
    for row in session.dirty:
        if isinstance(row, Item | Page):
            columns = class_mapper(type(row)).column_attrs
            known = attributes.instance_state(row).committed_state
            if all(name in columns for name in known):
                changed = (name for name, was in known.items() if was != getattr(row, name))
                alike[type(row), tuple(sorted(changed))].append(row)
    for (model, names), rows in alike.items():
        if names and len(rows) >= _FEWEST:
            _write(session, model, names, rows)


def _write(
    session: Session, model: type[Versioned], names: tuple[str, ...], rows: list[Versioned]
) -> None:
    table = model.__table__
    assert isinstance(table, Table)
    # What they were before is known no longer once they are written.
    note_changed(session, rows)
    changed = ", ".join(f'"{name}" = new."{name}"' for name in names)
    values = [
        {"id": row.id, "version": row.version} | {name: getattr(row, name) for name in names}
        for row in rows
    ]
    written = session.connection().execute(
        text(
            f'UPDATE "{table.name}" AS old SET {changed}, version = old.version + 1 '
            f'FROM json_populate_recordset(NULL::"{table.name}", CAST(:rows AS json)) AS new '
            "WHERE old.id = new.id AND old.version = new.version"
        ),
        {"rows": json.dumps(values)},
    )
    if written.rowcount != len(rows):
        raise StaleDataError(f"{len(rows)} rows to write, {written.rowcount} of them as known")
    for row in rows:
        for name in names:
            attributes.set_committed_value(row, name, getattr(row, name))
        attributes.set_committed_value(row, "version", row.version + 1)
