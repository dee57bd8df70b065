"""Errors of the use cases; each is a sentence for the designer."""

from pydantic import ValidationError

from harnet.core.errors import HarnetError


class Refused(HarnetError):
    """The request is understood and cannot be done; the text says why, and what to do instead."""

    code = "refused"


class GateHeld(Refused):
    """Findings block the PDF; fix or accept them, or give a reason and a name to export anyway."""

    code = "gate-held"


class NotThere(HarnetError):
    """The job, page, item or picture asked for does not exist, or no longer; look for another."""

    code = "not-found"


class NotSignedIn(HarnetError):
    """Only people who signed in may do this; sign in and try again."""

    code = "not-signed-in"


class NotAllowed(HarnetError):
    """Whoever asks may not do this; the text says who may."""

    code = "not-allowed"


class Conflict(HarnetError):
    """Someone else changed the same thing in the meantime; nothing was changed. Read it again."""

    code = "conflict"


def place_and_fault(error: ValidationError) -> str:
    """Where a file does not keep to its form, and how: the first fault, in the middle of a
    sentence.
    """
    first = error.errors()[0]
    place = " → ".join(str(part) for part in first["loc"]) or "the file as a whole"
    message = first["msg"].removeprefix("Value error, ").rstrip(".")
    return f"at {place}: {message[0].lower()}{message[1:]}"


def sentence_of(error: Exception) -> str:
    """An error of the core, which begins in the middle, as a sentence; a refusal is one already."""
    if isinstance(error, Refused):
        return str(error)
    text = str(error)
    return f"{text[0].upper()}{text[1:]}."
