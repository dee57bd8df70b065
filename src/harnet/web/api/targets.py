"""Targets: what a picture is judged by."""

import json

from harnet.core.targets.target import Target
from harnet.store.database import Session
from harnet.studio.common.errors import NotThere, Refused
from harnet.studio.targets.files import targets_in
from harnet.studio.targets.targets import (
    all_targets,
    drop_target,
    save_target,
    target_with,
)
from harnet.web.api.door import fails, resource
from harnet.web.api.forms.targets import TargetOut, Targets, TargetValues
from harnet.web.api.values.targets import target_out
from harnet.web.common.shared import studio

blueprint = resource("targets", "Targets")


@blueprint.get("/targets")
@blueprint.output(Targets)
def targets() -> Targets:
    """Every target, those that ship first."""
    with studio().session() as session:
        return Targets(items=[target_out(one) for one in all_targets(session)])


@blueprint.put("/targets/<key>")
@blueprint.input(TargetValues)
@blueprint.output(TargetOut)
@blueprint.doc(extensions=fails(409))
def keep(key: str, json_data: TargetValues) -> TargetOut:
    """Keeps a target under its key: a new one, or new figures of one that is there.

    Jobs keep the figures that they were given.
    """
    values = json_data.model_dump() | {"key": key.replace("\0", "")}
    file = {"format": "harnet targets", "version": 1, "targets": [values]}
    with studio().session() as session:
        [wanted] = targets_in(json.dumps(file))
        save_target(session, wanted)
        return target_out(wanted)


@blueprint.delete("/targets/<key>")
@blueprint.output({}, status_code=204)
@blueprint.doc(extensions=fails(422))
def drop(key: str) -> str:
    """Deletes a target of one's own, or brings a shipped one back to its own figures."""
    with studio().session() as session:
        drop_target(session, _there(session, key).key)
    return ""


@blueprint.get("/targets/<key>")
@blueprint.output(TargetOut)
def target(key: str) -> TargetOut:
    """One target."""
    with studio().session() as session:
        return target_out(_there(session, key))


def _there(session: Session, key: str) -> Target:
    """The target of a key in an address.

    Raises:
        NotThere: there is none.
    """
    try:
        return target_with(session, key.replace("\0", ""))
    except Refused as error:
        raise NotThere(str(error)) from None
