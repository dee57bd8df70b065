"""Images under random matrices, forms, patterns and glyphs, whose densities are known beforehand.

The truth is multiplied out by numpy in the test (formula 1: pixels over the length in inches of
the edges of the mapped unit square), and never by what is tested.
"""

import math
from decimal import Decimal

import numpy as np
import pikepdf
import pytest
from hypothesis import HealthCheck, given, settings
from hypothesis import strategies as st

from harnet.media.pdf.reading.images import painted_images
from tests.support.pdfs import ByHand

figures = st.floats(0.2, 4).map(lambda value: round(value, 4))
signed = st.tuples(figures, st.sampled_from([1, -1])).map(lambda pair: pair[0] * pair[1])
angles = st.floats(0, 2 * math.pi)
shifts = st.floats(-30, 30).map(lambda value: round(value, 3))


PATTERN_AXES, STEP = np.array([[0.5, 0.25], [-0.25, 0.5]]), 500
TILE_STEPS = PATTERN_AXES * STEP


@st.composite
def matrices(draw):
    """Turned, skewed, mirrored and scaled, never flat: six numbers as PDF writes them."""
    turn, skew = draw(angles), draw(st.floats(-0.7, 0.7))
    scale = np.diag([draw(signed), draw(signed), 1.0])
    rotation = np.array(
        [
            [math.cos(turn), math.sin(turn), 0],
            [-math.sin(turn), math.cos(turn), 0],
            [0, 0, 1],
        ]
    )
    shear = np.array([[1, math.tan(skew), 0], [0, 1, 0], [draw(shifts), draw(shifts), 1]])
    product = scale @ rotation @ shear
    return tuple(round(float(value), 8) for value in product[:, :2].flatten())


def array(numbers):
    a, b, c, d, e, f = numbers
    return np.array([[a, b, 0], [c, d, 0], [e, f, 1]])


def numbers(values):
    """As PDF writes them, to the last of eight decimals."""
    return pikepdf.Array([Decimal(f"{value:.8f}") for value in values])


def cm(values):
    return " ".join(f"{value:.8f}" for value in values).encode() + b" cm"


@st.composite
def cases(draw):
    return {
        "levels": draw(st.lists(st.tuples(matrices(), matrices()), max_size=6)),
        "image": draw(matrices()),
        "px": (draw(st.integers(1, 40)), draw(st.integers(1, 40))),
        "unit": draw(st.sampled_from([1, 1, 2, 0.5, 10])),
        "rotate": draw(st.sampled_from([0, 90, 180, 270])),
        "kind": draw(st.sampled_from(["page", "inline", "mask", "pattern", "glyph"])),
    }


def painted_by(path, case):
    """Writes the PDF of a case; the matrix that paints its image, multiplied out."""
    hand = ByHand(path)
    px_w, px_h = case["px"]
    if case["unit"] != 1:
        hand.page.obj.UserUnit = case["unit"]
    hand.page.obj.Rotate = case["rotate"]
    place = b"q " + cm(case["image"])
    truth = array(case["image"])
    image = hand.image(px_w, px_h)
    if case["kind"] == "mask":
        image.ImageMask, image.BitsPerComponent = True, 1
        del image.ColorSpace
    names = pikepdf.Dictionary(X=image)
    if case["kind"] == "inline":
        samples = b"\x00" * (px_w * px_h)
        head = f"BI /W {px_w} /H {px_h} /BPC 8 /CS /G ID ".encode()
        content = place + b" " + head + samples + b" EI Q"
    else:
        content = place + b" /X Do Q"
    resources = pikepdf.Dictionary(XObject=names)
    for before, own in case["levels"]:
        form = hand.form(content, Matrix=numbers(own), Resources=resources)
        form.BBox = pikepdf.Array([-1e6, -1e6, 1e6, 1e6])
        resources = pikepdf.Dictionary(XObject=pikepdf.Dictionary(F=form))
        content = b"q " + cm(before) + b" /F Do Q"
        truth = truth @ array(own) @ array(before)
    if case["kind"] == "pattern":
        # A pattern's matrix counts from the page, whatever the matrix is where it is used.
        matrix = (*PATTERN_AXES.flatten(), 3, 4)
        pattern = hand.form(content, Resources=resources, Matrix=numbers(matrix))
        pattern.PatternType, pattern.PaintType, pattern.TilingType = 1, 1, 1
        pattern.XStep = pattern.YStep = STEP
        hand.resources.Pattern.P = pattern
        content = b"q 3 0 0 3 1 1 cm /Pattern cs /P scn 0 0 50 50 re f Q"
        truth = truth @ array(matrix)
    elif case["kind"] == "glyph":
        glyph = hand.form(b"500 0 0 0 500 500 d1 " + content)
        font = pikepdf.Dictionary(
            Type=pikepdf.Name.Font,
            Subtype=pikepdf.Name.Type3,
            FontMatrix=pikepdf.Array([0.01, 0, 0, 0.02, 0, 0]),
            FontBBox=pikepdf.Array([0, 0, 500, 500]),
            CharProcs=pikepdf.Dictionary(a=glyph),
            Encoding=pikepdf.Dictionary(Differences=pikepdf.Array([97, pikepdf.Name.a])),
            FirstChar=97,
            LastChar=97,
            Widths=pikepdf.Array([500]),
            Resources=resources,
        )
        hand.resources.Font = pikepdf.Dictionary(T=hand.pdf.make_indirect(font))
        content = b"BT /T 12 Tf 2 0 0 2 30 40 Tm (a) Tj ET"
        size = np.diag([12.0, 12.0, 1])
        truth = truth @ np.diag([0.01, 0.02, 1]) @ size @ array((2, 0, 0, 2, 30, 40))
    else:
        hand.resources.XObject = resources.XObject
    hand.page.obj.Contents = hand.pdf.make_stream(content)
    hand.pdf.save(path)
    return truth @ np.diag([case["unit"], case["unit"], 1])


@given(cases())
@settings(
    max_examples=150,
    deadline=None,
    suppress_health_check=[HealthCheck.function_scoped_fixture, HealthCheck.too_slow],
)
def test_the_density_is_the_one_that_was_built_in(tmp_path, case):
    path = tmp_path / "nested.pdf"
    truth = painted_by(path, case)
    [image] = painted_images(path)[1]
    px_w, px_h = case["px"]
    assert (image.px_w, image.px_h) == (px_w, px_h)
    across, down = math.hypot(*truth[0, :2]), math.hypot(*truth[1, :2])
    assert image.density.x == pytest.approx(72 * px_w / across, rel=1e-5)
    assert image.density.y == pytest.approx(72 * px_h / down, rel=1e-5)
    found = image.matrix.as_tuple()
    assert found[:4] == pytest.approx(tuple(truth[:2, :2].flatten()), rel=1e-4, abs=1e-4)
    away = np.array(found[4:]) - truth[2, :2]
    if case["kind"] == "pattern":
        # Of the pattern's tiles the one that is seen counts: whole steps away.
        steps = away / case["unit"] @ np.linalg.inv(TILE_STEPS)
        away = (steps - steps.round()) @ TILE_STEPS
    assert away == pytest.approx([0, 0], abs=1e-4 * max(1, np.abs(truth[2]).max()))
