"""The log: one line for each request and each task, with its id, person, area and time."""

import json
import logging
import time
from collections.abc import Iterator
from contextlib import contextmanager

from harnet.studio.common.configuration import log_level

NOBODY = "-"
"""Stands for the person where nobody signed in."""
_log = logging.getLogger("harnet")


def configure_logging() -> None:
    """Sends the log to standard error; HARNET_LOG names the least level, info without it."""
    logging.basicConfig(
        level=logging.WARNING, format="%(asctime)s %(levelname)s %(name)s: %(message)s"
    )
    _log.setLevel(log_level())


@contextmanager
def logged_task(task_id: str, person: str, area: str, name: str, what: str) -> Iterator[None]:
    """One line for a task once it ends, and how; what it raises goes on to the caller.

    `person` is whoever asked for it, `area` the queue that it came from, `what` the row that it
    worked on.
    """
    begun = time.perf_counter()
    outcome = "failed"
    try:
        yield
        outcome = "done"
    finally:
        ms = 1000 * (time.perf_counter() - begun)
        line = "task id=%s person=%s area=%s %s %s %s in %.0f ms"
        _log.info(line, task_id, _quoted(person), area, name, what, outcome, ms)


def log_request(
    request_id: str, person: str, area: str, what: str, status: int, begun: float
) -> None:
    """One line for a request; `what` is its method and path, `begun` by `time.perf_counter`."""
    ms = 1000 * (time.perf_counter() - begun)
    line = "request id=%s person=%s area=%s %s %d in %.0f ms"
    _log.info(line, request_id, _quoted(person), area, what, status, ms)


def _quoted(person: str) -> str:
    """A name as one word of the log."""
    return json.dumps(person) if " " in person or '"' in person else person or NOBODY
