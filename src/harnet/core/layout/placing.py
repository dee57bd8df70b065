"""A picture in its frame on a page: the one geometry that everything else draws and measures.

The frame is an upright box turned about its middle. The content's scale is in points per pixel
(for a vector picture per point of its natural size), its offset runs from the frame's top left
corner to the picture's, in the frame's own axes.
"""

from dataclasses import dataclass, replace
from enum import Enum

from harnet.core.errors import ValueOutOfRange
from harnet.core.layout.shape import Outline, Shape, outline_of
from harnet.core.measure.density import (
    ASSUMED_DENSITY_PPI,
    EffectiveDensity,
    effective_density,
    evenness_of,
    is_uneven,
)
from harnet.core.measure.geometry import Box, Matrix, turned_about
from harnet.core.measure.units import POINTS_PER_INCH
from harnet.core.pictures.picture import Colour, Facts, InnerImage
from harnet.core.targets.target import Target

SMALLEST_FRAME_PT = 2.0
LARGEST_LENGTH_PT = 200_000.0
"""About 70 m, more than any banner; keeps a slip of the hand from making nonsense."""


@dataclass(frozen=True, slots=True, kw_only=True)
class Source:
    """What placing needs to know of a picture: its pixels and its density tag.

    A vector picture counts its natural size in points as pixels at 72 ppi.
    """

    px_w: float
    px_h: float
    tag_x: float | None = None
    tag_y: float | None = None
    is_vector: bool = False
    is_bilevel: bool = False
    images: tuple[InnerImage, ...] = ()
    """The raster images inside a vector picture."""

    @property
    def has_pixels(self) -> bool:
        """Whether there is anything whose density can be judged."""
        return not self.is_vector or bool(self.images)

    @property
    def native_x(self) -> float:
        """Native density across, in ppi; assumed 72 without a tag."""
        return self.tag_x or ASSUMED_DENSITY_PPI

    @property
    def native_y(self) -> float:
        """Native density down, in ppi; assumed 72 without a tag."""
        return self.tag_y or ASSUMED_DENSITY_PPI

    @property
    def has_tag(self) -> bool:
        """Whether the native density is stated rather than assumed."""
        return self.tag_x is not None and self.tag_y is not None

    @property
    def native_size_pt(self) -> tuple[float, float]:
        """Width and height at the native density."""
        return (
            POINTS_PER_INCH * self.px_w / self.native_x,
            POINTS_PER_INCH * self.px_h / self.native_y,
        )


def source_from(facts: Facts) -> Source:
    """What placing needs to know of a picture, from its facts."""
    if facts.px_w is None or facts.px_h is None:
        width, height = facts.width_pt or POINTS_PER_INCH, facts.height_pt or POINTS_PER_INCH
        return Source(px_w=width, px_h=height, is_vector=True, images=facts.images)
    is_bilevel = facts.colour is Colour.BILEVEL
    return Source(
        px_w=facts.px_w,
        px_h=facts.px_h,
        tag_x=facts.density_x,
        tag_y=facts.density_y,
        is_bilevel=is_bilevel,
    )


class Fit(Enum):
    """How a picture is put into a frame, in the words of CSS Images (object-fit)."""

    CONTAIN = "contain"
    """The whole picture is seen."""
    COVER = "cover"
    """The frame is covered, the rest is cropped."""
    NATIVE = "none"
    """The picture keeps its native size."""
    STRETCH = "fill"
    """Both edges match, even if that stretches the picture."""


class Adjusts(Enum):
    """What changes when a picture is scaled."""

    FRAME = "frame"
    """The frame follows the picture and shows the same part of it."""
    CROP = "crop"
    """The frame stays and shows more or less of the picture."""


class EvenBy(Enum):
    """Whose scale both axes take when a picture is evened out."""

    X = "x"
    Y = "y"
    MEAN = "mean"


@dataclass(frozen=True, slots=True)
class Content:
    """How the picture lies in its frame."""

    scale_x: float
    scale_y: float
    offset_x: float = 0.0
    offset_y: float = 0.0
    flip_h: bool = False
    flip_v: bool = False


@dataclass(frozen=True, slots=True, kw_only=True)
class Placement:
    """A picture, its frame and how it lies in it."""

    source: Source
    frame: Box
    content: Content
    rotation_deg: float = 0.0
    shape: Shape = Shape.RECTANGLE
    radius_pt: float = 0.0

    @property
    def outline(self) -> Outline:
        """The frame's outline on the page, which clips the picture."""
        return outline_of(self.frame, self.shape, self.radius_pt).mapped(self.turn)

    @property
    def drawn_size_pt(self) -> tuple[float, float]:
        """Width and height of the whole picture at its scale, cropped parts included."""
        return self.source.px_w * self.content.scale_x, self.source.px_h * self.content.scale_y

    @property
    def matrix(self) -> Matrix:
        """The map from the picture's unit square to the page."""
        width, height = self.drawn_size_pt
        content = self.content
        x, y = self.frame.x + content.offset_x, self.frame.y + content.offset_y
        across, left = (-width, x + width) if content.flip_h else (width, x)
        down, top = (-height, y + height) if content.flip_v else (height, y)
        upright = Matrix(across, 0, 0, down, left, top)
        return upright.then(self.turn) if self.rotation_deg else upright

    @property
    def turn(self) -> Matrix:
        """The frame's rotation about its middle."""
        return turned_about(self.rotation_deg, self.frame.centre)

    @property
    def corners(self) -> list[tuple[float, float]]:
        """The frame's corners on the page, clockwise from its own top left."""
        turn = self.turn
        return [turn.applied(x, y) for x, y in self.frame.corners()]

    @property
    def density(self) -> EffectiveDensity | None:
        """The effective density; of a vector picture that of the least dense image inside it.

        None for a vector picture without images. 1-bit images count where there are no others.
        """
        if not self.source.is_vector:
            return effective_density(int(self.source.px_w), int(self.source.px_h), self.matrix)
        found = self.inner_densities
        tones = [density for image, density in found if not image.is_bilevel]
        each = tones or [density for _, density in found]
        return min(each, key=lambda density: density.worst, default=None)

    @property
    def inner_densities(self) -> list[tuple[InnerImage, EffectiveDensity]]:
        """The images inside a vector picture, with their effective densities on the page."""
        source = self.source
        if not source.images:
            return []
        to_page = Matrix.scaling(1 / source.px_w, 1 / source.px_h).then(self.matrix)
        return [
            (one, effective_density(one.px_w, one.px_h, Matrix(*one.matrix).then(to_page)))
            for one in source.images
        ]

    def deciding_density(self, target: Target) -> tuple[EffectiveDensity, bool] | None:
        """The density that decides against a target, and whether it is that of 1-bit pixels.

        That of the image inside a vector picture that is farthest short of its own limits.
        """
        if not self.source.is_vector:
            density = self.density
            return None if density is None else (density, self.source.is_bilevel)
        judged = [(density, image.is_bilevel) for image, density in self.inner_densities]

        def headroom(one: tuple[EffectiveDensity, bool]) -> float:
            return one[0].worst / target.for_bits(one[1]).density_ppi

        return min(judged, key=headroom, default=None)

    @property
    def evenness(self) -> float:
        """How far its two scales, and so its two densities, stand apart."""
        return evenness_of(self.content.scale_x, self.content.scale_y)

    @property
    def is_uneven(self) -> bool:
        """Whether the picture is stretched in one direction."""
        return is_uneven(self.evenness)

    @property
    def native_share(self) -> float:
        """Scale against the native size, 1 being native; the mean of both axes."""
        native_w, native_h = self.source.native_size_pt
        width, height = self.drawn_size_pt
        return (width / native_w + height / native_h) / 2


def fitted(source: Source, frame: Box, fit: Fit) -> Content:
    """The picture laid into the middle of a frame."""
    native_w, native_h = source.native_size_pt
    across, down = frame.width / native_w, frame.height / native_h
    if fit is Fit.CONTAIN:
        across = down = min(across, down)
    elif fit is Fit.COVER:
        across = down = max(across, down)
    elif fit is Fit.NATIVE:
        across = down = 1.0
    scale_x = across * native_w / source.px_w
    scale_y = down * native_h / source.px_h
    return Content(
        scale_x,
        scale_y,
        (frame.width - source.px_w * scale_x) / 2,
        (frame.height - source.px_h * scale_y) / 2,
    )


def placed_at_native_size(source: Source, x_pt: float, y_pt: float) -> Placement:
    """A placement whose frame is the whole picture at its native size."""
    width, height = source.native_size_pt
    frame = Box(x_pt, y_pt, width, height)
    return Placement(source=source, frame=frame, content=fitted(source, frame, Fit.STRETCH))


def scaled_by(placement: Placement, by_x: float, by_y: float, adjusts: Adjusts) -> Placement:
    """The picture scaled along its own axes; its frame's top left corner or its middle stays."""
    content, frame = placement.content, placement.frame
    scaled = replace(content, scale_x=content.scale_x * by_x, scale_y=content.scale_y * by_y)
    if adjusts is Adjusts.FRAME:
        scaled = replace(scaled, offset_x=content.offset_x * by_x, offset_y=content.offset_y * by_y)
        return with_frame_size(
            replace(placement, content=scaled), frame.width * by_x, frame.height * by_y
        )
    half_w, half_h = frame.width / 2, frame.height / 2
    scaled = replace(
        scaled,
        offset_x=half_w - (half_w - content.offset_x) * by_x,
        offset_y=half_h - (half_h - content.offset_y) * by_y,
    )
    return replace(placement, content=scaled)


def with_frame_size(
    placement: Placement, width: float, height: float, anchor: tuple[float, float] = (0.0, 0.0)
) -> Placement:
    """The frame resized; its point at `anchor` (shares of width and height) keeps its place.

    Raises:
        ValueOutOfRange: a frame too small to hold or too large for any page.
    """
    for length in (width, height):
        # A hair of room: scaling to the smallest or the largest ends within rounding of it.
        if not SMALLEST_FRAME_PT * (1 - 1e-9) <= length <= LARGEST_LENGTH_PT * (1 + 1e-9):
            raise ValueOutOfRange(
                f"a frame measures between {SMALLEST_FRAME_PT:g} and {LARGEST_LENGTH_PT:g} pt"
                f" a side, not {length:.6g} pt"
            )
    old = placement.frame
    share_x, share_y = anchor
    fixed = placement.turn.applied(old.x + share_x * old.width, old.y + share_y * old.height)
    to_centre = Matrix.rotation(placement.rotation_deg).applied(
        (0.5 - share_x) * width, (0.5 - share_y) * height
    )
    centre = (fixed[0] + to_centre[0], fixed[1] + to_centre[1])
    frame = Box(centre[0] - width / 2, centre[1] - height / 2, width, height)
    return replace(placement, frame=frame)


def scaled_to_density(
    placement: Placement, ppi_x: float, ppi_y: float, adjusts: Adjusts
) -> Placement:
    """The picture scaled so that its effective density is the one given; pixels stand still.

    Raises:
        ValueOutOfRange: a density that is not above 0.
    """
    for ppi in (ppi_x, ppi_y):
        if not ppi > 0:
            raise ValueOutOfRange(f"a density must be above 0 ppi, not {ppi:g}")
    return scaled_by(
        placement,
        POINTS_PER_INCH / ppi_x / placement.content.scale_x,
        POINTS_PER_INCH / ppi_y / placement.content.scale_y,
        adjusts,
    )


def scaled_to_native(placement: Placement, adjusts: Adjusts) -> Placement:
    """Effective density becomes the density tag; without a tag, the assumed 72 ppi."""
    source = placement.source
    return scaled_to_density(placement, source.native_x, source.native_y, adjusts)


def scaled_to_reach(placement: Placement, target: Target, adjusts: Adjusts) -> Placement:
    """The largest size that still meets the target; a vector picture is left as it is.

    One with images inside is scaled evenly until the image that decides meets the target.
    """
    decides = placement.deciding_density(target)
    if decides is None:
        return placement
    density, is_bilevel = decides
    ppi = target.for_bits(is_bilevel).density_ppi
    if placement.source.is_vector:
        by = density.worst / ppi
        return scaled_by(placement, by, by, adjusts)
    return scaled_to_density(placement, ppi, ppi, adjusts)


def scaled_to_figure(placement: Placement, ppi: float, adjusts: Adjusts) -> Placement:
    """Scaled evenly until the lowest density is `ppi`; an uneven picture stays uneven.

    Raises:
        ValueOutOfRange: a vector picture without images, or a density that is not above 0.
    """
    density = placement.density
    if density is None:
        raise ValueOutOfRange("a vector picture has no density to scale to")
    if not ppi > 0:
        raise ValueOutOfRange(f"a density must be above 0 ppi, not {ppi:g}")
    by = density.worst / ppi
    return scaled_by(placement, by, by, adjusts)


def evened_out(placement: Placement, by: EvenBy, adjusts: Adjusts) -> Placement:
    """Both axes take one scale: that of x, that of y, or the mean of the two."""
    scale_x, scale_y = placement.content.scale_x, placement.content.scale_y
    scale = {EvenBy.X: scale_x, EvenBy.Y: scale_y, EvenBy.MEAN: (scale_x + scale_y) / 2}[by]
    return scaled_by(placement, scale / scale_x, scale / scale_y, adjusts)


def deciding_width_pt(placement: Placement) -> float:
    """How wide the whole picture would be if both axes had the density of the worse one.

    An uneven picture is judged by that axis, and so is its width.

    Raises:
        ValueOutOfRange: a vector picture, which has no density.
    """
    density = placement.density
    if density is None:
        raise ValueOutOfRange("a vector picture has no density to scale by")
    if placement.source.is_vector:
        return placement.drawn_size_pt[0]
    return POINTS_PER_INCH * placement.source.px_w / density.worst
