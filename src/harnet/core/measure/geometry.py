"""Where things lie: the matrix from a picture to its page, points and boxes.

Conventions: lengths are points, the origin is the trim's top left corner, y grows downwards.
A matrix maps `(x, y)` to `(a·x + c·y + e, b·x + d·y + f)`, so its columns are `u = (a, b)` and
`v = (c, d)`. A picture is the unit square with its own top left corner at `(0, 0)`.
"""

import math
from dataclasses import dataclass


@dataclass(frozen=True, slots=True)
class Matrix:
    """An affine map of the plane."""

    a: float = 1.0
    b: float = 0.0
    c: float = 0.0
    d: float = 1.0
    e: float = 0.0
    f: float = 0.0

    @classmethod
    def translation(cls, x: float, y: float) -> "Matrix":
        """Moves by `(x, y)`."""
        return cls(e=x, f=y)

    @classmethod
    def scaling(cls, x: float, y: float) -> "Matrix":
        """Scales the axes by `x` and `y`."""
        return cls(a=x, d=y)

    @classmethod
    def rotation(cls, angle_deg: float) -> "Matrix":
        """Turns from the x axis towards the y axis: clockwise on a page whose y grows downwards."""
        cos, sin = math.cos(math.radians(angle_deg)), math.sin(math.radians(angle_deg))
        return cls(cos, sin, -sin, cos)

    def then(self, outer: "Matrix") -> "Matrix":
        """This map followed by `outer`.

        >>> Matrix.scaling(2, 2).then(Matrix.translation(5, 0)).applied(1, 1)
        (7.0, 2.0)
        """
        return Matrix(
            outer.a * self.a + outer.c * self.b,
            outer.b * self.a + outer.d * self.b,
            outer.a * self.c + outer.c * self.d,
            outer.b * self.c + outer.d * self.d,
            outer.a * self.e + outer.c * self.f + outer.e,
            outer.b * self.e + outer.d * self.f + outer.f,
        )

    def applied(self, x: float, y: float) -> tuple[float, float]:
        """The image of a point."""
        return self.a * x + self.c * y + self.e, self.b * x + self.d * y + self.f

    @property
    def determinant(self) -> float:
        """The signed area of the unit square's image."""
        return self.a * self.d - self.b * self.c

    @property
    def inverse(self) -> "Matrix":
        """The map that undoes this one; it must not be flat.

        >>> Matrix.scaling(2, 4).then(Matrix.scaling(2, 4).inverse)
        Matrix(a=1.0, b=0.0, c=0.0, d=1.0, e=0.0, f=0.0)
        """
        by = 1 / self.determinant
        a, b, c, d = self.d * by, 0 - self.b * by, 0 - self.c * by, self.a * by
        return Matrix(a, b, c, d, 0 - a * self.e - c * self.f, 0 - b * self.e - d * self.f)

    @property
    def u_length(self) -> float:
        """Length of the first column."""
        return math.hypot(self.a, self.b)

    @property
    def v_length(self) -> float:
        """Length of the second column."""
        return math.hypot(self.c, self.d)

    @property
    def corners(self) -> list[tuple[float, float]]:
        """The corners of the unit square's image, in turn from the one at the origin."""
        return [self.applied(x, y) for x, y in ((0, 0), (1, 0), (1, 1), (0, 1))]

    def as_tuple(self) -> tuple[float, float, float, float, float, float]:
        """The six numbers in the order that SVG and PDF write them."""
        return self.a, self.b, self.c, self.d, self.e, self.f


@dataclass(frozen=True, slots=True)
class Box:
    """An upright rectangle: top left corner and size, in points."""

    x: float
    y: float
    width: float
    height: float

    @property
    def centre(self) -> tuple[float, float]:
        """The middle point."""
        return self.x + self.width / 2, self.y + self.height / 2

    def corners(self) -> list[tuple[float, float]]:
        """Top left, top right, bottom right, bottom left."""
        right, bottom = self.x + self.width, self.y + self.height
        return [(self.x, self.y), (right, self.y), (right, bottom), (self.x, bottom)]


def turned_about(angle_deg: float, centre: tuple[float, float]) -> Matrix:
    """The rotation that leaves `centre` where it is."""
    if not angle_deg:
        return Matrix()
    x, y = centre
    return (
        Matrix.translation(-x, -y).then(Matrix.rotation(angle_deg)).then(Matrix.translation(x, y))
    )


def quarter_turns(orientation: int) -> Matrix:
    """The map from a stored picture's unit square to the upright one.

    `orientation` is the Exif Orientation tag, 1 to 8 (CIPA DC-008, from memory); anything else
    counts as 1.
    """
    return {
        2: Matrix(-1, 0, 0, 1, 1, 0),
        3: Matrix(-1, 0, 0, -1, 1, 1),
        4: Matrix(1, 0, 0, -1, 0, 1),
        5: Matrix(0, 1, 1, 0, 0, 0),
        6: Matrix(0, 1, -1, 0, 1, 0),
        7: Matrix(0, -1, -1, 0, 1, 1),
        8: Matrix(0, -1, 1, 0, 0, 1),
    }.get(orientation, Matrix())
