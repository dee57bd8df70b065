"""The whole check of a set of subjects."""

from collections.abc import Iterable

from harnet.core.preflight import colour_rules, density_rules, file_rules, page_rules, pdf_rules
from harnet.core.preflight.finding import Finding
from harnet.core.preflight.rules import findings_of, worst_first
from harnet.core.preflight.subject import Subject

FAMILIES = (density_rules, colour_rules, file_rules, page_rules, pdf_rules)
"""Importing a family registers its rules."""
RULES_VERSION = 2
"""Raised when a rule's meaning changes, so that kept findings are found anew."""


def check(subjects: Iterable[Subject]) -> list[Finding]:
    """Every finding on every subject, worst first."""
    return worst_first(finding for subject in subjects for finding in findings_of(subject))
