"""Texts in tables that spreadsheets open: none of them is taken for a formula."""

import csv
import io
from collections.abc import Iterable, Mapping, Sequence

_STARTS_FORMULA = ("=", "+", "-", "@", "\t", "\r")


def cell_text(value: object) -> object:
    """A cell as it is written: a text that a spreadsheet would compute with gets an apostrophe.

    Figures and empty texts stay as they are.

    >>> cell_text("=1+1"), cell_text("slipway.jpg"), cell_text(""), cell_text(-3.5)
    ("'=1+1", 'slipway.jpg', '', -3.5)
    """
    if isinstance(value, str) and value.startswith(_STARTS_FORMULA) and not _is_figure(value):
        return f"'{value}"
    return value


def _is_figure(text: str) -> bool:
    try:
        float(text)
    except ValueError:
        return False
    return True


def csv_text(columns: Sequence[str], rows: Iterable[Mapping[str, object]]) -> str:
    """A table as CSV, its columns in this order."""
    text = io.StringIO()
    writer = csv.DictWriter(text, columns, extrasaction="ignore", lineterminator="\n")
    writer.writeheader()
    writer.writerows({name: cell_text(row[name]) for name in columns} for row in rows)
    return text.getvalue()
