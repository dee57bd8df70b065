"""The pictures of a checked document as lines, which the database judges by any target."""

from collections import Counter
from dataclasses import dataclass

from sqlalchemy import BigInteger, Numeric, Subquery, case, cast, false, func, select
from sqlalchemy.orm import Session

from harnet.core.documents.images import LEAST_ROOM
from harnet.core.ledger.lines import VERDICTS
from harnet.core.measure.density import UNEVEN_ABOVE
from harnet.core.measure.verdict import Verdict
from harnet.core.pictures.picture import Colour
from harnet.core.targets.target import Target
from harnet.store.tables.documents import Document, DocumentImage
from harnet.studio.lines.rows import LineRows, judged_columns, real, step_of


@dataclass(frozen=True, slots=True)
class PictureCounts:
    """How many pictures of a document there are of each sort."""

    verdicts: dict[Verdict, int]
    """Of those that are judged; worst first, zeros included."""
    not_judged: int
    colours: list[str]
    """Those that occur, in order; of a picture that the document only names none is known."""

    @property
    def every(self) -> int:
        """How many there are."""
        return sum(self.verdicts.values()) + self.not_judged


class DocumentLines(LineRows):
    """A document's lines by a target; on the ruler they stand by the document's own.

    `core.documents.images.line_of` in SQL: what is not visible is listed, and not judged.
    """

    def __init__(
        self, session: Session, document: Document, own: Target, tried: Target | None = None
    ) -> None:
        """Takes the lines as they are kept; `own` is what the document is judged by."""
        target, link = tried or own, session.connection()
        super().__init__(link, _lines_of(document, target, own), target)

    def counts(self) -> PictureCounts:
        """How many lines there are of each sort, whatever is shown of them."""
        line = self.rows.c
        sorts = (line.verdict_rank, line.judged_ppi.is_not(None), line.colour, line.is_named_only)
        ranks: Counter[int] = Counter()
        colours: set[str] = set()
        not_judged = 0
        # Few sorts occur together: the database counts those, and they are added up here.
        asked = select(*sorts, func.count()).group_by(*sorts)
        for rank, is_judged, colour, is_named_only, count in self.link.execute(asked):
            if is_judged:
                ranks[rank] += count
            else:
                not_judged += count
            if not is_named_only:
                colours.add(colour)
        verdicts = {verdict: ranks[rank] for rank, verdict in enumerate(VERDICTS)}
        return PictureCounts(verdicts, not_judged, sorted(colours))

    @property
    def ends(self) -> tuple[int, int] | None:
        """The lowest and the highest step of the ruler; None where no picture is judged."""
        step = self.rows.c.ruler_step
        low, high = self.link.execute(select(func.min(step), func.max(step))).one()
        return None if low is None or high is None else (low, high)


def _lines_of(document: Document, target: Target, own: Target) -> Subquery:
    image = DocumentImage
    is_bilevel = image.colour == Colour.BILEVEL.value
    # The density of what is not visible is known, and not judged.
    ppi = case((image.unseen == "", image.density_ppi))
    rank, _ = judged_columns(image.density_ppi, is_bilevel, target)
    _, room = judged_columns(ppi, is_bilevel, target)
    _, own_room = judged_columns(ppi, is_bilevel, own)
    own_step = step_of(func.greatest(1 + own_room, real(1 + LEAST_ROOM)))
    full = VERDICTS.index(Verdict.FULL)
    evenness = cast(image.evenness, Numeric)
    return (
        select(
            image.id.label("item_id"),
            image.page_number,
            image.name,
            case((image.density_ppi.is_(None), full), else_=rank).label("verdict_rank"),
            ppi.label("judged_ppi"),
            room.label("headroom"),
            case((ppi.is_not(None), own_step)).label("ruler_step"),
            image.evenness,
            (func.round(evenness, 9) > UNEVEN_ABOVE).label("is_uneven"),
            is_bilevel.label("is_bilevel"),
            false().label("has_own_target"),
            func.coalesce(func.nullif(image.unseen, ""), "seen").label("file_state"),
            image.colour,
            image.source.label("kind"),
            (cast(image.px_w, BigInteger) * image.px_h).label("pixels"),
            image.area_pt,
            (func.coalesce(image.about["link"].astext, "") != "").label("is_named_only"),
        )
        .where(image.document_id == document.id)
        .subquery("line")
    )
