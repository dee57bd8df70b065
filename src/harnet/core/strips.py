"""Pictures that a producer cut into strips or tiles: recognised by how the pieces lie together."""

from collections.abc import Sequence
from dataclasses import dataclass

from harnet.core.geometry import Matrix

FEWEST_PIECES = 3
"""Two pictures may touch by chance; three that fit to the pixel hardly do."""
_SAME_SCALE, _TOUCHING_PX, _FILLED = 0.002, 0.75, 0.99


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
class Whole:
    """What pieces make together: its pixels, its matrix, and where the pieces stand in the list."""

    px_w: int
    px_h: int
    matrix: Matrix
    pieces: tuple[int, ...]


def wholes_of(pieces: Sequence[Piece]) -> list[Whole]:
    """The pieces in painting order, those that make one picture put together."""
    found: list[Whole] = []
    first = 0
    while first < len(pieces):
        group = _Group(pieces[first])
        after = first + 1
        while after < len(pieces) and group.takes(pieces[after]):
            after += 1
        if after - first >= FEWEST_PIECES and group.is_filled:
            found.append(group.whole(range(first, after)))
        else:
            found += [
                Whole(piece.px_w, piece.px_h, piece.matrix, (first + index,))
                for index, piece in enumerate(pieces[first:after])
            ]
        first = after
    return found


class _Group:
    """Pieces that touch, in pixels of the first, whose top left corner is the origin."""

    def __init__(self, first: Piece) -> None:
        a, b, c, d, e, f = first.matrix.as_tuple()
        self._kind = first.kind
        self._to_page = Matrix(
            a / first.px_w, b / first.px_w, -c / first.px_h, -d / first.px_h, e + c, f + d
        )
        self._is_flat = abs(self._to_page.determinant) < 1e-12
        self._box = (0.0, 0.0, float(first.px_w), float(first.px_h))
        self._area = first.px_w * first.px_h

    def takes(self, piece: Piece) -> bool:
        """Takes a piece in if it is of the same make and touches what is there."""
        if self._is_flat or piece.kind != self._kind or not self._has_same_scale(piece):
            return False
        c, d, e, f = piece.matrix.as_tuple()[2:]
        left, top = self._to_page.inverse.applied(e + c, f + d)
        right, bottom = left + piece.px_w, top + piece.px_h
        x1, y1, x2, y2 = self._box
        near = _TOUCHING_PX
        if left > x2 + near or right < x1 - near or top > y2 + near or bottom < y1 - near:
            return False
        overlap = (min(right, x2) - max(left, x1)) * (min(bottom, y2) - max(top, y1))
        is_inside = (
            left > x1 - near and right < x2 + near and top > y1 - near and bottom < y2 + near
        )
        if not is_inside and overlap > 2 * near * max(piece.px_w, piece.px_h):
            return False
        self._box = (min(x1, left), min(y1, top), max(x2, right), max(y2, bottom))
        self._area += piece.px_w * piece.px_h
        return True

    def _has_same_scale(self, piece: Piece) -> bool:
        a, b, c, d = piece.matrix.as_tuple()[:4]
        mine = self._to_page.as_tuple()[:4]
        theirs = (a / piece.px_w, b / piece.px_w, -c / piece.px_h, -d / piece.px_h)
        size = max(map(abs, mine))
        return all(abs(x - y) <= _SAME_SCALE * size for x, y in zip(mine, theirs, strict=True))

    @property
    def is_filled(self) -> bool:
        """Whether the pieces fill the box around them, once over."""
        x1, y1, x2, y2 = self._box
        return _FILLED <= self._area / ((x2 - x1) * (y2 - y1)) <= 2 - _FILLED

    def whole(self, numbers: Sequence[int]) -> Whole:
        """The picture that the pieces make."""
        x1, y1, x2, y2 = self._box
        px_w, px_h = round(x2 - x1), round(y2 - y1)
        left, bottom = self._to_page.applied(x1, y2)
        a, b, c, d = self._to_page.as_tuple()[:4]
        matrix = Matrix(a * px_w, b * px_w, -c * px_h, -d * px_h, left, bottom)
        return Whole(px_w, px_h, matrix, tuple(numbers))
