"""A target as plain values, for a row, a file or another process."""

from collections.abc import Mapping
from typing import Any

from harnet.core.pictures.picture import Colour
from harnet.core.targets.severity import Severity
from harnet.core.targets.shipped import shipped
from harnet.core.targets.target import Expectations, Target


def target_as_values(target: Target) -> dict[str, Any]:
    """The target as what JSON can hold; densities in ppi, the tolerance as a share."""
    expects = target.expects
    return {
        "key": target.key,
        "name": target.name,
        "density_ppi": target.density_ppi,
        "bilevel_ppi": target.bilevel_ppi,
        "floor_ppi": target.floor_ppi,
        "ceiling_ppi": target.ceiling_ppi,
        "tolerance": target.tolerance,
        "screen_lpi": target.screen_lpi,
        "reason": target.reason,
        "colours": [colour.value for colour in expects.colours],
        "formats": list(expects.formats),
        "profiled": [colour.value for colour in expects.profiled],
        "allows_transparency": expects.allows_transparency,
        "least_jpeg_quality": expects.least_jpeg_quality,
        "severities": {rule_id: severity.value for rule_id, severity in target.severities},
    }


def _screen_of(key: str) -> float:
    """The line screen of a target that was kept before targets had one."""
    known = shipped(key)
    return known.screen_lpi if known is not None else 0.0


def target_from_values(values: Mapping[str, Any]) -> Target:
    """The target that `target_as_values` wrote."""
    return Target(
        key=values["key"],
        name=values["name"],
        density_ppi=values["density_ppi"],
        bilevel_ppi=values["bilevel_ppi"],
        floor_ppi=values["floor_ppi"],
        ceiling_ppi=values["ceiling_ppi"],
        tolerance=values["tolerance"],
        screen_lpi=values.get("screen_lpi", _screen_of(values["key"])),
        reason=values.get("reason", ""),
        expects=Expectations(
            colours=tuple(Colour(one) for one in values.get("colours", ())),
            formats=tuple(values.get("formats", ())),
            profiled=tuple(Colour(one) for one in values.get("profiled", ())),
            allows_transparency=values.get("allows_transparency", True),
            least_jpeg_quality=values.get("least_jpeg_quality", 0),
        ),
        severities=tuple(
            (rule_id, Severity(severity))
            for rule_id, severity in values.get("severities", {}).items()
        ),
    )
