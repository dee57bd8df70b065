"""What an address asks of a checked PDF: a page, filters, a target to try."""

import math
from collections.abc import Mapping
from dataclasses import replace

from flask import request, url_for

from harnet.core.ledger.lines import SORTS, LineFilter
from harnet.core.targets.target import Target, own_target
from harnet.store.database import Session
from harnet.store.tables.documents import Document
from harnet.studio.documents.uploads import target_of_document
from harnet.web.common.values import positive_figure
from harnet.web.drawing.ruler import WIDTH_PX, Scale
from harnet.web.ledger.query import LedgerQuery, say_address, tried_target

_PARTS = ("page", "select", "only", "verdict", "colour", "sort", "order", "from", "to", "try")


def query_asked(session: Session, values: Mapping[str, str], base: Target) -> LedgerQuery:
    """Reads page, filters, order and the target to try from an address.

    A figure to try changes the density of `base`, the PDF's target.

    Raises:
        Refused: a target that cannot be tried.
    """
    parts = {name: values.get(name, "").strip()[:200] for name in _PARTS}
    wanted = LineFilter(
        verdict=parts["verdict"],
        colour=parts["colour"],
        from_ppi=positive_figure(parts["from"]),
        to_ppi=positive_figure(parts["to"]),
        sort=parts["sort"] if parts["sort"] in SORTS else "shortfall",
        is_reversed=parts["order"] == "down",
    )
    tried = tried_target(session, parts["try"], base) if parts["try"] else None
    return LedgerQuery(wanted, tried, parts)


def after_the_hand(document: Document, query: LedgerQuery, scale: Scale) -> LedgerQuery:
    """What is asked once the flag was dragged, or the dots were brushed: shares of the width."""
    x = request.args.get("x", math.nan, float)
    ends = [request.args.get(name, math.nan, float) for name in ("from_x", "to_x")]
    if math.isfinite(x):
        ppi = _ppi_at(scale, x)
        tried = own_target(ppi, target_of_document(document))
        query = LedgerQuery(query.wanted, tried, query.parts | {"try": str(ppi)})
    elif all(math.isfinite(end) for end in ends):
        low, high = sorted(_ppi_at(scale, end) for end in ends)
        wanted = replace(query.wanted, from_ppi=low, to_ppi=high)
        query = LedgerQuery(wanted, query.tried, query.parts | {"from": str(low), "to": str(high)})
    else:
        return query
    return say_address(url_for("documents.show", document_id=document.id), query)


def _ppi_at(scale: Scale, x: float) -> int:
    return round(scale.ppi_at(min(1.0, max(0.0, x)) * WIDTH_PX))
