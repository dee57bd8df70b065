"""A target as plain values, for a row, a file or another process."""

from collections.abc import Mapping
from typing import Any

from harnet.core.pictures.picture import Colour
from harnet.core.targets.severity import Severity
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
        "reason": target.reason,
        "colours": [colour.value for colour in expects.colours],
        "formats": list(expects.formats),
        "profiled": [colour.value for colour in expects.profiled],
        "allows_transparency": expects.allows_transparency,
        "least_jpeg_quality": expects.least_jpeg_quality,
        "severities": {rule_id: severity.value for rule_id, severity in target.severities},
    }


def target_from_values(values: Mapping[str, Any]) -> Target:
    """The target that `target_as_values` wrote."""
    return Target(
        values["key"],
        values["name"],
        values["density_ppi"],
        values["bilevel_ppi"],
        values["floor_ppi"],
        values["ceiling_ppi"],
        values["tolerance"],
        values.get("reason", ""),
        Expectations(
            tuple(Colour(one) for one in values.get("colours", ())),
            tuple(values.get("formats", ())),
            tuple(Colour(one) for one in values.get("profiled", ())),
            values.get("allows_transparency", True),
            values.get("least_jpeg_quality", 0),
        ),
        tuple(
            (rule_id, Severity(severity))
            for rule_id, severity in values.get("severities", {}).items()
        ),
    )
