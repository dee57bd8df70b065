"""A slide or a page as a sketch: pictures in place, text as grey lines, shapes as outlines."""

from base64 import b64encode
from collections.abc import Callable
from html import escape

import pyvips

from harnet.core.documents.sketch import MarkKind, SketchMark
from harnet.core.measure.geometry import Matrix

_FLIPPED = Matrix(1, 0, 0, -1, 0, 1)
_TEXT, _LINE, _EMPTY = "#d3d7de", "#b9bfc9", "#f3f4f6"
_PT_PER_LINE = 20.0
_LEAST_PX = 16
Look = Callable[[str, int], bytes | None]
"""A picture by its part, as PNG or JPEG of at most so many pixels on its longer edge; or None."""


def sketch_png(
    marks: list[SketchMark], size_pt: tuple[float, float], edge_px: int, look: Look
) -> bytes:
    """The sketch as PNG, its longer edge of so many pixels.

    Raises:
        pyvips.Error: it cannot be drawn.
    """
    width, height = size_pt
    scale = edge_px / max(width, height)
    to_down = Matrix(1, 0, 0, -1, 0, height)
    body = "".join(
        _drawn(number, mark, _FLIPPED.then(mark.matrix).then(to_down), scale, look)
        for number, mark in enumerate(marks)
    )
    px_w, px_h = max(1, round(width * scale)), max(1, round(height * scale))
    svg = (
        '<svg xmlns="http://www.w3.org/2000/svg" xmlns:xlink="http://www.w3.org/1999/xlink"'
        f' width="{px_w}" height="{px_h}" viewBox="0 0 {width:.3f} {height:.3f}">'
        f'<rect width="{width:.3f}" height="{height:.3f}" fill="#fff"/>{body}</svg>'
    )
    image = pyvips.Image.svgload_buffer(svg.encode(), unlimited=True)
    return bytes(image.flatten(background=255).pngsave_buffer(compression=3, keep="none"))


def _drawn(number: int, mark: SketchMark, matrix: Matrix, scale: float, look: Look) -> str:
    if mark.kind is MarkKind.PICTURE:
        return _picture(number, mark, matrix, scale, look)
    if mark.kind is MarkKind.TEXT:
        return _text(mark, matrix)
    fill = _EMPTY if mark.kind is MarkKind.EMPTY else "none"
    drawn = _outline(matrix, fill)
    if mark.kind is MarkKind.EMPTY:
        ends = [matrix.applied(x, y) for x, y in ((0, 0), (1, 1), (1, 0), (0, 1))]
        drawn += "".join(
            f'<line x1="{a[0]:.2f}" y1="{a[1]:.2f}" x2="{b[0]:.2f}" y2="{b[1]:.2f}"'
            f' stroke="{_LINE}" stroke-width="1"/>'
            for a, b in ((ends[0], ends[1]), (ends[2], ends[3]))
        )
    return drawn


def _outline(matrix: Matrix, fill: str) -> str:
    points = " ".join(f"{x:.2f},{y:.2f}" for x, y in matrix.corners)
    return f'<polygon points="{points}" fill="{fill}" stroke="{_LINE}" stroke-width="1"/>'


def _text(mark: SketchMark, matrix: Matrix) -> str:
    """Grey lines, as many as the frame holds, the last one shorter."""
    high = max(matrix.v_length, 1e-6)
    step = min(_PT_PER_LINE / high, 1 / max(1, mark.lines))
    drawn = ""
    for line in range(mark.lines):
        end = 0.62 if line == mark.lines - 1 and mark.lines > 1 else 0.96
        top, bottom = (line + 0.3) * step, (line + 0.7) * step
        box = Matrix(end - 0.04, 0, 0, bottom - top, 0.04, top).then(matrix)
        points = " ".join(f"{x:.2f},{y:.2f}" for x, y in box.corners)
        drawn += f'<polygon points="{points}" fill="{_TEXT}"/>'
    return drawn


def _picture(number: int, mark: SketchMark, matrix: Matrix, scale: float, look: Look) -> str:
    edge = max(_LEAST_PX, round(max(matrix.u_length, matrix.v_length) * scale))
    data = look(mark.part, edge)
    left, top, right, bottom = mark.crop
    shown = Matrix(1 - left - right, 0, 0, 1 - top - bottom, left, top).then(matrix)
    if data is None:
        return _drawn(
            number, SketchMark(kind=MarkKind.EMPTY, matrix=mark.matrix), shown, scale, look
        )
    kind = "png" if data[:4] == b"\x89PNG" else "jpeg"
    a, b, c, d, e, f = matrix.as_tuple()
    place = f"matrix({a:.6f} {b:.6f} {c:.6f} {d:.6f} {e:.4f} {f:.4f})"
    clip = ""
    if any(mark.crop):
        clip = f' clip-path="url(#c{number})"'
        drawn = (
            f'<clipPath id="c{number}"><rect x="{left:.6f}" y="{top:.6f}"'
            f' width="{1 - left - right:.6f}" height="{1 - top - bottom:.6f}"/></clipPath>'
        )
    else:
        drawn = ""
    address = escape(f"data:image/{kind};base64,{b64encode(data).decode()}")
    return (
        f'<g transform="{place}">{drawn}<image width="1" height="1" preserveAspectRatio="none"'
        f'{clip} xlink:href="{address}"/></g>'
    )
