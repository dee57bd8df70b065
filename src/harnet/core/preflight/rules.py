"""The registry of rules: every rule is a function from a subject to what it found, or None."""

from collections.abc import Callable, Iterable
from dataclasses import dataclass
from functools import cache
from typing import Any, TypeVar

from harnet.core.preflight.finding import Finding, RuleResult
from harnet.core.preflight.subject import Checked, CheckedDocument, CheckedImage, Subject
from harnet.core.targets.severity import Severity

_Kind = TypeVar("_Kind", bound=Subject)


@dataclass(frozen=True, slots=True, kw_only=True, eq=False)
class Rule:
    """A rule: its id, the group its findings stand in, its own severity, what it looks for."""

    id: str
    group: str
    severity: Severity
    looks_for: str
    on: type[Any]
    find: Callable[..., RuleResult | None]

    def finding_on(self, subject: Subject, severity: Severity) -> Finding | None:
        """What it finds on a subject of its kind, with the severity given."""
        found = self.find(subject)
        if found is None:
            return None
        return Finding(
            rule_id=self.id,
            group=self.group,
            severity=severity,
            item_id=subject.item_id,
            page_number=subject.page_number,
            name=subject.name,
            headline=found.headline,
            sentence=found.sentence,
            fixes=found.fixes,
            badness=found.badness,
        )


_FAMILIES = (
    "density_rules",
    "file_rules",
    "page_rules",
    "colour_rules",
    "package_rules",
    "pdf_rules",
)
"""The order of the families, by the names of their modules: what decides about print first."""
_RULES: dict[str, Rule] = {}


def rule(
    rule_id: str, group: str, severity: Severity, looks_for: str, on: type[_Kind]
) -> Callable[[Callable[[_Kind], RuleResult | None]], Callable[[_Kind], RuleResult | None]]:
    """Registers a function as a rule on one kind of subject."""

    def registered(
        function: Callable[[_Kind], RuleResult | None],
    ) -> Callable[[_Kind], RuleResult | None]:
        if rule_id in _RULES:
            raise ValueError(f"two rules are called {rule_id!r}")
        _RULES[rule_id] = Rule(
            id=rule_id, group=group, severity=severity, looks_for=looks_for, on=on, find=function
        )
        return function

    return registered


def picture_rule(
    rule_id: str, group: str, severity: Severity, looks_for: str
) -> Callable[[Callable[[Checked], RuleResult | None]], Callable[[Checked], RuleResult | None]]:
    """Registers a function as a rule on placed pictures."""
    return rule(rule_id, group, severity, looks_for, Checked)


def all_rules() -> list[Rule]:
    """Every rule, family by family, in the order they were written."""
    return list(_in_order())


def job_rules() -> list[Rule]:
    """The rules that look at a job."""
    return [one for one in _in_order() if one.on not in (CheckedDocument, CheckedImage)]


@cache
def _in_order() -> tuple[Rule, ...]:
    def family(one: Rule) -> int:
        return _FAMILIES.index(one.find.__module__.rpartition(".")[2])

    return tuple(sorted(_RULES.values(), key=family))


@cache
def _ranks() -> dict[str, int]:
    return {one.id: rank for rank, one in enumerate(_in_order())}


def rule_rank(rule_id: str) -> int:
    """The place of a rule among all, 0 for the first."""
    return _ranks()[rule_id]


def findings_of(subject: Subject, rules: Iterable[Rule] | None = None) -> list[Finding]:
    """All findings on one subject, or only those of some rules; its target tells how severe."""
    among = _in_order() if rules is None else tuple(rules)
    key = (among, type(subject), subject.target.severities)
    if key not in _LOOKING:
        _LOOKING[key] = _looking(*key)
    found = (one.finding_on(subject, severity) for one, severity in _LOOKING[key])
    return [finding for finding in found if finding is not None]


def _looking(
    rules: tuple[Rule, ...], kind: type[Any], severities: tuple[tuple[str, Severity], ...]
) -> list[tuple[Rule, Severity]]:
    """The rules that look at a kind of subject, without those that a target switched off."""
    own = dict(severities)
    ours = ((one, own.get(one.id, one.severity)) for one in rules if issubclass(kind, one.on))
    return [(one, severity) for one, severity in ours if severity is not Severity.OFF]


_LOOKING: dict[Any, list[tuple[Rule, Severity]]] = {}
"""What `_looking` found; a studio has a handful of targets with severities of their own."""


def worst_first(findings: Iterable[Finding]) -> list[Finding]:
    """Findings by severity, then rule by rule, the worst figures first, then by page."""
    return sorted(
        findings,
        key=lambda finding: (
            finding.severity.rank,
            rule_rank(finding.rule_id),
            -finding.badness,
            finding.page_number,
        ),
    )
