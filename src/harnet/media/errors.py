"""Errors of reading and writing files; each is a sentence for the person who gave the file."""

from harnet.core.errors import HarnetError


class UnreadableFile(HarnetError):
    """A file that cannot be used: which one, the reason, and advice on what to do."""

    code = "unreadable-file"

    def __init__(self, name: str, reason: str, advice: str = "") -> None:
        self.name = name
        self.reason = reason
        self.advice = advice
        sentence = f"{name}: {reason}."
        super().__init__(f"{sentence} {advice}." if advice else sentence)

    def __reduce__(self) -> tuple[type["UnreadableFile"], tuple[str, ...]]:
        """How it goes from one process to another."""
        return type(self), (self.name, self.reason, self.advice)


class BeyondBounds(UnreadableFile):
    """A file took more time or memory than it may, or crashed its reader; simplify it."""

    code = "beyond-limits"


class TooLarge(HarnetError):
    """An output does not fit its limit; choose a lower density or a higher limit."""

    code = "too-large"


class ChangedFile(UnreadableFile):
    """A picture's file is no longer the one that was checked; update or relink it."""

    code = "file-changed"

    def __init__(self, name: str) -> None:
        super().__init__(name, "its file changed after it was checked", "Update or relink it")

    def __reduce__(self) -> tuple[type["ChangedFile"], tuple[str]]:
        """How it goes from one process to another."""
        return ChangedFile, (self.name,)


class OwnFault(UnreadableFile):
    """Harnet failed on a file through a fault of its own; report it, the log has the details."""

    code = "internal-error"

    def __init__(self, name: str) -> None:
        super().__init__(
            name,
            "Harnet failed on this file through a fault of its own",
            "Please report it; the log has the details",
        )

    def __reduce__(self) -> tuple[type["OwnFault"], tuple[str]]:
        """How it goes from one process to another."""
        return OwnFault, (self.name,)
