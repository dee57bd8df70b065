"""Rows of a table, one record a page: reading CSV, and filling a record into a text."""

import csv
import io
import re
from collections.abc import Iterable, Mapping
from dataclasses import dataclass

from harnet.core.errors import ValueOutOfRange

MOST_RECORDS = 1000
_MOST_COLUMNS = 100
_PLACE = re.compile(r"\{([^{}\n]{1,100})\}")
_PICTURE_WORDS = ("picture", "image", "photo", "file", "bild", "foto", "datei")

Record = Mapping[str, str]


@dataclass(frozen=True, slots=True)
class Table:
    """Columns by name, and records; each record has a text for every column."""

    columns: tuple[str, ...]
    records: tuple[Record, ...]


def table_from(text: str) -> Table:
    """The table in a CSV text (RFC 4180, or with semicolons or tabs); its first row has the names.

    Empty rows are passed over.

    Raises:
        ValueOutOfRange: no table; the text says which row is wrong and why.

    >>> table_from("name;file\\nLamp;lamp.jpg\\n").records[0]["file"]
    'lamp.jpg'
    """
    lines = text.lstrip("\ufeff")
    first = lines.partition("\n")[0]
    separator = max(",;\t", key=first.count)
    try:
        rows = list(csv.reader(io.StringIO(lines), delimiter=separator, strict=True))
    except csv.Error as error:
        raise ValueOutOfRange(f"the table cannot be read: {error}") from None
    rows = [row for row in rows if any(cell.strip() for cell in row)]
    if not rows:
        raise ValueOutOfRange("the table is empty; its first row must name the columns")
    columns = tuple(cell.strip() for cell in rows[0])
    _check_columns(columns)
    if len(rows) - 1 > MOST_RECORDS:
        raise ValueOutOfRange(f"the table has {len(rows) - 1} records; at most {MOST_RECORDS} fit")
    records = []
    for number, row in enumerate(rows[1:], 2):
        if len(row) != len(columns):
            raise ValueOutOfRange(
                f"row {number} has {len(row)} cells where the first row names {len(columns)}"
                " columns; put quotation marks around a cell that holds a separator"
            )
        records.append(dict(zip(columns, (cell.strip() for cell in row), strict=True)))
    return Table(columns, tuple(records))


def _check_columns(columns: tuple[str, ...]) -> None:
    if len(columns) > _MOST_COLUMNS:
        raise ValueOutOfRange(f"the table has {len(columns)} columns; at most {_MOST_COLUMNS} fit")
    for index, column in enumerate(columns, 1):
        if not column:
            raise ValueOutOfRange(f"column {index} has no name in the first row")
        if column.lower() in (other.lower() for other in columns[: index - 1]):
            raise ValueOutOfRange(f"two columns are called “{column}”")


def filled(text: str, record: Record) -> str:
    """The text with each `{column}` replaced by the record's; other braces stay as they are.

    >>> filled("{Name}, {price} in {town}", {"name": "Lamp", "price": "12"})
    'Lamp, 12 in {town}'
    """
    values = {name.lower(): value for name, value in record.items()}
    return _PLACE.sub(lambda match: values.get(match[1].strip().lower(), match[0]), text)


def places_in(text: str) -> list[str]:
    """The columns that a text asks for, in order and each once."""
    return list(dict.fromkeys(match[1].strip() for match in _PLACE.finditer(text)))


def picture_column(columns: Iterable[str], place: int = 0) -> str:
    """The column that probably names pictures: the one at that place among those called so."""
    named = [one for one in columns if any(word in one.lower() for word in _PICTURE_WORDS)]
    return named[place] if place < len(named) else ""
