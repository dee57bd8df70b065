"""The one error of the core: a value that cannot be computed with."""


class ValueOutOfRange(ValueError):
    """A figure was given that no page, picture or target can have; the text says which."""
