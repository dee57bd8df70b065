"""Findings in the unit of who reads them: kept in the unit of the job, said again in another."""

from collections.abc import Sequence
from dataclasses import replace

from harnet.core.measure.units import Unit
from harnet.core.preflight.finding import Finding
from harnet.core.preflight.rules import findings_of
from harnet.store.tables.jobs import Job
from harnet.store.tables.preflight import FindingRow
from harnet.studio.jobs.jobs import page_of, target_of
from harnet.studio.judging.subjects import spoken_unit, subjects_on
from harnet.studio.preflight.checking import Listed

_FIELDS = tuple(column.key for column in FindingRow.__table__.columns)


def spoken_in(job: Job, listed: Sequence[Listed], unit: Unit) -> list[Listed]:
    """The same findings with their lengths in a unit; nothing that is kept changes.

    Only the pages that they stand on are looked at, and pages in the unit of the job not at all.
    """
    if unit is spoken_unit(job) or not listed:
        return list(listed)
    said: dict[tuple[int, str], Finding] = {}
    for number in {one.page_number for one in listed}:
        page = page_of(job, number)
        for subject, _ in subjects_on(job, page, page.items, target_of(job), unit):
            said.update({(one.item_id, one.rule_id): one for one in findings_of(subject)})
    return [_said(one, said.get((one.row.item_id, one.row.rule_id))) for one in listed]


def _said(listed: Listed, finding: Finding | None) -> Listed:
    if finding is None:
        return listed
    # A row of its own that no session knows, so that nothing of this is ever written.
    values = {name: getattr(listed.row, name) for name in _FIELDS}
    values |= {"headline": finding.headline, "sentence": finding.sentence}
    return replace(listed, row=FindingRow(**values))
