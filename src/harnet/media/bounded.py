"""Work on a stranger's file in a process of its own, with bounds on memory, time and disk.

A decoder that runs away or crashes takes that process down and nothing else. The work is a module
with a function `work(order, tell)`: it takes plain values, returns plain values, raises
UnreadableFile, and may tell values as it goes on, such as how far it is in percent. The process
knows nothing of the database, and dies with whoever began it.
"""

import ctypes
import gc
import importlib
import json
import logging
import os
import resource
import select
import signal
import subprocess
import sys
import tempfile
import threading
import time
import traceback
from collections.abc import Callable, Iterator
from contextlib import suppress
from typing import IO, Any

from harnet.media.errors import BeyondBounds, OwnFault, UnreadableFile

Order = dict[str, Any]
Told = int | list[Any]
Tell = Callable[[Any], None]

_log = logging.getLogger(__name__)
_PASSED_ON = ("PATH", "HOME", "LANG", "LC_ALL", "TZ", "TMPDIR", "PYTHONPATH", "VIRTUAL_ENV")
"""What the process learns of its surroundings; nothing else, and no secret."""
_FILE_BYTES = 20_000_000_000
_LOOKS_UP_SECONDS = 0.5
_LOGGED_BYTES = 4000
_PR_SET_PDEATHSIG = 1
"""linux/prctl.h."""


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
    """
    command = [sys.executable, "-m", "harnet.media.bounded", module]
    processor = 4 * seconds if processor_seconds is None else processor_seconds
    command += [str(memory_bytes), str(file_bytes), str(max(1, round(processor)))]
    surroundings = {key: os.environ[key] for key in _PASSED_ON if key in os.environ}
    with (
        tempfile.TemporaryFile() as said_wrong,
        subprocess.Popen(
            command,
            stdin=subprocess.PIPE,
            stdout=subprocess.PIPE,
            stderr=said_wrong,
            env=surroundings,
            start_new_session=True,
        ) as process,
    ):
        answer: Order | None = None
        is_late = False
        try:
            assert process.stdin is not None and process.stdout is not None
            with suppress(BrokenPipeError):
                process.stdin.write(json.dumps(order).encode() + b"\n")
                process.stdin.flush()
            for line in _lines(process.stdout, time.monotonic() + seconds, look_up):
                said = json.loads(line)
                if isinstance(said, dict):
                    answer = said
                elif tell is not None:
                    tell(said)
        except TimeoutError:
            is_late = True
        except (ValueError, BrokenPipeError):
            answer = None
        finally:
            if answer is None:
                _end(process)
            with suppress(BrokenPipeError):
                process.stdin.close()  # type: ignore[union-attr]
        if answer is None or "fault" in answer:
            process.wait()
            _log_end(said_wrong, module, name, process.returncode)
    if is_late or (answer is None and process.returncode == -signal.SIGXCPU):
        most = seconds if is_late else processor
        raise BeyondBounds(
            name, f"reading it took longer than {most:g} seconds", "Save it anew, simpler"
        )
    if answer is None:
        raise BeyondBounds(name, "its content brought the decoder down", "Save it anew")
    if "fault" in answer:
        raise OwnFault(name)
    if "beyond" in answer:
        raise BeyondBounds(name, answer["trouble"], answer["advice"])
    if "trouble" in answer:
        raise UnreadableFile(name, answer["trouble"], answer["advice"])
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


def _end(process: subprocess.Popen[bytes]) -> None:
    """Ends the process with those that it began; it leads a session of its own."""
    with suppress(ProcessLookupError):
        os.killpg(process.pid, signal.SIGKILL)


def _log_end(said_wrong: IO[bytes], module: str, name: str, code: int | None) -> None:
    """Puts the end of what the process said on its error output into the log."""
    size = said_wrong.seek(0, os.SEEK_END)
    said_wrong.seek(max(0, size - _LOGGED_BYTES))
    words = said_wrong.read().decode("utf-8", "replace").strip()
    _log.warning("%s on %r ended with %s: %s", module, name, code, words or "nothing said")


def die_with_parent() -> None:
    """Has this process killed when the one that began it ends, however that ends."""
    if sys.platform == "linux":
        libc = ctypes.CDLL(None, use_errno=True)
        libc.prctl(_PR_SET_PDEATHSIG, signal.SIGKILL, 0, 0, 0)
        return
    threading.Thread(target=_wait_for_end, daemon=True).start()


def _wait_for_end() -> None:
    """Ends this process and those it began once its input is closed by the other side."""
    with suppress(OSError):
        while os.read(0, 1 << 16):
            pass
    os.killpg(0, signal.SIGKILL)


def _main(module: str, memory_bytes: int, file_bytes: int, processor: int) -> None:
    die_with_parent()
    resource.setrlimit(resource.RLIMIT_AS, (memory_bytes, memory_bytes))
    resource.setrlimit(resource.RLIMIT_FSIZE, (file_bytes, file_bytes))
    resource.setrlimit(resource.RLIMIT_CORE, (0, 0))
    resource.setrlimit(resource.RLIMIT_CPU, (processor, processor + 5))
    order = json.loads(sys.stdin.readline())
    try:
        work = importlib.import_module(module).work
        # What was imported is no garbage: a collector that looks through it takes a tenth of the
        # time.
        gc.freeze()
        answer = work(order, lambda value: print(json.dumps(value), flush=True))
    except UnreadableFile as error:
        answer = {"trouble": error.trouble, "advice": error.advice}
    except MemoryError:
        answer = {
            "beyond": True,
            "trouble": f"reading it takes more than {memory_bytes // 1_000_000} MB of memory",
            "advice": "Save it anew, simpler",
        }
    except Exception:
        traceback.print_exc()
        answer = {"fault": True}
    print(json.dumps(answer), flush=True)


if __name__ == "__main__":
    _main(sys.argv[1], *map(int, sys.argv[2:5]))
