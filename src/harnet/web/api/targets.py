"""Targets: what a picture is judged by."""

from sqlalchemy.orm import Session

from harnet.core.targets.target import OWN, Target
from harnet.studio.common.errors import NotThere, Refused
from harnet.studio.targets.targets import DEFAULT_KEY, all_targets, target_asked, target_with
from harnet.web.api.door import resource
from harnet.web.api.schemas import TargetIn, TargetOut, Targets
from harnet.web.common.shared import desk

blueprint = resource("targets", "Targets")


def target_out(target: Target) -> TargetOut:
    """A target in the API's form."""
    return TargetOut(
        key=target.key,
        name=target.name,
        density_ppi=target.density_ppi,
        bilevel_ppi=target.bilevel_ppi,
        floor_ppi=target.floor_ppi,
        ceiling_ppi=target.ceiling_ppi,
        tolerance=target.tolerance,
        reason=target.reason,
    )


def target_meant(session: Session, asked: TargetIn, now: Target | None = None) -> Target:
    """The target of a key; with a figure, that target with another density for tone pictures.

    A figure alone changes the density of `now`, or of coated press.

    Raises:
        Refused: there is no such target.
    """
    if asked.ppi is not None:
        base = target_asked(session, asked.key) if asked.key else now
        return target_asked(session, OWN, str(asked.ppi), base)
    return target_asked(session, asked.key or DEFAULT_KEY)


@blueprint.get("/targets")
@blueprint.output(Targets)
def targets() -> Targets:
    """Every target, those that ship first."""
    with desk().session() as session:
        return Targets(items=[target_out(one) for one in all_targets(session)])


@blueprint.get("/targets/<key>")
@blueprint.output(TargetOut)
def target(key: str) -> TargetOut:
    """One target."""
    with desk().session() as session:
        try:
            return target_out(target_with(session, key.replace("\0", "")))
        except Refused as error:
            raise NotThere(str(error)) from None
