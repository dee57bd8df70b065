"""An image as one page of a PDF paints it."""

from dataclasses import dataclass

from harnet.core.measure.density import EffectiveDensity, effective_density
from harnet.core.measure.geometry import Matrix
from harnet.core.pictures.picture import Colour
from harnet.media.pdf.walking.image_facts import ImageFacts


@dataclass(frozen=True, slots=True, kw_only=True)
class ImageOccurrence:
    """One image as one page paints it; `matrix` maps the unit square to points, y upwards.

    `unseen` says why it not visible, empty where it can; `source` is page, glyph or annotation.
    """

    page_number: int
    facts: ImageFacts
    matrix: Matrix
    unseen: str = ""
    source: str = "page"

    @property
    def px_w(self) -> int:
        """Pixels across."""
        return self.facts.px_w

    @property
    def px_h(self) -> int:
        """Pixels down."""
        return self.facts.px_h

    @property
    def colour(self) -> Colour:
        """The colour model of its samples."""
        return self.facts.colour

    @property
    def bits(self) -> int:
        """Bits a channel."""
        return self.facts.bits

    @property
    def density(self) -> EffectiveDensity:
        """The effective density in ppi."""
        return effective_density(self.px_w, self.px_h, self.matrix)

    @property
    def width_pt(self) -> float:
        """Length of its lower edge on the page."""
        return self.matrix.u_length

    @property
    def height_pt(self) -> float:
        """Length of its side edge on the page."""
        return self.matrix.v_length
