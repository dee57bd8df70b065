"""Scaling that a form asks for."""

from werkzeug.datastructures import MultiDict

from harnet.core.layout.placing import Adjusts, EvenBy
from harnet.store.database import Session
from harnet.store.tables.jobs import Item, Job
from harnet.studio.common.errors import Refused
from harnet.studio.layout.placing import (
    even_out,
    scale_to_figure,
    scale_to_native,
    scale_to_reach,
)
from harnet.web.common.preferences import remember_adjusts
from harnet.web.common.values import choice, figure


def scale_items(session: Session, job: Job, items: list[Item], form: MultiDict[str, str]) -> None:
    """Does the scaling that a form asks for: `action`, `adjusts` and, to even out, `by`."""
    adjusts = choice(Adjusts, form.get("adjusts", "frame"))
    remember_adjusts(adjusts.value)
    action = form.get("action", "")
    if action == "reach":
        scale_to_reach(session, job, items, adjusts)
    elif action == "native":
        scale_to_native(session, job, items, adjusts)
    elif action == "even":
        even_out(session, job, items, choice(EvenBy, form.get("by", "mean")), adjusts)
    elif action == "figure":
        scale_to_figure(session, job, items, figure(form.get("ppi", ""), "density"), adjusts)
    else:
        raise Refused(f"“{action}” is not a way to scale a picture.")
