"""The registry of rules: every rule is a function from a placement to a finding or None."""

from collections.abc import Callable, Iterable

from harnet.core.preflight.finding import Checked, Finding, Severity

Rule = Callable[[Checked], Finding | None]

_RANK = {severity: rank for rank, severity in enumerate(Severity)}
_RULES: dict[str, Rule] = {}


def rule(rule_id: str) -> Callable[[Rule], Rule]:
    """Registers a rule under its id."""

    def registered(function: Rule) -> Rule:
        if rule_id in _RULES:
            raise ValueError(f"two rules are called {rule_id!r}")
        _RULES[rule_id] = function
        return function

    return registered


def rule_ids() -> list[str]:
    """The ids of all rules, in the order they were written."""
    return list(_RULES)


def findings_of(checked: Checked) -> list[Finding]:
    """All findings on one placement."""
    found = (function(checked) for function in _RULES.values())
    return [finding for finding in found if finding is not None]


def worst_first(findings: Iterable[Finding]) -> list[Finding]:
    """Findings by severity, then by page; the order within a page stays."""
    return sorted(findings, key=lambda finding: (_RANK[finding.severity], finding.page_number))
