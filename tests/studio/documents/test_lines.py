"""A document's images as lines in SQL, against the core's."""

from collections import Counter
from itertools import product
from random import Random

import pytest

from harnet.core.documents.images import kept_for_lines, line_of, painted_from, row_of
from harnet.core.ledger.lines import SORTS, VERDICTS, LineFilter, seen_counts, wanted_lines
from harnet.core.targets.shipped import target_named
from harnet.core.targets.target import own_target
from harnet.core.targets.values import target_as_values
from harnet.store.tables.documents import Document, DocumentImage
from harnet.studio.documents.lines import DocumentLines
from harnet.studio.documents.uploads import counts_of, lines_of, pictures_in
from harnet.studio.lines.ruler import MOST_STACKED, placements_on_ruler
from tests.support.images import picture_by

COATED = target_named("coated")
TRIED = (
    None,
    target_named("newsprint"),
    *(own_target(ppi, COATED) for ppi in (150, 299.97, 611.3)),
)


@pytest.fixture(params=range(3))
def checked(request, studio):
    """A checked document with 120 images, and all of them as the core has them."""
    chance = Random(request.param)
    with studio.session() as session:
        document = Document(
            file_name="deck.pptx",
            sha256="0" * 64,
            size_bytes=1,
            target=target_as_values(COATED),
            state="done",
        )
        session.add(document)
        session.flush()
        for place in range(1, 121):
            picture = picture_by(chance, place)
            session.add(
                DocumentImage(document_id=document.id, **row_of(picture), **kept_for_lines(picture))
            )
        session.flush()
        yield session, document


def in_memory(session, document, target=COATED):
    return [line_of(picture, target) for picture in pictures_in(session, document)]


def as_shown(lines, own_lines):
    """Lines as they are listed: on the ruler they stay where the document's own target has them."""
    steps = {line.item_id: line.ruler_step for line in own_lines}
    return [line._replace(ruler_step=steps[line.item_id]) for line in lines]


FILTERS = (
    *({"verdict": verdict.value} for verdict in VERDICTS),
    {"verdict": "no verdict"},
    {"page": 3},
    {"colour": "bilevel", "sort": "page"},
    {"colour": "cmyk", "page": 2, "sort": "size"},
    {"from_ppi": 200, "to_ppi": 320},
    {"to_ppi": 100, "sort": "ppi", "is_reversed": True},
)


def test_what_is_kept_is_what_the_core_finds(checked):
    session, document = checked
    every = in_memory(session, document)
    assert len(every) == 120
    assert any(line.judged_ppi == 0 for line in every), "densities that round to nothing occur"
    lines = lines_of(session, document).shown(LineFilter(sort="page"))
    for line, expected in zip(lines, every, strict=True):
        assert line == expected


def test_orders_and_filters_by_each_target(checked):
    session, document = checked
    own = in_memory(session, document)
    asked = [
        *(LineFilter(sort=sort, is_reversed=down) for sort, down in product(SORTS, (False, True))),
        *(LineFilter(**filters) for filters in FILTERS),
    ]
    for tried in TRIED:
        target = tried or COATED
        every = as_shown(in_memory(session, document, target), own)
        lines = lines_of(session, document, tried)
        for wanted in asked:
            expected = wanted_lines(every, wanted, target.density_ppi)
            assert lines.shown(wanted) == expected, (target, wanted)
            assert lines.shown(wanted, most=7) == expected[:7]
            assert lines.count(wanted) == len(expected)


def test_counts(checked):
    session, document = checked
    pictures = pictures_in(session, document)
    for tried in TRIED:
        every = in_memory(session, document, tried or COATED)
        counts = lines_of(session, document, tried).counts()
        assert counts.verdicts == seen_counts(every) and counts.every == 120
        assert counts.not_judged == sum(line.judged_ppi is None for line in every)
        assert counts.colours == sorted({one.colour for one in pictures if not one.link})
    assert document.counts is None
    assert counts_of(session, document) == seen_counts(in_memory(session, document))
    assert document.counts is not None


def test_dots_stand_by_the_own_target_and_are_marked_by_the_one_that_is_tried(checked):
    session, document = checked
    own = {line.item_id: line for line in in_memory(session, document)}
    on_steps = Counter(line.ruler_step for line in own.values() if line.ruler_step is not None)
    assert max(on_steps.values()) > MOST_STACKED
    for tried in TRIED:
        by_tried = {one.item_id: one for one in in_memory(session, document, tried or COATED)}
        lines = lines_of(session, document, tried)
        assert lines.ends == (min(on_steps), max(on_steps))
        spots = placements_on_ruler(lines)
        assert {spot.step: spot.on_step for spot in spots} == on_steps
        for spot in spots:
            there = [one.item_id for one in own.values() if one.ruler_step == spot.step]
            worst = VERDICTS[min(by_tried[number].verdict_rank for number in there)]
            one = by_tried.get(spot.item_id)
            assert spot.verdict is (worst if one is None else one.verdict)


def test_a_document_without_images(studio):
    with studio.session() as session:
        document = Document(
            file_name="a.pdf", sha256="0" * 64, size_bytes=1, target=target_as_values(COATED)
        )
        session.add(document)
        session.flush()
        lines = DocumentLines(session, document, COATED)
        assert lines.shown(LineFilter()) == [] and lines.ends is None
        assert lines.counts().every == 0 and lines.counts().colours == []
        assert placements_on_ruler(lines) == []


def test_a_picture_is_the_same_once_it_was_kept(checked):
    session, document = checked
    for picture in pictures_in(session, document):
        assert painted_from(picture.id, row_of(picture)) == picture
