"""How much of a picture's pixel count carries detail."""

from dataclasses import dataclass

MUCH_LOWER_BELOW = 0.55
"""Common practice, no source: when little more than half of the pixels along an edge carry
detail, a picture was enlarged or is out of focus, and prints softer than its density says."""
SURE_FROM = 0.5


@dataclass(frozen=True, slots=True)
class Detail:
    """An estimate: the share of pixels along an edge that carry detail, and how sure it is (0–1).

    A share of 0.25 is a picture that looks enlarged fourfold. Smooth subjects, such as fog, give
    little to judge by; `confidence` is low then.
    """

    share: float
    confidence: float

    @property
    def is_much_lower(self) -> bool:
        """Whether the pixels promise more than the picture holds, and that is rather sure."""
        return self.share < MUCH_LOWER_BELOW and self.confidence >= SURE_FROM

    def pixels(self, px: int) -> int:
        """The pixels along an edge that the detail would fill, to two digits."""
        exact = px * self.share
        digits = max(0, len(str(int(exact))) - 2)
        step = int(10**digits)
        return max(1, round(exact / step) * step)
