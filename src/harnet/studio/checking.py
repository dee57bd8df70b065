"""Preflight of a job."""

from dataclasses import dataclass

from harnet.core.preflight.check import check
from harnet.core.preflight.finding import Finding, Severity
from harnet.core.preflight.rules import rule_ids
from harnet.store.models import Job
from harnet.studio.placed import Placed, checked_from, placed_in


@dataclass(frozen=True, slots=True)
class Preflight:
    """What was checked, and what was found, worst first."""

    findings: tuple[Finding, ...]
    picture_count: int
    page_count: int
    rule_count: int

    @property
    def blocking_count(self) -> int:
        """Findings that must not go to print."""
        return sum(finding.severity is Severity.BLOCKING for finding in self.findings)

    def groups(self) -> list[tuple[str, list[Finding]]]:
        """Findings by subject; the subject with the worst finding comes first."""
        grouped: dict[str, list[Finding]] = {}
        for finding in self.findings:
            grouped.setdefault(finding.group, []).append(finding)
        return list(grouped.items())


def preflight_of(job: Job, placed: list[Placed] | None = None) -> Preflight:
    """Every rule on every placed picture of a job; `placed` saves reading them twice."""
    pictures = placed_in(job) if placed is None else placed
    findings = check(checked_from(job, one) for one in pictures)
    return Preflight(tuple(findings), len(pictures), len(job.pages), len(rule_ids()))
