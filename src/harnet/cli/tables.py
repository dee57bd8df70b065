"""How the commands write their answers: as JSON, as CSV, as a table for the eye."""

import csv
import json
import os
import sys
from collections.abc import Callable, Iterable, Sequence

import click

from harnet.core.errors import HarnetError
from harnet.core.measure.table_text import cell_text

Row = dict[str, object]
format_option = click.option(
    "--format",
    "form",
    type=click.Choice(["table", "json", "csv"]),
    default="table",
    show_default=True,
    help="The output format.",
)


def print_json(value: object) -> None:
    """Writes a value as JSON."""
    click.echo(json.dumps(value, ensure_ascii=False, indent=1))


def error_row(file: str, error: HarnetError) -> Row:
    """What JSON says of a file that cannot be used; its code is the same in every version."""
    return {"file": file, "error": {"code": error.code, "message": str(error)}}


def print_csv(columns: list[str], rows: Iterable[Row]) -> None:
    """Writes rows as CSV under the names of their columns."""
    writer = csv.DictWriter(sys.stdout, columns)
    writer.writeheader()
    writer.writerows({key: cell_text(one) for key, one in row.items()} for row in rows)


def print_rows(
    form: str,
    rows: Sequence[Row],
    columns: dict[str, Callable[[Row], str]],
    colour_of: Callable[[Row], str | None] = lambda row: None,
) -> None:
    """Writes rows in the form that was asked for; `columns` are those of the table.

    CSV has the names of the first row's values as its columns.
    """
    if form == "json":
        print_json(rows)
    elif form == "csv":
        print_csv(list(rows[0]) if rows else ["file"], rows)
    else:
        print_table(rows, columns, colour_of)


def print_table(
    rows: Sequence[Row],
    columns: dict[str, Callable[[Row], str]],
    colour_of: Callable[[Row], str | None] = lambda row: None,
) -> None:
    """Writes rows as a table, each column as wide as its widest cell.

    `colour_of` gives a row's colour on a terminal; elsewhere, or where NO_COLOR is set, there is
    none.
    """
    colours = [None, *(None if os.environ.get("NO_COLOR") else colour_of(row) for row in rows)]
    cells = [list(columns), *([text(row) for text in columns.values()] for row in rows)]
    widths = [max(len(line[index]) for line in cells) for index in range(len(columns))]
    for line, colour in zip(cells, colours, strict=True):
        padded = (cell.ljust(width) for cell, width in zip(line, widths, strict=True))
        click.secho("  ".join(padded).rstrip(), fg=colour)
