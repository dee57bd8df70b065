"""Errors of reading and writing files; each is a sentence for the person who gave the file."""


class UnreadableFile(Exception):
    """A file that cannot be used: which one, what is wrong, what to do."""

    def __init__(self, name: str, trouble: str, advice: str = "") -> None:
        self.name = name
        self.trouble = trouble
        self.advice = advice
        sentence = f"{name}: {trouble}."
        super().__init__(f"{sentence} {advice}." if advice else sentence)

    def __reduce__(self) -> tuple[type["UnreadableFile"], tuple[str, str, str]]:
        """How it goes from one process to another."""
        return UnreadableFile, (self.name, self.trouble, self.advice)


class BeyondBounds(UnreadableFile):
    """A file took more time or memory than it may, or brought its reader down."""

    def __reduce__(self) -> tuple[type["BeyondBounds"], tuple[str, str, str]]:
        """How it goes from one process to another."""
        return BeyondBounds, (self.name, self.trouble, self.advice)


class TooLarge(Exception):
    """What was to be made does not fit its limit; the text is a sentence for the designer."""


class ChangedFile(UnreadableFile):
    """A picture's file is no longer the one that was judged."""

    def __init__(self, name: str) -> None:
        super().__init__(name, "its file changed after it was judged", "Update or relink it")

    def __reduce__(self) -> tuple[type["ChangedFile"], tuple[str]]:  # type: ignore[override]
        """How it goes from one process to another."""
        return ChangedFile, (self.name,)


class OwnFault(UnreadableFile):
    """A file that Harnet failed on for a reason of its own; the log has the rest."""

    def __init__(self, name: str) -> None:
        super().__init__(
            name,
            "Harnet failed on this file through a fault of its own",
            "Please report it; the log has the details",
        )

    def __reduce__(self) -> tuple[type["OwnFault"], tuple[str]]:  # type: ignore[override]
        """How it goes from one process to another."""
        return OwnFault, (self.name,)
