"""Targets: what an output needs of a picture."""

from dataclasses import dataclass

from harnet.core.errors import ValueOutOfRange

DEFAULT_TOLERANCE = 0.10
"""Common practice, no source: 279 ppi in a job of 300 ppi is fine."""
_LOWEST_PPI, _HIGHEST_PPI = 1.0, 10_000.0


@dataclass(frozen=True, slots=True)
class Target:
    """A wanted density with its limits, in ppi.

    Below `floor_ppi` a picture is unusable, above `ceiling_ppi` its pixels are wasted; 1-bit
    pictures are judged against `bilevel_ppi`.
    """

    key: str
    name: str
    density_ppi: float
    bilevel_ppi: float
    floor_ppi: float
    ceiling_ppi: float
    tolerance: float = DEFAULT_TOLERANCE

    @property
    def passes_from_ppi(self) -> float:
        """The lowest density within tolerance."""
        return self.density_ppi * (1 - self.tolerance)

    def for_bits(self, is_bilevel: bool) -> "Target":
        """The limits that apply to a picture: a 1-bit one has its own, in proportion."""
        if not is_bilevel or self.bilevel_ppi == self.density_ppi:
            return self
        factor = self.bilevel_ppi / self.density_ppi
        return Target(
            self.key,
            self.name,
            self.bilevel_ppi,
            self.bilevel_ppi,
            self.floor_ppi * factor,
            self.ceiling_ppi * factor,
            self.tolerance,
        )


def _target(key: str, name: str, density_ppi: float, bilevel_ppi: float) -> Target:
    """A target whose floor is a third and whose ceiling is three times its density.

    Common practice, no source: at a third pixels show as steps, above three times nobody gains.
    """
    return Target(key, name, density_ppi, bilevel_ppi, density_ppi / 3, density_ppi * 3)


SHIPPED: tuple[Target, ...] = (
    # Densities and the 1-bit densities are common practice, no source.
    _target("coated", "Coated press", 300, 1200),
    _target("office", "Office printer", 220, 600),
    _target("large", "Large format", 150, 300),
    _target("slides", "Slides", 96, 96),
    _target("screen", "Web screen", 72, 72),
)


def own_target(density_ppi: float) -> Target:
    """A bare figure as target: it asks the same of tone pictures and of 1-bit art.

    Raises:
        ValueOutOfRange: the figure lies outside 1 to 10 000 ppi.
    """
    if not _LOWEST_PPI <= density_ppi <= _HIGHEST_PPI:
        raise ValueOutOfRange(
            f"a target lies between {_LOWEST_PPI:g} and {_HIGHEST_PPI:g} ppi, not {density_ppi:g}"
        )
    return _target("own", "Own figure", density_ppi, density_ppi)


def target_named(text: str) -> Target:
    """The target meant by a key, a name or a figure in ppi.

    Raises:
        ValueOutOfRange: neither a shipped target nor a figure.

    >>> target_named("office").density_ppi
    220
    """
    wanted = text.strip().lower()
    for target in SHIPPED:
        if wanted in (target.key, target.name.lower()):
            return target
    try:
        figure = float(wanted.removesuffix("ppi").strip().replace(",", "."))
    except ValueError:
        known = ", ".join(target.key for target in SHIPPED)
        raise ValueOutOfRange(
            f"“{text}” is not a target; use a figure in ppi or one of {known}"
        ) from None
    return own_target(figure)
