"""Tasks: what the web has done in the background, as objects that know their queue."""

from collections.abc import Callable
from dataclasses import dataclass
from typing import Any, Protocol

from harnet.store.tables.work import BackgroundWork


class Queue(Protocol):
    """What is needed of the work queue."""

    def configure_task(self, name: str, *, queue: str) -> Any:
        """A task by its name, ready to be deferred."""


@dataclass(frozen=True, slots=True, kw_only=True)
class Task:
    """A task: `run` takes the studio and the arguments that it was deferred with, by name.

    A task with a `model` does the work of one row of it: its argument is `row_id`. A row that
    waits without a task in the queue is queued again.
    """

    name: str
    queue: str
    run: Callable[..., None]
    model: type[BackgroundWork] | None = None
    cron: str = ""
    """When it is done by itself."""
    lock: str | None = None
    """Two tasks of one lock are not done at once."""
    queueing_lock: str | None = None
    """Two tasks of one lock do not wait at once: the second is refused as it is queued."""

    def defer(self, app: Queue, **arguments: Any) -> None:
        """Puts the task into the queue."""
        app.configure_task(self.name, queue=self.queue).defer(**arguments)
