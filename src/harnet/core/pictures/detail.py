"""How much of a picture's pixel count carries detail."""

from dataclasses import dataclass

from harnet.core.measure.wording import grouped

MUCH_LOWER_BELOW = 0.55
"""Common practice, no source: when little more than half of the pixels along an edge carry
detail, a picture was enlarged or is out of focus, and prints softer than its density says."""
SURE_FROM = 0.5
_HIGH_CONFIDENCE, _MEDIUM_CONFIDENCE = 0.75, 0.4
"""Common practice, no source: the shares from which an estimate is called high or medium."""


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

    @property
    def confidence_text(self) -> str:
        """The confidence in words."""
        if self.confidence >= _HIGH_CONFIDENCE:
            return "high confidence"
        return "medium confidence" if self.confidence >= _MEDIUM_CONFIDENCE else "low confidence"

    def words(self, px_w: int) -> str:
        """What a picture of that width promises and what it holds."""
        return (
            f"{grouped(px_w)} px wide, detail of about {grouped(self.pixels(px_w))}"
            f" ({self.confidence_text})"
        )

    def pixels(self, px: int) -> int:
        """The pixels along an edge that the detail would fill, to two digits."""
        exact = px * self.share
        digits = max(0, len(str(int(exact))) - 2)
        step = int(10**digits)
        return max(1, round(exact / step) * step)
