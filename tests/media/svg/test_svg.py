"""SVG with raster images: viewBox, preserveAspectRatio and every transform (formula 14)."""

import base64
import math

import numpy
import pytest
import svgwrite
from hypothesis import given, settings
from hypothesis import strategies as st

from harnet.core.documents.images import ImageKind
from harnet.media.packages.reading import read_document
from tests.support.packages import densities, images_in, picture

DATA = "data:image/png;base64," + base64.b64encode(picture(300, 200, "PNG")).decode()


def svg(path, inside, root='width="3in" height="2in" viewBox="0 0 300 200"'):
    path.write_text(
        '<svg xmlns="http://www.w3.org/2000/svg" xmlns:xlink="http://www.w3.org/1999/xlink"'
        f" {root}>{inside}</svg>"
    )
    return path


def image(attributes='width="300" height="200"', address=DATA):
    return f'<image xlink:href="{address}" {attributes}/>'


@pytest.fixture
def path(tmp_path):
    return tmp_path / "drawing.svg"


@pytest.mark.parametrize(
    ("root", "density"),
    [
        ('width="3in" height="2in" viewBox="0 0 300 200"', (100.0, 100.0)),
        ('width="300" height="200"', (96.0, 96.0)),
        ('width="76.2mm" viewBox="0 0 300 200"', (100.0, 100.0)),
        ('viewBox="0 0 300 200"', (96.0, 96.0)),
        ('width="6in" height="2in" viewBox="0 0 300 200"', (100.0, 100.0)),
        ('width="6in" height="2in" viewBox="0 0 300 200" preserveAspectRatio="none"',
         (50.0, 100.0)),
        ('width="6in" height="2in" viewBox="0 0 300 200" preserveAspectRatio="xMidYMid slice"',
         (50.0, 50.0)),
    ],
)  # fmt: skip
def test_viewport_and_view_box(path, root, density):
    """SVG 2, 8.2 and 8.6: what a viewBox shows is fitted into the viewport."""
    assert densities(svg(path, image(), root)) == [density]


@pytest.mark.parametrize(
    ("attributes", "density", "share"),
    [
        ('width="150" height="200"', (200.0, 200.0), 1.0),
        ('width="150" height="200" preserveAspectRatio="none"', (200.0, 100.0), 1.0),
        ('width="150" height="200" preserveAspectRatio="xMinYMin slice"', (100.0, 100.0), 0.5),
        ('width="150"', (200.0, 200.0), 1.0),
        ("", (100.0, 100.0), 1.0),
        ('width="50%" height="50%"', (200.0, 200.0), 1.0),
    ],
)
def test_image_in_its_box(path, attributes, density, share):
    (found,) = images_in(svg(path, image(attributes)))
    assert densities(path) == [density]
    assert found.visible_share == pytest.approx(share)


steps = st.one_of(
    st.tuples(st.just("translate"), st.integers(-50, 50), st.integers(-50, 50)),
    st.tuples(st.just("scale"), st.integers(1, 40).map(lambda n: n / 10)),
    st.tuples(st.just("rotate"), st.integers(-180, 180)),
)


@settings(max_examples=60, deadline=None)
@given(st.lists(st.lists(steps, max_size=3), max_size=4))
def test_transforms_agree_with_matrices(tmp_path_factory, groups):
    inside, whole = image(), numpy.eye(3)
    for one in groups:
        words = " ".join(f"{name}({' '.join(map(str, numbers))})" for name, *numbers in one)
        inside = f'<g transform="{words}">{inside}</g>'
        here = numpy.eye(3)
        for name, *numbers in one:
            here = here @ _matrix(name, numbers)
        whole = here @ whole
    path = svg(tmp_path_factory.mktemp("svg") / "a.svg", inside, 'width="9in" height="9in"')
    (found,) = images_in(path)
    across = 300 / (numpy.hypot(*(whole[:2, 0] * 300)) / 96)
    down = 200 / (numpy.hypot(*(whole[:2, 1] * 200)) / 96)
    assert (found.density.x, found.density.y) == pytest.approx((across, down), rel=1e-6)


def _matrix(name, numbers):
    if name == "translate":
        return numpy.array([[1, 0, numbers[0]], [0, 1, numbers[1]], [0, 0, 1]])
    if name == "scale":
        return numpy.diag([numbers[0], numbers[0], 1])
    angle = math.radians(numbers[0])
    return numpy.array(
        [[math.cos(angle), -math.sin(angle), 0], [math.sin(angle), math.cos(angle), 0], [0, 0, 1]]
    )


def test_uses_symbols_patterns_and_inner_viewports(path):
    small = image('width="30" height="20"')
    inside = (
        f'<defs><symbol id="s" viewBox="0 0 300 200">{image()}</symbol>'
        '<pattern id="p" width="30" height="20" patternUnits="userSpaceOnUse">'
        f"{small}</pattern></defs>"
        '<use href="#s" width="150" height="100"/>'
        '<rect width="90" height="90" fill="url(#p)"/>'
        f'<svg x="10" width="60" height="40" viewBox="0 0 300 200">{image()}</svg>'
    )
    assert densities(svg(path, inside)) == [(200.0, 200.0), (1000.0, 1000.0), (500.0, 500.0)]


def test_style_sheets_hide_and_size(path):
    inside = "<style>.gone { display: none } #wide { width: 150px; height: 100px }</style>"
    inside += image('class="gone"') + image('id="wide"')
    found = images_in(svg(path, inside))
    assert [one.unseen for one in found] == ["hidden", ""]
    assert densities(path) == [(200.0, 200.0)]


def test_images_beside_it_only_below_its_folder(tmp_path):
    (tmp_path / "inner").mkdir()
    (tmp_path / "secret.png").write_bytes(picture(30, 20, "PNG"))
    (tmp_path / "inner/a.png").write_bytes(picture(300, 200, "PNG"))
    path = svg(
        tmp_path / "inner/drawing.svg",
        image(address="a.png")
        + image(address="../secret.png")
        + image(address="https://x.example/"),
    )
    found = images_in(path, tmp_path / "inner")
    assert [one.kind for one in found] == [ImageKind.RASTER, ImageKind.LINKED, ImageKind.LINKED]
    assert [one.kind for one in images_in(path)] == [ImageKind.LINKED] * 3


def test_a_drawing_of_a_general_library(tmp_path):
    path = tmp_path / "drawing.svg"
    drawing = svgwrite.Drawing(str(path), size=("210mm", "297mm"), viewBox="0 0 210 297")
    group = drawing.add(drawing.g(transform="translate(10,20) scale(0.5)"))
    group.add(drawing.image(DATA, insert=(5, 5), size=(60, 40)))
    drawing.save()
    assert densities(path) == [(254.0, 254.0)]


@pytest.mark.parametrize(
    ("inside", "density"),
    [
        # Of a switch the first is shown; an image without an address is none.
        (f"<switch>{image()}{image()}</switch><image/>", [(100.0, 100.0)]),
        ('<g transform="skewX(0) translate(3)">' + image() + "</g>", [(100.0, 100.0)]),
        ('<g transform="matrix(2 0 0 1 0 0)">' + image() + "</g>", [(50.0, 100.0)]),
        ('<g transform="rotate(90 10 10)">' + image() + "</g>", [(100.0, 100.0)]),
        ('<g opacity="0">' + image() + "</g>", []),
        ('<g visibility="hidden">' + image() + "</g>", []),
        (image('width="150" height="200" preserveAspectRatio="defer none"'), [(200.0, 100.0)]),
        (image('width="150" height="200" preserveAspectRatio="xMaxYMax meet"'), [(200.0, 200.0)]),
        ('<use href="#i" x="5"/><defs>' + image('id="i" width="150" height="100"') + "</defs>",
         [(200.0, 200.0)]),
        # A pattern by the box of the shape that it fills.
        ('<defs><pattern id="p" width="0.5" height="0.5" viewBox="0 0 300 200">' + image()
         + '</pattern></defs><ellipse cx="75" cy="50" rx="75" ry="50" fill="url(#p)"/>',
         [(400.0, 400.0)]),
    ],
)  # fmt: skip
def test_rarer_ways_to_show_an_image(path, inside, density):
    assert densities(svg(path, inside)) == density


def test_a_pattern_on_a_path_is_told(path):
    inside = (
        f'<defs><pattern id="p" width="1" height="1">{image()}</pattern></defs>'
        '<path d="M0 0h9v9z" fill="url(#p)"/>'
    )
    svg(path, inside)
    read = read_document(path, path.name)
    assert read.images == []
    assert "pattern whose size is not known" in read.pages[0].left_out
