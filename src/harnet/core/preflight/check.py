"""The whole check of a set of placements."""

from collections.abc import Iterable

from harnet.core.preflight import density_rules, file_rules
from harnet.core.preflight.finding import Checked, Finding
from harnet.core.preflight.rules import findings_of, worst_first

FAMILIES = (density_rules, file_rules)
"""Importing a family registers its rules."""


def check(placements: Iterable[Checked]) -> list[Finding]:
    """Every finding on every placement, worst first."""
    return worst_first(finding for checked in placements for finding in findings_of(checked))
