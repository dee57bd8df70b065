"""The whole check of a set of subjects."""

from collections.abc import Iterable, Sequence

from harnet.core.preflight import (
    colour_rules,
    density_rules,
    file_rules,
    package_rules,
    page_rules,
    pdf_rules,
)
from harnet.core.preflight.finding import Finding
from harnet.core.preflight.rules import Rule, findings_of, worst_first
from harnet.core.preflight.subject import Subject

FAMILIES = (density_rules, colour_rules, file_rules, page_rules, package_rules, pdf_rules)
"""Importing a family registers its rules."""
RULES_VERSION = 6
"""Raised when a rule's meaning changes, so that kept findings are found again."""


def check(subjects: Iterable[Subject], rules: Sequence[Rule] | None = None) -> list[Finding]:
    """Every finding on every subject, worst first; or only those of some rules."""
    return worst_first(finding for subject in subjects for finding in findings_of(subject, rules))
