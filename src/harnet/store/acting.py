"""Who is at work: every row that is made says so, and every transaction can tell it."""

from collections.abc import Iterator
from contextlib import contextmanager
from contextvars import ContextVar
from dataclasses import dataclass, replace

LONGEST_NAME = 120


@dataclass(frozen=True, slots=True, kw_only=True)
class Actor:
    """Whoever works: their name, their number if they signed in, and which groups' things they see.

    `groups` is None for someone who sees everything. `doing` says in the past tense what the
    transaction is for; with it, whatever is written is told in the activity, about the job or the
    document of that number.
    """

    name: str = ""
    person_id: int | None = None
    groups: frozenset[int] | None = None
    doing: str = ""
    job_id: int | None = None
    document_id: int | None = None


_NOBODY = Actor()
_acting: ContextVar[Actor] = ContextVar("acting", default=_NOBODY)


def actor() -> Actor:
    """Whoever is at work now; without a name where nobody said so."""
    return _acting.get()


def actor_name() -> str:
    """The name of whoever is at work, empty without."""
    return _acting.get().name


@contextmanager
def acting(who: Actor) -> Iterator[None]:
    """Whatever is done inside is done by `who`."""
    token = _acting.set(who)
    try:
        yield
    finally:
        _acting.reset(token)


def act(who: Actor) -> None:
    """From here on `who` is at work in this context: for a request, which ends with its thread."""
    _acting.set(who)


def named(name: str) -> Actor:
    """Someone who sees everything, by name: a command, or the worker for whoever asked for it."""
    return replace(_NOBODY, name=name[:LONGEST_NAME])
