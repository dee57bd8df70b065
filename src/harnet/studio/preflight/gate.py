"""The gate before the PDF: held while something blocks, passed only with a reason that is kept."""

from collections.abc import Mapping, Sequence
from dataclasses import dataclass
from datetime import datetime
from typing import Any

from sqlalchemy import select
from sqlalchemy.orm import Session

from harnet.core.measure.wording import counted
from harnet.core.targets.severity import Severity
from harnet.store.tables.jobs import Job
from harnet.store.tables.output import Output
from harnet.studio.common.errors import GateHeld
from harnet.studio.common.reasons import trimmed
from harnet.studio.judging.judging import catch_up
from harnet.studio.preflight.checking import counts_of, findings_in

_KEY = "passed_gate"
_MOST_LISTED = 50


@dataclass(frozen=True, slots=True, kw_only=True)
class GateOverride:
    """An output that left although something blocked: who let it, why, and what blocked."""

    file_name: str
    reason: str
    name: str
    findings: Sequence[str]
    requested_at: datetime


def gate_settings(session: Session, job: Job, reason: str = "", name: str = "") -> dict[str, Any]:
    """What an output's settings keep of the gate: nothing while it is open.

    Raises:
        GateHeld: the gate is held, and no reason or no name is given.
    """
    catch_up(session, job)
    count = counts_of(job).blocking
    if not count:
        return {}
    reason, name = trimmed(reason, name)
    if not reason or not name:
        found = counted(count, "finding blocks", "findings block")
        raise GateHeld(
            f"The gate is held: {found} the PDF. Fix them in preflight, or give a reason and a"
            " name to export anyway; both are saved with the output."
        )
    blocking = findings_in(session, job, most=_MOST_LISTED, severity=Severity.BLOCKING)
    listed = [f"page {one.page_number}, {one.row.name}: {one.row.headline}" for one in blocking]
    if count > len(listed):
        listed.append(f"and {count - len(listed)} more")
    return {_KEY: {"reason": reason, "name": name, "findings": listed}}


def passed_in(output: Output) -> GateOverride | None:
    """What an output keeps of the gate; None where it was open."""
    kept: Mapping[str, Any] | None = output.settings.get(_KEY)
    if kept is None:
        return None
    return GateOverride(
        file_name=output.file_name,
        reason=kept["reason"],
        name=kept["name"],
        findings=kept["findings"],
        requested_at=output.requested_at,
    )


def passed_of(session: Session, job: Job) -> list[GateOverride]:
    """The outputs of a job that left although something blocked, the latest first."""
    wanted = select(Output).where(Output.job_id == job.id, Output.settings.has_key(_KEY))
    found = [passed_in(output) for output in session.scalars(wanted.order_by(Output.id.desc()))]
    return [one for one in found if one is not None]
