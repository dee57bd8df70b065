"""Strips and tiles put together again; every figure is known by construction."""

import time
from itertools import pairwise

import pytest
from hypothesis import given
from hypothesis import strategies as st

from harnet.core.documents.strips import Piece, wholes_of
from harnet.core.measure.geometry import Matrix


def cut(px_w, px_h, matrix, columns, rows, kind=None):
    """A picture of these pixels cut into tiles, painted row by row from the top."""
    xs = [round(px_w * n / columns) for n in range(columns + 1)]
    ys = [round(px_h * n / rows) for n in range(rows + 1)]
    pieces = []
    for top, bottom in pairwise(ys):
        for left, right in pairwise(xs):
            part = Matrix(
                (right - left) / px_w, 0, 0, (bottom - top) / px_h, left / px_w, 1 - bottom / px_h
            )
            pieces.append(Piece(right - left, bottom - top, part.then(matrix), kind))
    return pieces


PLACED = Matrix(240, 0, 0, 160, 30, 40)


class TestWholes:
    @given(
        columns=st.integers(1, 5),
        rows=st.integers(1, 8),
        turn=st.floats(0, 360),
        width=st.floats(10, 500),
        height=st.floats(10, 500),
        mirrored=st.booleans(),
    )
    def test_any_cut_is_put_together(self, columns, rows, turn, width, height, mirrored):
        matrix = Matrix.scaling(-width if mirrored else width, height).then(Matrix.rotation(turn))
        pieces = cut(600, 400, matrix, columns, rows)
        wholes = list(wholes_of(pieces))
        if len(pieces) < 3:
            assert len(wholes) == len(pieces)
            return
        [whole] = wholes
        assert (whole.px_w, whole.px_h) == (600, 400)
        assert whole.matrix.as_tuple() == pytest.approx(matrix.as_tuple(), abs=1e-6 * 500)
        assert whole.pieces == tuple(range(len(pieces)))

    def test_strips_painted_from_below(self):
        [whole] = wholes_of(cut(600, 400, PLACED, 1, 10)[::-1])
        assert whole.matrix.as_tuple() == pytest.approx(PLACED.as_tuple())

    def test_pictures_beside_each_other_stay_apart(self):
        apart = [Matrix.translation(260 * n, 0) for n in range(4)]
        pieces = [Piece(600, 400, PLACED.then(move)) for move in apart]
        assert [whole.pieces for whole in wholes_of(pieces)] == [(0,), (1,), (2,), (3,)]

    def test_pieces_of_another_kind_or_scale_stay_apart(self):
        strips = cut(600, 400, PLACED, 1, 4, "rgb")
        other = [Piece(600, 100, strips[2].matrix, "grey"), strips[3]]
        assert len(list(wholes_of([*strips[:2], *other]))) == 4
        finer = [Piece(900, 150, strip.matrix, "rgb") for strip in strips[2:]]
        assert len(list(wholes_of([*strips[:2], *finer]))) == 4

    def test_where_a_tile_is_missing_no_picture_reaches_over_the_hole(self):
        tiles = cut(600, 400, PLACED, 3, 3)
        wholes = list(wholes_of([*tiles[:4], *tiles[5:]]))
        assert [number for whole in wholes for number in whole.pieces] == list(range(8))
        assert [len(whole.pieces) for whole in wholes] == [3, 1, 1, 3]

    def test_the_same_picture_painted_over_itself_is_not_a_cut_one(self):
        assert len(list(wholes_of([Piece(600, 400, PLACED)] * 4))) == 4

    def test_two_cut_pictures_one_after_the_other(self):
        far = PLACED.then(Matrix.translation(500, 0))
        wholes = list(wholes_of([*cut(600, 400, PLACED, 1, 5), *cut(600, 400, far, 1, 5)]))
        assert [len(whole.pieces) for whole in wholes] == [5, 5]

    def test_strips_on_a_grid_of_device_dots(self):
        """As a printer's driver places them: on 1/300 inch, the last one a little shorter."""
        dot = 72 / 300
        heights = [161 * dot, 162 * dot, 162 * dot, 158 * dot]
        pieces, y = [], 0.0
        for px_h, height in zip((162, 162, 162, 160), heights, strict=True):
            y -= height
            pieces.append(Piece(4961, px_h, Matrix(1190.64, 0, 0, height, 0.4, y)))
        [whole] = wholes_of(pieces)
        assert (whole.px_w, whole.px_h) == (4961, 646)
        assert whole.matrix.v_length == pytest.approx(sum(heights))

    def test_strips_whose_widths_differ_by_a_dot(self):
        sizes = [(417, 127, 300.29, 91.2), (419, 106, 300.54, 76.56), (417, 127, 300.29, 91.44)]
        pieces, y = [], 0.0
        for px_w, px_h, width, height in sizes:
            y -= height
            pieces.append(Piece(px_w, px_h, Matrix(width, 0, 0, height, 0, y)))
        [whole] = wholes_of(pieces)
        assert whole.px_w in (417, 418) and whole.px_h == 360

    def test_a_second_cut_picture_within_the_first(self):
        """Its strips touch those below and have their density; they are a picture of their own."""
        inner = Matrix(200, 0, 0, 120, 50, 60)
        wholes = list(wholes_of([*cut(600, 400, PLACED, 1, 5), *cut(500, 300, inner, 1, 6)]))
        assert [(whole.px_w, whole.px_h, len(whole.pieces)) for whole in wholes] == [
            (600, 400, 5),
            (500, 300, 6),
        ]

    def test_two_cut_pictures_that_touch(self):
        beside = Matrix(240, 0, 0, 120, 270, 40)
        wholes = list(wholes_of([*cut(600, 400, PLACED, 1, 5), *cut(600, 300, beside, 1, 4)]))
        assert [(whole.px_h, len(whole.pieces)) for whole in wholes] == [(400, 5), (300, 4)]


@pytest.mark.parametrize("dx, dy", [(0, 0), (0.4, 0.3), (2.0, 0.0), (17.0, 31.0)])
def test_thousands_of_pieces_take_no_time(dx, dy):
    """4 000 pieces on one spot, or in a row that fills no box, took minutes before."""
    pieces = [
        Piece(300, 200, Matrix(72, 0, 0, 48, 10 + dx * number, 10 + dy * (number % 7)))
        for number in range(4000)
    ]
    start = time.process_time()
    found = list(wholes_of(pieces))
    assert sum(len(one.pieces) for one in found) == 4000
    # A bound against a square, not a timing: ten thousand times as long were ten minutes.
    assert time.process_time() - start < 10
