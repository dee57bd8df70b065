"""What people are to a studio, and so what they may do."""

from enum import Enum


class Role(Enum):
    """From the least to the most; each may do what those before it may."""

    REVIEWER = "reviewer"
    """Reads, comments, and accepts findings where that is allowed."""
    DESIGNER = "designer"
    """Does everything with jobs, pictures and documents."""
    OWNER = "owner"
    """Also looks after people, targets, watched folders and everybody's tokens."""

    @property
    def rank(self) -> int:
        """Its place among the roles, 0 being the least."""
        return list(Role).index(self)

    @property
    def meaning(self) -> str:
        """What someone with this role may do, as a part of a sentence."""
        return _MEANINGS[self]

    def includes(self, other: "Role") -> bool:
        """Whether whoever has this role may do what the other may."""
        return self.rank >= other.rank


_MEANINGS = {
    Role.REVIEWER: "reads and comments; accepts findings where a job or document allows it",
    Role.DESIGNER: "works on jobs, pictures and documents, and exports",
    Role.OWNER: "also looks after people, targets, watched folders and all tokens",
}
