"""How what is drawn follows the hand, as matrices that are linear in the way the hand went.

The page shows the hand's next place before the server was asked: it adds these up. Bounds, snapping
and everything that is judged come with the server's answer.
"""

from dataclasses import dataclass

from harnet.core.layout.hand.gesture import Handle
from harnet.core.measure.geometry import Box, Matrix, turned_about

_Growth = tuple[tuple[float, float], tuple[float, float]]
"""How each own axis grows by a way along the own axes."""
Change = tuple[float, float, float, float, float, float]
"""What is added to an affine matrix, in its order a, b, c, d, e, f."""


@dataclass(frozen=True, slots=True)
class Way:
    """After the hand went x and y points, the map is the identity plus x `across` and y `down`."""

    across: Change
    down: Change

    def map_after(self, dx_pt: float, dy_pt: float) -> Matrix:
        """The map of the page that brings the frame from where it was to where it is."""
        one, two = self.across, self.down
        a, b, c, d, e, f = (dx_pt * x + dy_pt * y for x, y in zip(one, two, strict=True))
        return Matrix(1 + a, b, c, 1 + d, e, f)


def ways_of(
    box: Box, rotation_deg: float, handle: Handle, *, is_proportional: bool
) -> tuple[Way, ...]:
    """How a frame follows a handle that is pulled; of two ways the one that makes it larger holds.

    `box` is the frame before it is turned about its middle. With its proportion kept, a corner goes
    as far as the axis does along which it is pulled farther.
    """
    share_x, share_y = handle.value
    turn = turned_about(rotation_deg, box.centre)
    anchor = turn.applied(box.x + (1 - share_x) * box.width, box.y + (1 - share_y) * box.height)
    along = ((2 * share_x - 1) / box.width, (2 * share_y - 1) / box.height)
    if is_proportional and handle.is_corner:
        by_width, by_height = (along[0], 0.0), (0.0, along[1])
        shapes: list[_Growth] = [(by_width, by_width), (by_height, by_height)]
    else:
        shapes = [((along[0], 0.0), (0.0, along[1]))]
    return tuple(
        Way(
            _change(anchor, rotation_deg, shape, (1.0, 0.0)),
            _change(anchor, rotation_deg, shape, (0.0, 1.0)),
        )
        for shape in shapes
    )


def _change(
    anchor: tuple[float, float],
    rotation_deg: float,
    shape: _Growth,
    hand: tuple[float, float],
) -> Change:
    """What a way of the hand adds to the map."""
    dx, dy = Matrix.rotation(-rotation_deg).applied(*hand)
    grows = [by_x * dx + by_y * dy for by_x, by_y in shape]
    to_own = Matrix.translation(-anchor[0], -anchor[1]).then(Matrix.rotation(-rotation_deg))
    back = Matrix.rotation(rotation_deg)
    # The place of the anchor is no part of what is added: there nothing moves.
    added = to_own.then(Matrix.scaling(*grows)).then(back)
    return added.as_tuple()
