"""Which findings are accepted: someone let them pass, and their figures are no worse since."""

from collections.abc import Collection

from sqlalchemy import and_, func, select
from sqlalchemy.orm import Session

from harnet.core.preflight.finding import SAME_BADNESS, is_no_worse
from harnet.store.tables.jobs import Item
from harnet.store.tables.preflight import Acceptance, FindingRow

is_about = and_(Acceptance.item_id == FindingRow.item_id, Acceptance.rule_id == FindingRow.rule_id)
"""Joins a finding with what was accepted of it."""
holds = func.coalesce(FindingRow.badness <= Acceptance.badness + SAME_BADNESS, False)
"""Whether the acceptance of a finding still holds."""


def acceptances_on(session: Session, page_ids: Collection[int]) -> dict[tuple[int, str], float]:
    """The badness that was accepted on these pages, by item and rule."""
    wanted = select(Acceptance.item_id, Acceptance.rule_id, Acceptance.badness)
    on_pages = select(Item.id).where(Item.page_id.in_(page_ids))
    rows = session.execute(wanted.where(Acceptance.item_id.in_(on_pages)))
    return {(item_id, rule_id): badness for item_id, rule_id, badness in rows}


def still_holds(badness: float, accepted_badness: float | None) -> bool:
    """Whether a finding passes by what was accepted of it; `holds` says the same in SQL."""
    return accepted_badness is not None and is_no_worse(badness, accepted_badness)
