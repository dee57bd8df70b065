"""Targets as the API takes and gives them."""

from harnet.core.targets.target import OWN, Target
from harnet.core.targets.values import target_as_values
from harnet.store.database import Session
from harnet.studio.targets.targets import (
    DEFAULT_KEY,
    target_asked,
)
from harnet.web.api.forms.targets import TargetIn, TargetOut


def target_out(target: Target) -> TargetOut:
    """A target in the API's form."""
    return TargetOut.model_validate(target_as_values(target))


def target_meant(session: Session, wanted: TargetIn, now: Target | None = None) -> Target:
    """The target of a key; with a figure, that target with another density for tone pictures.

    A figure alone changes the density of `now`, or of coated press.

    Raises:
        Refused: there is no such target.
    """
    if wanted.ppi is not None:
        base = target_asked(session, wanted.key) if wanted.key else now
        return target_asked(session, OWN, wanted.ppi, base)
    return target_asked(session, wanted.key or DEFAULT_KEY)
