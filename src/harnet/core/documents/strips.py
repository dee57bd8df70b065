"""Pictures that a producer cut into strips or tiles: recognised by how the pieces lie together."""

from collections.abc import Iterator, Sequence
from dataclasses import dataclass

from harnet.core.measure.geometry import Matrix

FEWEST_PIECES = 3
"""Two pictures may touch by chance; three that fit to the pixel hardly do."""
_SAME_SHARE, _TOUCHING_PX, _FILLED = 0.002, 0.75, 0.99
_MOST_UNFILLED, _CROWDED = 256, 2.0
"""Common practice, no source: a row of tiles has fewer pieces, and none is painted twice."""
_GRID_PT, _GRID_PX, _MOST_SHARE = 0.5, 3.0, 0.05
"""Printer drivers place strips on a grid of device dots and round their pixels, by as much.

Common practice, no source; pictures of three drivers were seen to.
"""


@dataclass(frozen=True, slots=True)
class Piece:
    """An image as it is painted: its pixels, and the matrix of its unit square, y upwards.

    Only pieces of the same `kind` belong together.
    """

    px_w: int
    px_h: int
    matrix: Matrix
    kind: object = None


@dataclass(frozen=True, slots=True)
class JoinedImage:
    """What pieces make together: its pixels, its matrix, and where the pieces stand in the list."""

    px_w: int
    px_h: int
    matrix: Matrix
    pieces: tuple[int, ...]


def wholes_of(pieces: Sequence[Piece]) -> Iterator[JoinedImage]:
    """The pieces in painting order, those that make one picture put together, one by one."""
    first = 0
    while first < len(pieces):
        whole = _picture_from(pieces, first)
        yield whole
        first += len(whole.pieces)


def _picture_from(pieces: Sequence[Piece], first: int) -> JoinedImage:
    """The picture that a piece makes with as many of those after it as fill a box with it."""
    piece = pieces[first]
    longest = JoinedImage(piece.px_w, piece.px_h, piece.matrix, (first,))
    group = _Group(piece)
    for number in range(first + 1, len(pieces)):
        # Pieces of the next picture may touch these and be alike: they fill no box with them.
        if not group.takes(pieces[number]):
            break
        if number - first + 1 >= FEWEST_PIECES and group.is_filled:
            longest = group.whole(range(first, number + 1))
        # Pieces that lie on each other, or leave a box unfilled for so long, make no picture.
        if group.is_crowded or number - first - len(longest.pieces) > _MOST_UNFILLED:
            break
    return longest


class _Group:
    """Pieces that touch, in points along the edges of the first, from its lower left corner."""

    def __init__(self, first: Piece) -> None:
        a, b, c, d, e, f = first.matrix.as_tuple()
        self._first, width, height = first, first.matrix.u_length, first.matrix.v_length
        self._is_flat = abs(first.matrix.determinant) < 1e-9
        self._box = (0.0, 0.0, width, height)
        self._area = self._px_across = self._px_up = 0.0
        if not self._is_flat:
            self._to_page = Matrix(a / width, b / width, c / height, d / height, e, f)
            self._from_page = self._to_page.inverse
            self._pt_a_px = (width / first.px_w, height / first.px_h)
            self._add(first)

    def takes(self, piece: Piece) -> bool:
        """Takes a piece in if it is of the same make and touches what is there."""
        if self._is_flat or piece.kind != self._first.kind or not self._is_alike(piece):
            return False
        width, height = piece.matrix.u_length, piece.matrix.v_length
        left, bottom = self._from_page.applied(piece.matrix.e, piece.matrix.f)
        right, top = left + width, bottom + height
        x1, y1, x2, y2 = self._box
        across, up = _reach(width, self._pt_a_px[0]), _reach(height, self._pt_a_px[1])
        if left > x2 + across or right < x1 - across or bottom > y2 + up or top < y1 - up:
            return False
        overlap_w = min(right, x2) - max(left, x1)
        overlap_h = min(top, y2) - max(bottom, y1)
        is_inside = (
            left > x1 - across and right < x2 + across and bottom > y1 - up and top < y2 + up
        )
        if not is_inside and overlap_w > 2 * across and overlap_h > 2 * up:
            return False
        self._box = (min(x1, left), min(y1, bottom), max(x2, right), max(y2, top))
        self._add(piece)
        return True

    def _add(self, piece: Piece) -> None:
        width, height = piece.matrix.u_length, piece.matrix.v_length
        self._area += width * height
        self._px_across += piece.px_w * height
        self._px_up += piece.px_h * width

    def _is_alike(self, piece: Piece) -> bool:
        """Whether it lies the same way round and its pixels are as large."""
        edges = (
            (self._to_page.a, self._to_page.b, piece.matrix.a, piece.matrix.b),
            (self._to_page.c, self._to_page.d, piece.matrix.c, piece.matrix.d),
        )
        for (x, y, u, v), px, pt in zip(
            edges, (piece.px_w, piece.px_h), self._pt_a_px, strict=True
        ):
            length = px * pt
            grid = max(_GRID_PT, _GRID_PX * pt)
            within = max(_SAME_SHARE * length, min(grid, _MOST_SHARE * length))
            if abs(x * length - u) > within or abs(y * length - v) > within:
                return False
        return True

    @property
    def is_filled(self) -> bool:
        """Whether the pieces fill the box around them, once over."""
        x1, y1, x2, y2 = self._box
        return _FILLED <= self._area / ((x2 - x1) * (y2 - y1)) <= 2 - _FILLED

    @property
    def is_crowded(self) -> bool:
        """Whether the pieces would fill the box around them twice over."""
        x1, y1, x2, y2 = self._box
        return self._area > _CROWDED * (x2 - x1) * (y2 - y1)

    def whole(self, numbers: Sequence[int]) -> JoinedImage:
        """The picture that the pieces make."""
        x1, y1, x2, y2 = self._box
        left, bottom = self._to_page.applied(x1, y1)
        a, b, c, d = self._to_page.as_tuple()[:4]
        width, height = x2 - x1, y2 - y1
        matrix = Matrix(a * width, b * width, c * height, d * height, left, bottom)
        # Pixels a point, by how much of the picture each piece is.
        px_w = round(width * self._px_across / self._area)
        px_h = round(height * self._px_up / self._area)
        return JoinedImage(px_w, px_h, matrix, tuple(numbers))


def _reach(length_pt: float, pt_a_px: float) -> float:
    """How far apart edges may lie that are meant to touch, in points."""
    return max(_TOUCHING_PX * pt_a_px, min(_GRID_PT, _MOST_SHARE * length_pt))
