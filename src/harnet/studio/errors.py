"""Errors of the use cases; each is a sentence for the designer."""


class Refused(Exception):
    """What was asked cannot be done; the text says what happened, what was kept, what to do."""


class NotThere(Exception):
    """The job, page, item or picture asked for does not exist, or no longer."""


class Conflict(Exception):
    """Somebody changed the same thing meanwhile; nothing of this change was kept."""


def sentence_of(error: Exception) -> str:
    """An error of the core, which begins in the middle, as a sentence."""
    text = str(error)
    return f"{text[0].upper()}{text[1:]}."
