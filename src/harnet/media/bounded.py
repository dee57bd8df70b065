"""Work on a stranger's file in a process of its own, with bounds on memory and time.

A decoder that runs away or crashes takes that process down and nothing else. The work is a module
with a function `work(order, tell)`: it takes plain values, returns plain values, raises
UnreadableFile, and may tell numbers as it goes on, such as how far it is in percent.
"""

import gc
import importlib
import json
import os
import resource
import signal
import subprocess
import sys
import threading
from collections.abc import Callable
from contextlib import suppress
from typing import Any

from harnet.media.errors import UnreadableFile

Order = dict[str, Any]
Tell = Callable[[int], None]


def work_apart(
    module: str,
    order: Order,
    *,
    name: str,
    seconds: int,
    memory_bytes: int,
    tell: Tell | None = None,
) -> Order:
    """Runs `module.work` in a process of its own and returns its answer; `name` is the file's.

    Whatever `tell` raises ends the process and goes on to the caller: so work is cancelled.
    `memory_bytes` bounds the address space, to which shared libraries and mapped files count.

    Raises:
        UnreadableFile: the work raised it, took too long, or was brought down.
    """
    command = [sys.executable, "-m", "harnet.media.bounded", module, str(seconds)]
    command.append(str(memory_bytes))
    with subprocess.Popen(
        command,
        stdin=subprocess.PIPE,
        stdout=subprocess.PIPE,
        stderr=subprocess.DEVNULL,
        text=True,
        start_new_session=True,
    ) as process:
        assert process.stdin is not None and process.stdout is not None
        is_late = threading.Event()

        def stop() -> None:
            is_late.set()
            _end(process)

        clock = threading.Timer(seconds, stop)
        clock.start()
        answer: Order | None = None
        try:
            json.dump(order, process.stdin)
            process.stdin.close()
            for line in process.stdout:
                said = json.loads(line)
                if isinstance(said, int):
                    if tell is not None:
                        tell(said)
                else:
                    answer = said
        except (ValueError, BrokenPipeError):
            answer = None
        finally:
            clock.cancel()
            if answer is None:
                _end(process)
    if is_late.is_set():
        raise UnreadableFile(
            name, f"reading it took longer than {seconds} seconds", "Save it anew, simpler"
        )
    if answer is None:
        raise UnreadableFile(
            name, "its content brought the decoder down", "Save it anew in another format"
        )
    if "trouble" in answer:
        raise UnreadableFile(name, answer["trouble"], answer["advice"])
    return answer


def _end(process: subprocess.Popen[str]) -> None:
    """Ends the process with those that it began; it leads a session of its own."""
    with suppress(ProcessLookupError):
        os.killpg(process.pid, signal.SIGKILL)


def _main(module: str, seconds: int, memory_bytes: int) -> None:
    resource.setrlimit(resource.RLIMIT_AS, (memory_bytes, memory_bytes))
    resource.setrlimit(resource.RLIMIT_CPU, (4 * seconds, 4 * seconds))
    order = json.load(sys.stdin)
    work = importlib.import_module(module).work
    # What was imported is no garbage: a collector that looks through it takes a tenth of the time.
    gc.freeze()
    try:
        answer = work(order, lambda number: print(int(number), flush=True))
    except UnreadableFile as error:
        answer = {"trouble": error.trouble, "advice": error.advice}
    print(json.dumps(answer), flush=True)


if __name__ == "__main__":
    _main(sys.argv[1], int(sys.argv[2]), int(sys.argv[3]))
