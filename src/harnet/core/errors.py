"""The root of Harnet's errors, and the one error of the core."""

from typing import ClassVar


class HarnetError(Exception):
    """Something that cannot be done, in a sentence for the person who asked for it.

    Whoever has to tell errors apart goes by the class, or by its `code`, which stays the same in
    every version; the API gives it as a problem's `type`, the command in its JSON. Never by the
    sentence.
    """

    code: ClassVar[str] = "error"


class ValueOutOfRange(HarnetError, ValueError):
    """A figure that no page, picture or target can have; give one within the bounds it names.

    The text begins in lower case: it is a part of a sentence.
    """

    code = "out-of-range"
