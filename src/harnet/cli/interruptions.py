"""Commands that are interrupted: nothing half done stays, and the exit code says so."""

import signal
import sys
from collections.abc import Iterator
from contextlib import contextmanager
from typing import NoReturn

_BY_SIGNAL = 128
"""A shell gives a command that a signal ended this and the signal's number (POSIX, 2.8.2)."""


@contextmanager
def interruptible() -> Iterator[None]:
    """Ends what is within on a signal as on an error, so that temporary files go.

    Raises:
        SystemExit: a signal came; its code is 130 for Ctrl-C and 143 for SIGTERM.
    """
    before = {
        number: signal.signal(number, _end)
        for number in (signal.SIGINT, signal.SIGTERM, signal.SIGHUP)
    }
    try:
        yield
    finally:
        for number, handler in before.items():
            signal.signal(number, handler)


def _end(number: int, _frame: object) -> NoReturn:
    sys.exit(_BY_SIGNAL + number)
