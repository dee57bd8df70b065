"""A long PDF read by two processes side by side; what they find comes in the order of its pages.

For a process that has no threads, since it is forked: the one of `harnet.media.bounded`.
"""

import os
import resource
import sys
from collections.abc import Callable, Iterator, Sequence
from concurrent.futures import ProcessPoolExecutor
from contextlib import ExitStack
from multiprocessing import get_context
from pathlib import Path
from typing import Any, ClassVar, TypeVar

from harnet.media.forking import die_with_parent
from harnet.media.pdf.opening.opened import opened_pdf
from harnet.media.pdf.reading.images import PageReader

Found = TypeVar("Found")
Look = Callable[[PageReader, int, range], Found]
"""What is made of a stretch: of its number and its pages, both counted from 1."""

HANDS = 2
_LEAST_STRETCHES = 5
"""Beginning two processes takes as long as reading some fifty pages."""


def stretches_of(page_count: int, first_pages: int, pages_at_once: int) -> list[range]:
    """The pages in stretches, the first one shorter, so that something is known soon.

    >>> stretches_of(5, 1, 3)
    [range(1, 2), range(2, 5), range(5, 6)]
    """
    starts = [1, *range(first_pages + 1, page_count + 1, pages_at_once)]
    ends = [*starts[1:], page_count + 1]
    return [range(start, end) for start, end in zip(starts, ends, strict=True)]


def in_order(
    path: Path,
    reader: PageReader,
    stretches: Sequence[range],
    look: Look[Found],
    hands: int = HANDS,
) -> Iterator[Found]:
    """What `look` makes of each stretch; what it returns and raises must be picklable.

    `reader` reads the first stretch, and a short PDF alone. Two others, each with a share of the
    memory that this process may take, read the rest of a long one.
    """
    hands = min(hands, len(os.sched_getaffinity(0)))
    alone = len(stretches) if hands < 2 or len(stretches) < _LEAST_STRETCHES else 1
    for number, pages in enumerate(stretches[:alone], 1):
        yield look(reader, number, pages)
    if alone == len(stretches):
        return
    begin = (path, reader.name, look, hands, reader.processor_seconds)
    with ProcessPoolExecutor(hands, get_context("fork"), _Hand.begin, begin) as pool:
        yield from pool.map(_Hand.read, range(alone + 1, len(stretches) + 1), stretches[alone:])


class _Hand:
    """What one of the processes holds until it ends: the PDF, opened again."""

    look: ClassVar[Look[Any]]
    reader: ClassVar[PageReader]
    opened: ClassVar = ExitStack()

    @classmethod
    def begin(
        cls, path: Path, name: str, look: Look[Any], hands: int, seconds: float | None
    ) -> None:
        """Opens the PDF."""
        _, most = resource.getrlimit(resource.RLIMIT_AS)
        if most != resource.RLIM_INFINITY:
            resource.setrlimit(resource.RLIMIT_AS, (most // hands, most // hands))
        die_with_parent()
        # Whoever waits for the first process's words is not to wait for this one.
        with Path(os.devnull).open("w") as nothing:
            os.dup2(nothing.fileno(), sys.stdout.fileno())
        pdf = cls.opened.enter_context(opened_pdf(path, name))
        cls.reader = PageReader(pdf, name, seconds)
        cls.look = look

    @classmethod
    def read(cls, number: int, pages: range) -> Any:
        """Reads a stretch."""
        return cls.look(cls.reader, number, pages)
