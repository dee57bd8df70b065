"""Facing pages: which pages are seen together, and on which side they meet."""

from harnet.core.layout.page_edges import Side


def spread_at(number: int, count: int, is_facing: bool) -> list[int]:
    """The numbers of the pages seen together with one, from 1; the first stands alone.

    >>> spread_at(5, 12, True)
    [4, 5]
    """
    if not is_facing or number == 1:
        return [number]
    left = number - number % 2
    return [one for one in (left, left + 1) if one <= count]


def spine_side(number: int, is_facing: bool) -> Side | None:
    """The edge at which a page meets the next one; the first page lies on the right.

    >>> spine_side(1, True)
    <Side.LEFT: 'left'>
    """
    if not is_facing:
        return None
    return Side.LEFT if number % 2 else Side.RIGHT


def facing_page(number: int, count: int, is_facing: bool) -> int | None:
    """The number of the page that lies beside one in its spread; None for one that lies alone.

    >>> facing_page(4, 12, True), facing_page(1, 12, True)
    (5, None)
    """
    others = [one for one in spread_at(number, count, is_facing) if one != number]
    return others[0] if others else None


def shift_to_facing(number: int, width_pt: float, facing_width_pt: float) -> float:
    """How far something on a page moves across to keep its place, seen from the page beside it.

    Widths are those of the page and of the one beside it; even pages lie on the left.
    """
    return facing_width_pt if number % 2 else -width_pt
