"""Processes for work on untrusted files, forked from one that has imported the decoders already.

Starting Python and importing the decoders takes half a second, forking some milliseconds. So each
process that wants work done keeps one *server*, which imports what is asked for and nothing else:
it never reads an untrusted file, has no threads, and knows nothing of the database. It forks a
process for each piece of work. The server ends when the process that keeps it does, and what it
forked ends with it.
"""

import atexit
import ctypes
import errno
import gc
import importlib
import json
import os
import resource
import select
import signal
import socket
import subprocess
import sys
import threading
import traceback
from collections.abc import Iterator
from contextlib import contextmanager, suppress
from dataclasses import dataclass
from functools import partial
from typing import IO, Any, NoReturn

from harnet.media.errors import UnreadableFile

_PASSED_ON = ("PATH", "HOME", "LANG", "LC_ALL", "TZ", "TMPDIR", "PYTHONPATH", "VIRTUAL_ENV")
"""What the processes learn of their surroundings; nothing else, and no secret."""
_SINGLE = {"OPENBLAS_NUM_THREADS": "1", "OMP_NUM_THREADS": "1"}
"""numpy would begin threads as it is imported, and what has threads must not be forked."""
_MESSAGE_BYTES = 1 << 14
_FULL = frozenset({errno.ENOSPC, errno.EDQUOT})
_PR_SET_PDEATHSIG = 1
"""linux/prctl.h."""


@dataclass(frozen=True, slots=True)
class Bounds:
    """What a process may take: address space, the largest file it writes, processor time."""

    memory_bytes: int
    file_bytes: int
    processor_seconds: int


class Forked:
    """A process at work: its input, its output, and how it ended."""

    def __init__(self, to_it: int, from_it: int, status: int) -> None:
        self.said_to_it: IO[bytes] = os.fdopen(to_it, "wb")
        self.says: IO[bytes] = os.fdopen(from_it, "rb")
        self._status: IO[bytes] = os.fdopen(status, "rb")
        line = self._status.readline()
        self.pid = int(line) if line else None

    def end(self) -> None:
        """Ends the process with those that it began; it leads a session of its own."""
        if self.pid is not None:
            with suppress(ProcessLookupError):
                os.killpg(self.pid, signal.SIGKILL)

    def wait(self) -> int | None:
        """How it ended, as `subprocess` tells it; None where the server went before it."""
        self.close_input()
        line = self._status.readline()
        return int(line) if line else None

    def close_input(self) -> None:
        """Tells it that nothing more comes."""
        with suppress(BrokenPipeError):
            self.said_to_it.close()

    def close(self) -> None:
        """Lets go of its pipes."""
        self.close_input()
        self.says.close()
        self._status.close()


def prepare(module: str) -> None:
    """Has a module imported while this process does something else, so that work begins sooner."""
    with suppress(OSError):
        _server().send(json.dumps({"module": module}).encode(), [])


@contextmanager
def started(module: str, bounds: Bounds, error_output: IO[bytes]) -> Iterator[Forked]:
    """A process that does `module.work`: its order is a line of JSON, and so is all it says.

    Raises:
        OSError: no process can be begun here.
    """
    try:
        forked = _forked(module, bounds, error_output)
    except _Gone as gone:
        # The server was ended by someone; another one is begun, once.
        _forget(gone.server)
        forked = _forked(module, bounds, error_output)
    try:
        yield forked
    finally:
        forked.close()


def _forked(module: str, bounds: Bounds, error_output: IO[bytes]) -> Forked:
    theirs_in, to_it = os.pipe()
    from_it, theirs_out = os.pipe()
    status, theirs_status = os.pipe()
    theirs = [theirs_in, theirs_out, error_output.fileno(), theirs_status]
    bounded = [bounds.memory_bytes, bounds.file_bytes, bounds.processor_seconds]
    message = json.dumps({"module": module, "bounds": bounded}).encode()
    server = _server()
    try:
        server.send(message, theirs)
    except (BrokenPipeError, ConnectionError):
        _close_all(to_it, from_it, status)
        raise _Gone(server) from None
    finally:
        _close_all(theirs_in, theirs_out, theirs_status)
    forked = Forked(to_it, from_it, status)
    if forked.pid is None:
        forked.close()
        raise _Gone(server)
    return forked


def _close_all(*descriptors: int) -> None:
    for number in descriptors:
        os.close(number)


class _Server:
    """The process that forks, as the one that keeps it sees it."""

    def __init__(self) -> None:
        ours, theirs = socket.socketpair(socket.AF_UNIX, socket.SOCK_SEQPACKET)
        surroundings = {key: os.environ[key] for key in _PASSED_ON if key in os.environ}
        with theirs:
            self._process = subprocess.Popen(
                [sys.executable, "-m", "harnet.media.forking"],
                stdin=theirs.fileno(),
                stdout=subprocess.DEVNULL,
                env=surroundings | _SINGLE,
                start_new_session=True,
            )
        self._channel = ours
        self.kept_by = os.getpid()

    def send(self, message: bytes, descriptors: list[int]) -> None:
        """Asks for a process, whose ends of the pipes go along; without them for an import."""
        if descriptors:
            socket.send_fds(self._channel, [message], descriptors)
        else:
            self._channel.send(message)

    def close(self) -> None:
        """Has it end, where this process keeps it; a fork of this process does not."""
        self._channel.close()
        if self.kept_by == os.getpid():
            # It may be importing still; it holds nothing that has to be finished.
            self._process.terminate()
            self._process.wait()


class _Gone(OSError):
    """The server ended before it forked what was asked for."""

    def __init__(self, server: _Server) -> None:
        super().__init__("the process that forks others is gone")
        self.server = server


_lock = threading.Lock()
_kept: list[_Server] = []


def _server() -> _Server:
    """The one that this process keeps; begun where there is none yet."""
    with _lock:
        if _kept and _kept[0].kept_by != os.getpid():
            _kept.pop().close()
        if not _kept:
            _kept.append(_Server())
        return _kept[0]


def _forget(server: _Server) -> None:
    """Lets go of a server that is gone; another thread may have begun the next one already."""
    with _lock:
        if server in _kept:
            _kept.remove(server)
            server.close()


@atexit.register
def _end_server() -> None:
    for server in tuple(_kept):
        _forget(server)


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


def _serve() -> None:
    """Forks a process for each message that brings pipes, until the channel is closed."""
    channel = socket.socket(fileno=os.dup(0))
    woken, wakes = os.pipe()
    os.set_blocking(woken, False)
    os.set_blocking(wakes, False)
    signal.signal(signal.SIGCHLD, lambda *_: None)
    signal.set_wakeup_fd(wakes, warn_on_full_buffer=False)
    at_work: dict[int, int] = {}
    while True:
        select.select([channel.fileno(), woken], [], [])
        with suppress(BlockingIOError):
            os.read(woken, 1 << 10)
        _tell_of_ended(at_work)
        if not select.select([channel], [], [], 0)[0]:
            continue
        message, descriptors, _, _ = socket.recv_fds(channel, _MESSAGE_BYTES, 4)
        if not message:
            return
        request = json.loads(message)
        # A module that cannot be imported fails in the process that wants it.
        with suppress(Exception):
            importlib.import_module(request["module"])
        if not descriptors:
            continue
        # What was imported is no garbage, and a collector that writes to it unshares its pages.
        gc.freeze()
        pid = os.fork()
        if not pid:
            signal.set_wakeup_fd(-1)
            signal.signal(signal.SIGCHLD, signal.SIG_DFL)
            _close_all(channel.fileno(), woken, wakes, *at_work.values())
            _begin(request["module"], Bounds(*request["bounds"]), descriptors)
        at_work[pid] = descriptors[3]
        _close_all(*descriptors[:3])
        _say(descriptors[3], pid)


def _tell_of_ended(at_work: dict[int, int]) -> None:
    while at_work:
        pid, status = os.waitpid(-1, os.WNOHANG)
        if not pid:
            return
        exit_pipe = at_work.pop(pid)
        _say(exit_pipe, os.waitstatus_to_exitcode(status))
        os.close(exit_pipe)


def _say(descriptor: int, figure: int) -> None:
    with suppress(BrokenPipeError):
        os.write(descriptor, b"%d\n" % figure)


def _begin(module: str, bounds: Bounds, descriptors: list[int]) -> NoReturn:
    """What a forked process does from here to its end."""
    code = 1
    try:
        os.setsid()
        for number, descriptor in enumerate(descriptors[:3]):
            os.dup2(descriptor, number)
        _close_all(*descriptors)
        _work(module, bounds)
        code = 0
    except BaseException:
        traceback.print_exc()
    finally:
        with suppress(BaseException):
            sys.stdout.flush()
            sys.stderr.flush()
        os._exit(code)


def _work(module: str, bounds: Bounds) -> None:
    die_with_parent()
    memory, file_bytes = bounds.memory_bytes, bounds.file_bytes
    processor = bounds.processor_seconds
    resource.setrlimit(resource.RLIMIT_AS, (memory, memory))
    resource.setrlimit(resource.RLIMIT_FSIZE, (file_bytes, file_bytes))
    resource.setrlimit(resource.RLIMIT_CORE, (0, 0))
    resource.setrlimit(resource.RLIMIT_CPU, (processor, processor + 5))
    order = json.loads(sys.stdin.readline())
    say = partial(print, flush=True)
    say(json.dumps(_answer(module, order, memory, lambda value: say(json.dumps(value)))))


def _answer(module: str, order: Any, memory_bytes: int, tell: Any) -> Any:
    try:
        return importlib.import_module(module).work(order, tell)
    except UnreadableFile as error:
        return {"reason": error.reason, "advice": error.advice}
    except MemoryError:
        return {
            "beyond": True,
            "reason": f"reading it takes more than {memory_bytes // 1_000_000} MB of memory",
            "advice": "Save it again in a simpler form",
        }
    except Exception as error:
        if isinstance(error, OSError) and error.errno in _FULL:
            return {
                "reason": "the disk is too full for what is made of it",
                "advice": "Free some space and try again",
            }
        traceback.print_exc()
        return {"fault": True}


if __name__ == "__main__":
    _serve()
