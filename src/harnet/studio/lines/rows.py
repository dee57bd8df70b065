"""Lines of pictures as the database filters, sorts and judges them: of a job, or of a document."""

from typing import Any

from sqlalchemy import (
    ColumnElement,
    Connection,
    Float,
    Integer,
    Select,
    SQLColumnExpression,
    Subquery,
    case,
    cast,
    func,
    literal,
    select,
    true,
)

from harnet.core.ledger.lines import VERDICTS, Line, LineFilter
from harnet.core.ledger.ruler_scale import STEP_HAIR, STEPS_AN_OCTAVE
from harnet.core.measure.verdict import edges_of
from harnet.core.targets.target import Target

CHOICES = {"page": "page_number", "file_state": "file_state", "colour": "colour", "kind": "kind"}
"""Filters that are chosen from a list, and the column of each."""


class LineRows:
    """Lines as rows of a query that has a line's columns.

    All is read straight from the connection: fifty thousand lines need no identity map.
    """

    def __init__(self, link: Connection, rows: Subquery, target: Target) -> None:
        """`target` is the one that verdict and headroom are by."""
        self.link, self.rows, self.target = link, rows, target

    def shown(
        self, wanted: LineFilter, start: int = 0, most: int | None = None, first: int | None = None
    ) -> list[Line]:
        """The lines that pass, in their order; equal ones stay page by page.

        Args:
            wanted: The filters and the order.
            start: How many lines are left out at the top.
            most: How many are told; None for all.
            first: The item of the line that stands before all others.
        """
        order = self._order(wanted)
        if first is not None:
            order.insert(0, (self.rows.c.item_id == first).desc())
        columns = [self.rows.c[name] for name in Line._fields]
        asked = self._passing(wanted, *columns).order_by(*order).offset(start).limit(most)
        return [Line._make(row) for row in self.link.execute(asked).all()]

    def count(self, wanted: LineFilter) -> int:
        """How many lines pass."""
        found: int = self.link.execute(self._passing(wanted, func.count())).scalar_one()
        return found

    def item_ids(self, wanted: LineFilter) -> list[int]:
        """The items of all lines that pass, in no order."""
        return list(self.link.execute(self._passing(wanted, self.rows.c.item_id)).scalars())

    def holds(self, wanted: LineFilter, item_id: int) -> bool:
        """Whether the line of an item passes."""
        asked = self._passing(wanted, true()).where(self.rows.c.item_id == item_id)
        return self.link.execute(asked).first() is not None

    def _passing(self, wanted: LineFilter, *columns: Any) -> Select[Any]:
        line = self.rows.c
        asked = select(*columns).select_from(self.rows)
        if wanted.verdict:
            ranks = {verdict.value: rank for rank, verdict in enumerate(VERDICTS)}
            asked = asked.where(line.verdict_rank == ranks.get(wanted.verdict, -1))
        for name, column in CHOICES.items():
            if value := getattr(wanted, name):
                asked = asked.where(line[column] == value)
        if wanted.text:
            asked = asked.where(line.name.icontains(wanted.text, autoescape=True))
        if wanted.to_ppi:
            comparable_ppi = (1 + line.headroom) * real(self.target.density_ppi)
            asked = asked.where(comparable_ppi.between(wanted.from_ppi, wanted.to_ppi))
        return asked

    def _order(self, wanted: LineFilter) -> list[ColumnElement[Any]]:
        line = self.rows.c
        keys: dict[str, tuple[ColumnElement[Any], ...]] = {
            "shortfall": (line.headroom,),
            "name": (func.lower(line.name).collate("C"),),
            "page": (line.page_number,),
            "pixels": (line.pixels,),
            "size": (line.area_pt,),
            "ppi": (line.judged_ppi,),
            "evenness": (-line.evenness,),
            "file": (line.file_state.collate("C"), line.colour.collate("C")),
        }
        by = keys.get(wanted.sort, keys["shortfall"])
        # Vector pictures, which have no density, come after the densest.
        turned = [key.desc().nulls_first() if wanted.is_reversed else key for key in by]
        return [*turned, line.page_number, line.item_id]


def judged_columns(
    ppi: SQLColumnExpression[Any], is_bilevel: SQLColumnExpression[bool], target: Target
) -> tuple[ColumnElement[Any], ColumnElement[Any]]:
    """The rank of the verdict, and the headroom, of a density that was rounded to be judged.

    `core.measure.verdict.verdict_of_judged` and `core.measure.density.headroom` in SQL.
    """
    limits = [target.for_bits(bits) for bits in (True, False)]
    on_bits, on_tone = map(edges_of, limits)

    def by_kind(for_bits: float, for_tone: float) -> ColumnElement[float]:
        if for_bits == for_tone:
            return real(for_tone)
        return case((is_bilevel, real(for_bits)), else_=real(for_tone))

    floor, passes, meets, ceiling = map(by_kind, on_bits, on_tone)
    ranks = [cast(literal(rank), Integer) for rank in range(len(VERDICTS))]
    rank = case(
        (ppi < floor, ranks[0]),
        (ppi < passes, ranks[1]),
        (ppi < meets, ranks[2]),
        (ppi <= ceiling, ranks[3]),
        else_=ranks[4],
    )
    return rank, ppi / by_kind(*(one.density_ppi for one in limits)) - 1


def step_of(ratio: ColumnElement[float]) -> ColumnElement[int]:
    """The step on the ruler of a density so many times the target's: `ruler_step` in SQL."""
    steps = func.ln(ratio) * real(STEPS_AN_OCTAVE) / func.ln(real(2))
    return cast(func.floor(steps + real(STEP_HAIR)), Integer)


def real(figure: float) -> ColumnElement[float]:
    """A figure that the database counts with as Python does."""
    return cast(literal(float(figure)), Float(53))
