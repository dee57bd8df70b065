"""The target that a command judges by: a name, a figure in ppi, or a file; `harnet targets`."""

import sys
from collections.abc import Callable
from pathlib import Path
from typing import Any, TypeVar

import click
from click.shell_completion import CompletionItem

from harnet.cli.tables import Row, format_option, print_rows
from harnet.core.errors import ValueOutOfRange
from harnet.core.targets.shipped import SHIPPED, target_named
from harnet.core.targets.target import Target

_CANNOT_READ = 2
_Command = TypeVar("_Command", bound=Callable[..., Any])
HELP = (
    "A name; a figure in ppi, for continuous-tone pictures on coated press; or a file of targets,"
    " followed by #KEY where it holds several."
)


def completed(
    context: click.Context, parameter: click.Parameter, incomplete: str
) -> list[CompletionItem]:
    """The names that begin so, for a shell; files where none does."""
    named = [
        CompletionItem(one.key, help=one.name) for one in SHIPPED if one.key.startswith(incomplete)
    ]
    return named or [CompletionItem(incomplete, type="file")]


def target_option(
    default: str | None = "coated", name: str = "wanted"
) -> Callable[[_Command], _Command]:
    """The option `--target`, whose value goes to `target_meant`."""
    return click.option(
        "--target",
        name,
        default=default,
        show_default=default is not None,
        help=HELP,
        shell_complete=completed,
    )


def target_meant(text: str) -> Target:
    """The target meant; the command ends with a sentence where there is none."""
    try:
        path, _, key = text.partition("#")
        if path.lower().endswith(".json") or Path(path).is_file():
            return _from_file(Path(path), key)
        return target_named(text)
    except ValueOutOfRange as error:
        click.echo(str(error), err=True)
        sys.exit(_CANNOT_READ)


def _from_file(path: Path, key: str) -> Target:
    # Only here: what checks files takes longer to load than most commands to run.
    from harnet.studio.common.errors import Refused  # noqa: PLC0415
    from harnet.studio.targets.files import targets_in  # noqa: PLC0415

    try:
        found = targets_in(path.read_text(encoding="utf-8"))
    except Refused as error:
        raise ValueOutOfRange(f"{path}: {error}") from None
    except (OSError, UnicodeDecodeError) as error:
        raise ValueOutOfRange(f"{path}: the file cannot be read ({error})") from None
    if not key and len(found) == 1:
        return found[0]
    for target in found:
        if target.key == key:
            return target
    keys = ", ".join(target.key for target in found)
    raise ValueOutOfRange(f"{path} holds {keys}; say which with #KEY behind the file's name")


@click.command()
@format_option
def targets(form: str) -> None:
    """The targets that --target knows by name."""
    rows: list[Row] = [
        {
            "key": one.key,
            "name": one.name,
            "density_ppi": one.density_ppi,
            "bilevel_ppi": one.bilevel_ppi,
            "floor_ppi": round(one.floor_ppi, 4),
            "ceiling_ppi": one.ceiling_ppi,
            "tolerance": one.tolerance,
            "reason": one.reason,
        }
        for one in SHIPPED
    ]
    print_rows(
        form,
        rows,
        {
            "target": lambda row: str(row["key"]),
            "ppi": lambda row: f"{row['density_ppi']:g}",
            "1-bit": lambda row: f"{row['bilevel_ppi']:g}",
            "what it is": lambda row: str(row["name"]),
        },
    )
