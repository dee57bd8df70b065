"""Many rows written by one statement each, as JSON that PostgreSQL takes apart.

The ORM updates rows that have a version one by one, to see of each whether somebody else was
first. A batch over thousands of placements is written in one go instead, by the same rule.
"""

import json
from collections import defaultdict
from collections.abc import Sequence
from typing import Any

from sqlalchemy import Table, inspect, text
from sqlalchemy.orm import Session, attributes
from sqlalchemy.orm.exc import StaleDataError

from harnet.store.base import Base
from harnet.store.tables.pictures_and_jobs import Item

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


def write_changed_items(session: Session) -> None:
    """Writes the changed columns of items, those with the same ones together, each a version on.

    Few of them, and what has changed in another way, are left to the session's own flush.

    Raises:
        StaleDataError: somebody else changed one of them meanwhile.
    """
    alike: dict[tuple[str, ...], list[Item]] = defaultdict(list)
    columns = inspect(Item).column_attrs
    for row in session.dirty:
        if isinstance(row, Item):
            known = inspect(row).committed_state
            if all(name in columns for name in known):
                changed = (name for name, was in known.items() if was != getattr(row, name))
                alike[tuple(sorted(changed))].append(row)
    for names, rows in alike.items():
        if names and len(rows) >= _FEWEST:
            _write(session, names, rows)


def _write(session: Session, names: tuple[str, ...], rows: list[Item]) -> None:
    table = Item.__table__
    assert isinstance(table, Table)
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
        raise StaleDataError(f"{len(rows)} items to write, {written.rowcount} of them as known")
    for row in rows:
        for name in names:
            attributes.set_committed_value(row, name, getattr(row, name))
        attributes.set_committed_value(row, "version", row.version + 1)
