"""Where the cells of a table lie, and shapes that are drawn into a chart."""

from collections.abc import Iterator

from harnet.media.packages.office.geometry import Frame
from harnet.media.packages.xml import Element, child, children, is_on, local, number, points

_MOST_SPANNED = 1000
_MOST_SHARE = 1000.0


def cells_of(table: Element, frame: Frame) -> Iterator[tuple[Frame, Element]]:
    """The cells of a table that are seen, row by row, each with its box (21.1.3).

    Merged cells have the box of all that they span; those they cover are left out. Columns and rows
    are as large as they say, whatever the frame around the table says.
    """
    grid = child(table, "tblGrid")
    columns = list(children(grid)) if grid is not None else []
    widths = [max(0.0, points(one.get("w"))) for one in columns]
    rows = [one for one in children(table) if local(one) == "tr"]
    heights = [max(0.0, points(one.get("h"))) for one in rows]
    for down, row in enumerate(rows):
        cells = [one for one in children(row) if local(one) == "tc"]
        for across, cell in enumerate(cells):
            if is_on(cell.get("hMerge")) or is_on(cell.get("vMerge")):
                continue
            wide, high = _spanned(cell.get("gridSpan")), _spanned(cell.get("rowSpan"))
            box = Frame(
                x=frame.x + sum(widths[:across]),
                y=frame.y + sum(heights[:down]),
                width=sum(widths[across : across + wide]),
                height=sum(heights[down : down + high]),
            )
            yield box, cell


def _spanned(text: str | None) -> int:
    return min(_MOST_SPANNED, max(1, int(number(text, 1.0))))


def anchored(anchor: Element, chart: Frame) -> Frame:
    """The box of a shape in a chart: its corners are shares of the chart (21.3.2)."""
    start, end = _corner(child(anchor, "from")), _corner(child(anchor, "to"))
    extent = child(anchor, "ext")
    if extent is not None:
        width, height = points(extent.get("cx")), points(extent.get("cy"))
    else:
        width = (end[0] - start[0]) * chart.width
        height = (end[1] - start[1]) * chart.height
    return Frame(
        x=chart.x + start[0] * chart.width,
        y=chart.y + start[1] * chart.height,
        width=max(0.0, width),
        height=max(0.0, height),
    )


def _corner(element: Element | None) -> tuple[float, float]:
    texts = [(one.text or "").strip() for one in children(element)] if element is not None else []
    if len(texts) < 2:
        return 0.0, 0.0
    x, y = (min(_MOST_SHARE, max(-_MOST_SHARE, number(one))) for one in texts[:2])
    return x, y
