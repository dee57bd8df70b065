"""The report of a job's check: what was checked, what was found, what was accepted and why."""

from collections.abc import Sequence
from dataclasses import dataclass
from datetime import datetime
from functools import cached_property
from math import ceil
from typing import Any

from sqlalchemy.orm import Session

from harnet.core.ledger.lines import LineFilter
from harnet.core.measure.units import Unit
from harnet.core.preflight.rules import Rule, job_rules
from harnet.core.targets.severity import Severity
from harnet.core.targets.target import Target
from harnet.core.targets.values import target_as_values
from harnet.store.base import now_utc
from harnet.store.tables.jobs import Job
from harnet.studio.common.errors import NotThere
from harnet.studio.jobs.jobs import target_of
from harnet.studio.judging.judging import catch_up
from harnet.studio.judging.subjects import spoken_unit
from harnet.studio.layout.placed import PICTURE, Placed, placed_from
from harnet.studio.layout.placing import items_in
from harnet.studio.ledger.lines import placed_of
from harnet.studio.preflight.checking import (
    CheckedCounts,
    JobCounts,
    Listed,
    counts_of,
    findings_in,
    scope_of,
)
from harnet.studio.preflight.gate import GateOverride, passed_of
from harnet.studio.preflight.speaking import spoken_in

A_PART = 200
"""Findings that are shown at once."""


@dataclass(frozen=True, kw_only=True)
class Report:
    """Everything that a report says; all its forms are written from this."""

    job_id: int
    unit: Unit
    """What its lengths are said in."""
    title: str
    made_at: datetime
    target: Target
    scope: CheckedCounts
    counts: JobCounts
    findings: Sequence[Listed]
    accepted: Sequence[Listed]
    placed: Sequence[Placed]
    passed: Sequence[GateOverride]
    part: int | None = None
    """Which part of the findings this is, counted from 1; None where it holds them all."""

    @property
    def parts(self) -> int:
        """How many parts it takes to show them all, part by part."""
        most = max(self.counts.open_findings, self.counts.accepted)
        return max(1, ceil(most / A_PART))

    @property
    def previous_part(self) -> int | None:
        """The part before this one, if there is one."""
        return self.part - 1 if self.part and self.part > 1 else None

    @property
    def next_part(self) -> int | None:
        """The part after this one, if there is one."""
        return self.part + 1 if self.part and self.part < self.parts else None

    @property
    def is_held(self) -> bool:
        """Whether the gate is held."""
        return self.counts.blocking > 0

    @cached_property
    def placed_by_item(self) -> dict[int, Placed]:
        """Each placement by its item's number."""
        return {one.item.id: one for one in self.placed}


def report_of(
    session: Session, job: Job, part: int | None = None, unit: Unit | None = None
) -> Report:
    """The report of a job as it stands now; with a `part`, only that many of its findings at once,
    and of the placed pictures those that they are about. `unit` is what its lengths are said in,
    without one the job's.

    Raises:
        NotThere: there is no such part.
    """
    catch_up(session, job)
    target = target_of(job)
    counts = counts_of(job)
    first, most = 0, None
    if part is not None:
        first, most = (part - 1) * A_PART, A_PART
        if part < 1 or (part > 1 and first >= max(counts.open_findings, counts.accepted)):
            raise NotThere("The report no longer has that part.")
    findings = findings_in(session, job, first=first, most=most)
    accepted = findings_in(session, job, are_accepted=True, first=first, most=most)
    if part is not None:
        about = {one.row.item_id: one.page_number for one in findings}
        items = [item for item in items_in(session, job, about) if item.kind == PICTURE]
        placed = [placed_from(item, about[item.id], target) for item in items]
    else:
        placed = placed_of(session, job, LineFilter())
    unit = unit or spoken_unit(job)
    return Report(
        job_id=job.id,
        unit=unit,
        title=job.title,
        made_at=now_utc(),
        target=target,
        scope=scope_of(session, job),
        counts=counts,
        findings=spoken_in(job, findings, unit),
        accepted=spoken_in(job, accepted, unit),
        placed=placed,
        passed=passed_of(session, job),
        part=part,
    )


def report_as_json(report: Report) -> dict[str, Any]:
    """The report in its published form, `docs/schemas/job-report.schema.json`.

    Densities are ppi, lengths points, shares shares of one.
    """
    return {
        "format": "harnet job report",
        "version": 2,
        "job": report.title,
        "made_at": report.made_at.isoformat(timespec="seconds"),
        "target": target_as_values(report.target),
        "checked": {
            "pictures": report.scope.pictures,
            "texts": report.scope.texts,
            "pages": report.scope.pages,
            "rules": [rule.id for rule in rules_asked(report.target)],
        },
        "gate": "held" if report.is_held else "open",
        "verdicts": {verdict.value: count for verdict, count in report.counts.verdicts.items()},
        "findings": [_finding(one) for one in report.findings],
        "accepted": [
            _finding(one)
            | {
                "reason": one.acceptance.reason,
                "accepted_by": one.acceptance.name,
                "accepted_at": one.acceptance.accepted_at.isoformat(timespec="seconds"),
            }
            for one in report.accepted
            if one.acceptance is not None
        ],
        "exported_despite_findings": [
            {
                "file": one.file_name,
                "reason": one.reason,
                "name": one.name,
                "findings": list(one.findings),
                "requested_at": one.requested_at.isoformat(timespec="seconds"),
            }
            for one in report.passed
        ],
        "pictures": [_picture(one) for one in report.placed],
    }


def rules_asked(target: Target) -> list[Rule]:
    """The rules that a target does not switch off."""
    return [
        rule
        for rule in job_rules()
        if target.severity_of(rule.id, rule.severity) is not Severity.OFF
    ]


def _finding(one: Listed) -> dict[str, Any]:
    row = one.row
    return {
        "rule": row.rule_id,
        "severity": one.severity.value,
        "page": one.page_number,
        "item": row.item_id,
        "name": row.name,
        "headline": row.headline,
        "sentence": row.sentence,
    }


def _picture(placed: Placed) -> dict[str, Any]:
    figures, item = placed.figures, placed.item
    assert item.picture is not None
    frame, density = placed.placement.frame, figures.density
    return {
        "page": placed.page_number,
        "item": item.id,
        "name": placed.name,
        "px_w": item.picture.facts["px_w"],
        "px_h": item.picture.facts["px_h"],
        "width_pt": round(frame.width, 4),
        "height_pt": round(frame.height, 4),
        "ppi_x": None if density is None else round(density.x, 3),
        "ppi_y": None if density is None else round(density.y, 3),
        "ppi_min": None if density is None else round(density.worst, 3),
        "target_ppi": figures.target.density_ppi,
        "verdict": figures.verdict.value,
        "headroom": None if figures.headroom is None else round(figures.headroom, 4),
        "evenness": round(figures.evenness, 4),
        "file": placed.file_state.value,
        "colour": item.picture.facts["colour"],
        "licence": item.picture.licence,
        "credit": item.picture.credit,
    }


COLUMNS = (
    *("page", "item", "name", "px_w", "px_h", "width_pt", "height_pt", "ppi_x", "ppi_y", "ppi_min"),
    *("target_ppi", "verdict", "headroom", "evenness", "file", "colour", "licence", "credit"),
    "findings",
)
"""The columns of the report as CSV: a row for each placed picture."""


def report_as_rows(report: Report) -> list[list[Any]]:
    """The lines below `COLUMNS`; findings, accepted ones marked, stand in the last."""
    sentences: dict[int, list[str]] = {}
    for one in report.findings:
        sentences.setdefault(one.row.item_id, []).append(
            f"{one.severity.value}: {one.row.headline}"
        )
    for one in report.accepted:
        sentences.setdefault(one.row.item_id, []).append(f"accepted: {one.row.headline}")
    rows = []
    for placed in report.placed:
        values = _picture(placed)
        values["findings"] = "; ".join(sentences.get(placed.item.id, []))
        rows.append([values[name] for name in COLUMNS])
    return rows
