"""Gathering what one page of a document paints: pictures with their matrices, marks of a sketch.

Shapes are given by a matrix from the unit square, y downwards, to the page in points from its top
left corner, y downwards; what is gathered has y upwards, as in a PDF.
"""

from dataclasses import dataclass, field, replace

from harnet.core.documents.document import DocumentPage, PageKind
from harnet.core.documents.images import Crop, ImageKind, ImageOnPage
from harnet.core.documents.sketch import MarkKind, SketchMark
from harnet.core.measure.geometry import Matrix
from harnet.core.measure.units import POINTS_PER_INCH
from harnet.core.pictures.picture import Colour
from harnet.media.packages.archive import PartStore
from harnet.media.packages.media import MediaFile, MediaStore

NO_CROP: Crop = (0.0, 0.0, 0.0, 0.0)
MOST_PICTURES_A_PAGE, MOST_MARKS = 20_000, 400
FALLBACK = "stands in for a vector picture"
OUTSIDE, NO_SIZE, ALL_CROPPED, HIDDEN = (
    "outside the page",
    "has no size",
    "cropped off entirely",
    "hidden",
)
NOT_HERE = "linked, not in the file"
_FLIPPED = Matrix(1, 0, 0, -1, 0, 1)
_LEAST_PT, _LEAST_SHARE = 1e-6, 1e-9
_LONGEST = 200


def short(text: str) -> str:
    """A text of a document as it is kept: one line, bounded, nothing that a database refuses."""
    line = " ".join(text.replace("\0", "").split())
    return line[:_LONGEST].encode("utf-8", "replace").decode()


@dataclass(frozen=True, slots=True, kw_only=True)
class Shape:
    """Where a picture is put: its shape on the page, and its size before groups scaled it.

    `source` is where it stands, `name` the shape's.
    """

    matrix: Matrix
    own_w_pt: float
    own_h_pt: float
    source: str
    name: str = ""
    heading: str = ""
    unseen: str = ""
    is_assumed: bool = False


@dataclass(frozen=True, slots=True, kw_only=True)
class Fitting:
    """How a picture is fitted in its shape (formula 12).

    `source_crop` is what is cut off of the picture, `target_inset` how far the edges of what is
    filled are moved inwards, as shares.
    """

    source_crop: Crop = NO_CROP
    target_inset: Crop = NO_CROP

    @property
    def is_nothing(self) -> bool:
        """Whether nothing of the picture, or of the shape, is left."""
        left, top, right, bottom = self.source_crop
        x1, y1, x2, y2 = self.target_inset
        return min(1 - left - right, 1 - top - bottom, 1 - x1 - x2, 1 - y1 - y2) <= _LEAST_SHARE

    def placed(self) -> tuple[float, float, float, float]:
        """Where the whole picture lies in the shape's unit square: left, top, width, height."""
        left, top, right, bottom = self.source_crop
        x1, y1, x2, y2 = self.target_inset
        width = (1 - x1 - x2) / (1 - left - right)
        height = (1 - y1 - y2) / (1 - top - bottom)
        return x1 - left * width, y1 - top * height, width, height

    def crop(self) -> Crop:
        """What of the picture is not seen: cut off of it, or beyond the shape's edges."""
        x, y, width, height = self.placed()
        x1, y1, x2, y2 = self.target_inset
        seen_x = max(0.0, x, x1), min(1.0, x + width, 1 - x2)
        seen_y = max(0.0, y, y1), min(1.0, y + height, 1 - y2)
        left, right = (seen_x[0] - x) / width, (x + width - seen_x[1]) / width
        top, bottom = (seen_y[0] - y) / height, (y + height - seen_y[1]) / height
        return _clean(left), _clean(top), _clean(right), _clean(bottom)


def _clean(crop: float) -> float:
    """A share without the rounding of the arithmetic."""
    return 0.0 if abs(crop) < _LEAST_SHARE else round(min(1.0, max(0.0, crop)), 9)


@dataclass(slots=True)
class PageGatherer:
    """What one page paints, in painting order; its size is 0 for a text without pages."""

    media: MediaStore
    number: int
    kind: PageKind
    width_pt: float = 0.0
    height_pt: float = 0.0
    title: str = ""
    images: list[ImageOnPage] = field(default_factory=list)
    marks: list[SketchMark] = field(default_factory=list)
    left_out: list[str] = field(default_factory=list)

    def picture(
        self,
        part: str,
        shape: Shape,
        fitting: Fitting | None = None,
        *,
        effects: tuple[str, ...] = (),
        is_upright: bool = False,
        has_mark: bool = True,
    ) -> None:
        """A picture of the package in a shape; `is_upright` heeds its orientation tag."""
        file = self.media.file(part)
        if file.failure:
            self.left_out.append(f"picture {part}, {file.failure}")
            self.mark(MarkKind.EMPTY, shape.matrix)
            return
        fitting = fitting or Fitting()
        if file.vector and file.holds_pixels:
            effects = (*effects, "holds pixels that are not judged")
        self._take(file, shape, fitting, effects, is_upright, has_mark)

    def link(self, address: str, shape: Shape) -> None:
        """A picture that the document names and does not hold."""
        self.images.append(
            replace(
                self._painted(shape.matrix, shape, ImageKind.LINKED),
                link=short(address),
                unseen=NOT_HERE,
            )
        )
        self.mark(MarkKind.EMPTY, shape.matrix)

    def _take(
        self,
        file: MediaFile,
        shape: Shape,
        fitting: Fitting,
        effects: tuple[str, ...],
        is_upright: bool,
        has_mark: bool,
    ) -> None:
        unseen, crop = shape.unseen, NO_CROP
        matrix = shape.matrix
        placed_ppi = None
        if fitting.is_nothing:
            unseen = unseen or ALL_CROPPED
        else:
            x, y, width, height = fitting.placed()
            matrix = Matrix(width, 0, 0, height, x, y).then(shape.matrix)
            crop = fitting.crop()
            px_w, px_h = file.upright_px if is_upright else file.px
            own_w, own_h = width * shape.own_w_pt, height * shape.own_h_pt
            if px_w and min(own_w, own_h) > _LEAST_PT:
                placed_ppi = (px_w * POINTS_PER_INCH / own_w, px_h * POINTS_PER_INCH / own_h)
        if min(matrix.u_length, matrix.v_length) < _LEAST_PT:
            unseen, matrix = unseen or NO_SIZE, Matrix()
            placed_ppi = None
        kind = ImageKind.VECTOR if file.vector else ImageKind.RASTER
        painted = self._painted(matrix, shape, kind)
        if not unseen and self.width_pt and self._is_outside(replace(painted, crop=crop)):
            unseen = OUTSIDE
        facts = file.facts
        px_w, px_h = file.upright_px if is_upright else file.px
        density = (placed_ppi[0], placed_ppi[1]) if placed_ppi else None
        taken = replace(
            painted,
            px_w=px_w,
            px_h=px_h,
            colour=facts.colour.value if facts else Colour.VECTOR.value,
            bits=facts.bits if facts else 0,
            has_profile=facts is not None and facts.icc is not None,
            has_alpha=facts is not None and facts.alpha,
            filters=file.vector or (facts.format if facts else ""),
            unseen=unseen,
            crop=crop,
            part=file.part,
            size_bytes=file.size_bytes,
            effects=effects,
            placed_ppi=density,
            quality=facts.jpeg_quality if facts else None,
        )
        if density and kind is ImageKind.RASTER and _same(density, taken):
            taken = replace(taken, placed_ppi=None)
        self.images.append(taken)
        if has_mark and not unseen:
            self.mark(MarkKind.PICTURE, taken.matrix, part=file.part, crop=crop, is_up=True)

    def _painted(self, matrix: Matrix, shape: Shape, kind: ImageKind) -> ImageOnPage:
        return ImageOnPage(
            id=0,
            page_number=self.number,
            place=len(self.images) + 1,
            px_w=0,
            px_h=0,
            colour=Colour.VECTOR.value,
            bits=0,
            matrix=_FLIPPED.then(matrix).then(self._to_up),
            object_number=0,
            has_profile=False,
            has_alpha=False,
            filters="",
            unseen="",
            source=shape.source,
            pieces=(),
            kind=kind,
            shape_name=short(shape.name),
            heading=short(shape.heading),
            is_assumed=shape.is_assumed,
        )

    @property
    def _to_up(self) -> Matrix:
        return Matrix(1, 0, 0, -1, 0, self.height_pt)

    def _is_outside(self, picture: ImageOnPage) -> bool:
        corners = picture.shown_matrix.corners
        xs, ys = [x for x, _ in corners], [y for _, y in corners]
        is_beside = max(xs) <= 0 or min(xs) >= self.width_pt
        return is_beside or max(ys) <= 0 or min(ys) >= self.height_pt

    def mark(
        self,
        kind: MarkKind,
        matrix: Matrix,
        *,
        lines: int = 0,
        part: str = "",
        crop: Crop = NO_CROP,
        is_up: bool = False,
    ) -> None:
        """A mark of the sketch; `is_up` says that the matrix has y upwards already."""
        if not self.width_pt or len(self.marks) >= MOST_MARKS:
            return
        up = matrix if is_up else _FLIPPED.then(matrix).then(self._to_up)
        self.marks.append(SketchMark(kind=kind, matrix=up, lines=lines, part=part, crop=crop))

    def page(self) -> DocumentPage:
        """The page as it was gathered."""
        return DocumentPage(
            box=(0.0, 0.0, self.width_pt, self.height_pt),
            turn_deg=0,
            kind=self.kind,
            title=short(self.title),
            left_out=short("; ".join(dict.fromkeys(self.left_out))),
            marks=tuple(self.marks),
        )


def _same(density: tuple[float, float], picture: ImageOnPage) -> bool:
    now = picture.density
    return abs(density[0] - now.x) < 1e-6 * now.x and abs(density[1] - now.y) < 1e-6 * now.y


def box_matrix(
    x: float,
    y: float,
    width: float,
    height: float,
    *,
    turn_deg: float = 0.0,
    is_mirrored: bool = False,
    is_upside_down: bool = False,
) -> Matrix:
    """The map from the unit square to a box, y downwards: flipped, then turned about its middle."""
    across = -width if is_mirrored else width
    down = -height if is_upside_down else height
    matrix = Matrix(across, 0, 0, down, -across / 2, -down / 2)
    if turn_deg:
        matrix = matrix.then(Matrix.rotation(turn_deg))
    return matrix.then(Matrix.translation(x + width / 2, y + height / 2))


@dataclass(frozen=True, slots=True, kw_only=True)
class ReadDocument:
    """A whole document as it was gathered: pages with their images, what it says of itself.

    `store` holds the pictures that stand in its text, where it is no package.
    """

    pages: list[DocumentPage]
    images: list[ImageOnPage]
    whole: dict[str, object]
    store: PartStore | None = None


class Refused(Exception):
    """The document as a whole cannot be read: the reason, and what to do."""

    def __init__(self, reason: str, advice: str = "") -> None:
        self.reason, self.advice = reason, advice
        super().__init__(reason)


def fallback_shape(shape: Shape) -> Shape:
    """The shape of a raster picture that is only kept for programs which cannot draw a vector."""
    return replace(shape, unseen=shape.unseen or FALLBACK)
