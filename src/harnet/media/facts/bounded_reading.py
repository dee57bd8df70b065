"""Facts of untrusted files, read in a process of its own; one bad file takes no other along."""

import resource
import time
from collections.abc import Iterator, Sequence
from pathlib import Path
from typing import Any

from harnet.core.pictures.picture import Facts, facts_as_values, facts_from_values
from harnet.media.beginning import require_file
from harnet.media.bounded import Order, Tell, work_apart
from harnet.media.errors import UnreadableFile
from harnet.media.facts.read import facts_of

FACTS_SECONDS, FACTS_MEMORY_BYTES = 10.0, 1_500_000_000
"""Processor time and address space for one file; libraries take a third of the latter."""
Answer = Facts | UnreadableFile


class _TooSlow(Exception):
    """A file has kept the process for longer than it may."""


def facts_apart(path: Path, name: str, patience: float = 1.0) -> Facts:
    """What a file's header says, read apart.

    Raises:
        UnreadableFile: no usable picture, or more than the bounds allow; these grow with
            `patience`.
    """
    [answer] = facts_of_each([path], [name], patience)
    if isinstance(answer, UnreadableFile):
        raise answer
    return answer


def facts_of_each(
    paths: Sequence[Path], names: Sequence[str] | None = None, patience: float = 1.0
) -> Iterator[Answer]:
    """The facts of each file in turn, or what is wrong with it.

    One process reads them all; where a file brings it down, another goes on behind that file.
    """
    called = [str(path) for path in paths] if names is None else list(names)
    seconds, memory = FACTS_SECONDS * patience, round(FACTS_MEMORY_BYTES * patience)
    first = 0
    while first < len(paths):
        reader = _Reader(paths[first:], called[first:], seconds, memory)
        yield from reader.answers()
        first += len(reader.found)


class _Reader:
    """One process, and what it has told so far: an answer for each file it came to."""

    def __init__(
        self, paths: Sequence[Path], names: Sequence[str], seconds: float, memory: int
    ) -> None:
        self.found: list[Answer] = []
        self._files = [[str(path), name] for path, name in zip(paths, names, strict=True)]
        self._seconds, self._memory = seconds, memory
        self._heard = time.monotonic()

    def answers(self) -> list[Answer]:
        """The answers up to the file that brings the process down, that one's included."""
        try:
            work_apart(
                "harnet.media.facts.bounded_reading",
                {"files": self._files, "seconds": self._seconds},
                name=self._files[0][1],
                seconds=4 * self._seconds * len(self._files),
                memory_bytes=self._memory,
                tell=self._take,
                look_up=self._look_up,
            )
        except _TooSlow:
            self._stopped_by(f"longer than {3 * self._seconds:g} seconds")
        except UnreadableFile:
            self._stopped_by(f"more than {self._seconds:g} seconds or {self._memory // 10**6} MB")
        return self.found

    def _take(self, message: list[Any]) -> None:
        self._heard = time.monotonic()
        kind, value = message
        if kind == "facts":
            self.found.append(facts_from_values(value))
        else:
            self.found.append(UnreadableFile(self._files[len(self.found)][1], *value))

    def _look_up(self) -> None:
        # Reading that waits, on a device or a network, takes no processor time.
        if time.monotonic() - self._heard > 3 * self._seconds:
            raise _TooSlow

    def _stopped_by(self, what: str) -> None:
        if len(self.found) < len(self._files):
            self.found.append(_too_much(self._files[len(self.found)][1], what))


def _too_much(name: str, what: str) -> UnreadableFile:
    return UnreadableFile(name, f"reading it takes {what}", "Save it again in a simpler form")


def work(order: Order, tell: Tell) -> Order:
    """What happens in the process: see `harnet.media.bounded`."""
    for path, name in order["files"]:
        spent = resource.getrusage(resource.RUSAGE_SELF)
        used = spent.ru_utime + spent.ru_stime
        _, hard = resource.getrlimit(resource.RLIMIT_CPU)
        soft = round(used + order["seconds"] + 1)
        resource.setrlimit(resource.RLIMIT_CPU, (min(soft, hard), hard))
        try:
            require_file(Path(path), name)
            tell(["facts", facts_as_values(facts_of(Path(path), name))])
        except UnreadableFile as error:
            tell(["unreadable", [error.reason, error.advice]])
        except MemoryError:
            tell(
                [
                    "unreadable",
                    ["reading it takes more memory than it may", "Save it again in a simpler form"],
                ]
            )
        except Exception as error:
            # Whatever a reader raises on an untrusted file is the file's, not the others'.
            what = f"its header is invalid ({type(error).__name__})"
            tell(["unreadable", [what, "Download or export it again"]])
    return {}
