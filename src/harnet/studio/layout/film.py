"""The strip of pages: what each page’s drawing depends on, so that it is drawn anew."""

import hashlib
from collections.abc import Sequence

from sqlalchemy import func, select
from sqlalchemy.orm import Session

from harnet.store.tables.jobs import Item, Page


def stamps_of(session: Session, pages: Sequence[Page]) -> dict[int, str]:
    """A short text for each page, by its number in the tables, that changes when its drawing does.

    Rows count their versions up with every edit, so that sums, counts and the highest number tell
    any two states apart that follow each other.
    """
    rows = session.execute(
        select(Item.page_id, func.count(), func.sum(Item.version), func.max(Item.id))
        .where(Item.page_id.in_([page.id for page in pages]))
        .group_by(Item.page_id)
    )
    on_page = {page_id: (count, versions, last) for page_id, count, versions, last in rows}
    return {
        page.id: _short(page.version, page.width_pt, page.height_pt, on_page.get(page.id))
        for page in pages
    }


def _short(*parts: object) -> str:
    return hashlib.sha256(repr(parts).encode()).hexdigest()[:12]
