"""Errors of the use cases; each is a sentence for the designer."""

from pydantic import ValidationError


class Refused(Exception):
    """What was asked cannot be done; the text says what happened, what was kept, what to do."""


class NotThere(Exception):
    """The job, page, item or picture asked for does not exist, or no longer."""


class Conflict(Exception):
    """Somebody changed the same thing meanwhile; nothing of this change was kept."""


def place_and_fault(error: ValidationError) -> str:
    """Where a file does not keep to its form, and how: the first fault, in the middle of a
    sentence.
    """
    first = error.errors()[0]
    place = " → ".join(str(part) for part in first["loc"]) or "the file as a whole"
    said = first["msg"].removeprefix("Value error, ").rstrip(".")
    return f"at {place}: {said[0].lower()}{said[1:]}"


def sentence_of(error: Exception) -> str:
    """An error of the core, which begins in the middle, as a sentence."""
    text = str(error)
    return f"{text[0].upper()}{text[1:]}."
