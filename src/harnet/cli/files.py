"""What commands share: the files meant, and how long an untrusted file may take."""

import glob
import shutil
import sys
import tempfile
from collections.abc import Iterator, Sequence
from contextlib import contextmanager
from pathlib import Path

import click

patience_option = click.option(
    "--patience",
    type=click.FloatRange(0.1, 100),
    default=1.0,
    show_default=True,
    help=(
        "How many times the usual limits a file may take: 10 s of processor time and 1 GB of"
        " memory."
    ),
)


STANDARD_INPUT = "-"
quiet_option = click.option("--quiet", "-q", is_flag=True, help="Say nothing of progress.")


@contextmanager
def path_meant(path: Path) -> Iterator[tuple[Path, str]]:
    """A file and the name it goes by; standard input as a file that is gone on leaving."""
    if str(path) != STANDARD_INPUT:
        yield path, str(path)
        return
    with tempfile.NamedTemporaryFile() as file:
        shutil.copyfileobj(sys.stdin.buffer, file)
        file.flush()
        yield Path(file.name), "standard input"


def paths_meant(files: Sequence[str]) -> list[Path]:
    """The files meant, each once; a pattern that the shell left alone is resolved here."""
    paths: list[Path] = []
    for text in files:
        # Not by Path.glob, which takes no pattern that begins with a slash.
        found = sorted(glob.glob(text, recursive=True)) if glob.has_magic(text) else []  # noqa: PTH207
        paths += [Path(one) for one in found] or [Path(text)]
    return list(dict.fromkeys(paths))


password_option = click.option(
    "--password",
    default="",
    help="The password of a PDF that needs one; what is made of it stays out of the original.",
)
