"""Work on an untrusted file in a process of its own, with bounds on memory, time and disk.

A decoder that runs away or crashes takes that process down and nothing else. The work is a module
with a function `work(order, tell)`: it takes plain values, returns plain values, raises
UnreadableFile, and may tell values as it goes on, such as how far it is in percent. The process
knows nothing of the database, and dies with whoever began it; `harnet.media.forking` starts it.
"""

import json
import logging
import os
import select
import signal
import tempfile
import time
from collections.abc import Callable, Iterator
from contextlib import suppress
from typing import IO, Any

from harnet.media.errors import BeyondBounds, OwnFault, UnreadableFile
from harnet.media.forking import Bounds, started

Order = dict[str, Any]
Told = int | list[Any]
Tell = Callable[[Any], None]

_log = logging.getLogger(__name__)
_FILE_BYTES = 20_000_000_000
_LOOKS_UP_SECONDS = 0.5
_LOGGED_BYTES = 4000


def work_apart(
    module: str,
    order: Order,
    *,
    name: str,
    seconds: float,
    memory_bytes: int,
    tell: Tell | None = None,
    look_up: Callable[[], None] | None = None,
    file_bytes: int = _FILE_BYTES,
    processor_seconds: float | None = None,
) -> Order:
    """Runs `module.work` in a process of its own and returns its answer; `name` is the file's.

    Whatever `tell` or `look_up` raises ends the process and goes on to the caller: so work is
    cancelled. `look_up` is called twice a second while there is nothing to hear. `memory_bytes`
    bounds the address space, to which shared libraries and mapped files count; `file_bytes` any
    file that is written; `processor_seconds` the work, where that is not to be four times the wait.

    Raises:
        UnreadableFile: the work raised it, took too long, or was brought down.
        OwnFault: the work failed by a fault that is not the file's; the log has it.
        BeyondBounds: it took more time or memory than it may.
    """
    processor = 4 * seconds if processor_seconds is None else processor_seconds
    bounds = Bounds(memory_bytes, file_bytes, max(1, round(processor)))
    with tempfile.TemporaryFile() as said_wrong, started(module, bounds, said_wrong) as process:
        answer: Order | None = None
        is_late = False
        try:
            with suppress(BrokenPipeError):
                process.said_to_it.write(json.dumps(order).encode() + b"\n")
                process.said_to_it.flush()
            for line in _lines(process.says, time.monotonic() + seconds, look_up):
                message = json.loads(line)
                if isinstance(message, dict):
                    answer = message
                elif tell is not None:
                    tell(message)
        except TimeoutError:
            is_late = True
        except (ValueError, BrokenPipeError):
            answer = None
        finally:
            if answer is None:
                process.end()
            code = process.wait()
        if answer is None or "fault" in answer:
            _log_end(said_wrong, module, name, code)
    if is_late or (answer is None and code == -signal.SIGXCPU):
        most = seconds if is_late else processor
        raise BeyondBounds(
            name, f"reading it took longer than {most:g} seconds", "Save it again in a simpler form"
        )
    if answer is None:
        raise BeyondBounds(name, "its content made the decoder crash", "Save it again")
    if "fault" in answer:
        raise OwnFault(name)
    if "beyond" in answer:
        raise BeyondBounds(name, answer["reason"], answer["advice"])
    if "reason" in answer:
        raise UnreadableFile(name, answer["reason"], answer["advice"])
    return answer


def _lines(stream: IO[bytes], until: float, look_up: Callable[[], None] | None) -> Iterator[bytes]:
    """Lines as they come.

    Raises:
        TimeoutError: the end does not come in time.
    """
    pending = b""
    while True:
        left = until - time.monotonic()
        if left <= 0:
            raise TimeoutError
        wait = min(left, _LOOKS_UP_SECONDS) if look_up is not None else left
        ready, _, _ = select.select([stream], [], [], wait)
        if not ready:
            if look_up is not None:
                look_up()
            continue
        block = os.read(stream.fileno(), 1 << 16)
        if not block:
            if pending:
                yield pending
            return
        *lines, pending = (pending + block).split(b"\n")
        yield from lines


def _log_end(said_wrong: IO[bytes], module: str, name: str, code: int | None) -> None:
    """Puts the end of what the process said on its error output into the log."""
    size = said_wrong.seek(0, os.SEEK_END)
    said_wrong.seek(max(0, size - _LOGGED_BYTES))
    words = said_wrong.read().decode("utf-8", "replace").strip()
    _log.warning("%s on %r ended with %s: %s", module, name, code, words or "nothing said")
