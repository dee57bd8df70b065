"""The ledger in SQL against the same lines filtered, sorted, counted and tried in memory."""

from collections import Counter
from itertools import product
from random import Random

import pytest
from sqlalchemy import select, update

from harnet.core.ledger.lines import (
    SORTS,
    VERDICTS,
    LineFilter,
    tried_on,
    verdict_counts,
    wanted_lines,
)
from harnet.core.ledger.ruler_scale import ruler_step
from harnet.core.measure.density import headroom, judged_ppi
from harnet.core.measure.verdict import verdict_of_judged
from harnet.core.targets.shipped import target_named
from harnet.core.targets.target import own_target
from harnet.demo.many import lay_out_many
from harnet.store.tables.jobs import Page
from harnet.store.tables.preflight import Judgement
from harnet.studio.jobs.jobs import job_with, target_of
from harnet.studio.ledger.lines import LedgerLines
from harnet.studio.lines.ruler import MOST_STACKED, placements_on_ruler
from harnet.studio.pictures.picture import picture_with

NAMES = ("Ärmel.jpg", "ärmel 2.jpg", "gull_100%.png", "gullx100%.png", "Zander.TIF", "zander.tif")
COATED = target_named("coated")
TRIED = (
    None,
    target_named("newsprint"),
    *(own_target(ppi, COATED) for ppi in (150, 299.97, 611.3)),
)


@pytest.fixture(params=range(3))
def laid(request, studio, new_job, on_shelf, make_picture):
    """A job of 120 lines whose figures are made up: some equal, at limits, vector, of their own."""
    chance = Random(request.param)
    job_id = new_job(pages=12)
    picture_id = on_shelf(make_picture("slipway.jpg", 300, 200))
    with studio.session() as session:
        lay_out_many(session, job_id, [picture_with(session, picture_id)], 10)
    with studio.session() as session:
        job = job_with(session, job_id)
        target = target_of(job)
        edges = [
            edge
            for one in (target, *filter(None, TRIED))
            for edge in (one.floor_ppi, one.passes_from_ppi, one.density_ppi, one.ceiling_ppi)
        ]
        for item_id in session.scalars(select(Judgement.item_id)).all():
            ppi = chance.choice([chance.uniform(20, 3000), chance.choice(edges), 72, 250, None])
            figures = {"judged_ppi": None, "headroom": None, "ruler_step": None}
            is_bilevel, rank = chance.random() < 0.2, VERDICTS.index(VERDICTS[3])
            if ppi is not None:
                limits = target.for_bits(is_bilevel)
                judged = judged_ppi(ppi)
                room = headroom(judged, limits.density_ppi)
                rank = VERDICTS.index(verdict_of_judged(judged, limits))
                figures = {"judged_ppi": judged, "headroom": room, "ruler_step": ruler_step(room)}
            session.execute(
                update(Judgement)
                .where(Judgement.item_id == item_id)
                .values(
                    name=chance.choice(NAMES),
                    verdict_rank=rank,
                    is_bilevel=is_bilevel,
                    has_own_target=chance.random() < 0.2,
                    file_state=chance.choice(["in place", "missing", "changed"]),
                    colour=chance.choice(["rgb", "cmyk", "grey"]),
                    kind=chance.choice(["picture", "1-bit"]) if ppi else "vector",
                    pixels=chance.choice([0, 600, 60_000]),
                    area_pt=chance.choice([100.0, 2500.5]),
                    evenness=chance.choice([0.0, 0.01, 0.2]),
                    **figures,
                )
            )
        yield session, job


def in_memory(session, job, tried):
    """Every line, page by page, as the core tries them."""
    lines = LedgerLines(session, job).shown(LineFilter(sort="page"))
    assert len(lines) == 120
    positions = [(line.page_number, line.item_id) for line in lines]
    assert positions == sorted(positions)
    return tried_on(lines, tried, target_of(job)) if tried else lines


FILTERS = (
    *({"verdict": verdict.value} for verdict in VERDICTS),
    {"verdict": "no verdict"},
    {"page": 3},
    {"page": 99},
    {"file_state": "missing", "colour": "cmyk"},
    {"kind": "vector"},
    {"text": "ÄRMEL"},
    {"text": "l_1"},
    {"text": "100%"},
    {"text": "\\"},
    {"from_ppi": 200, "to_ppi": 320},
    {"to_ppi": 72, "text": "z", "sort": "name"},
)


def test_orders(laid):
    session, job = laid
    for tried in TRIED:
        every, lines = in_memory(session, job, tried), LedgerLines(session, job, tried)
        for sort, is_reversed in product([*SORTS, "nothing such"], (False, True)):
            wanted = LineFilter(sort=sort, is_reversed=is_reversed)
            expected = wanted_lines(every, wanted, lines.target.density_ppi)
            assert lines.shown(wanted) == expected, wanted
            assert lines.shown(wanted, 40, 25) == expected[40:65]
            last = expected[-1].item_id
            assert lines.shown(wanted, most=3, first=last) == [expected[-1], *expected[:2]]


def test_filters(laid):
    session, job = laid
    for tried, filters in product(TRIED, FILTERS):
        every, lines = in_memory(session, job, tried), LedgerLines(session, job, tried)
        wanted = LineFilter(**filters)
        expected = wanted_lines(every, wanted, lines.target.density_ppi)
        assert lines.shown(wanted) == expected, wanted
        assert lines.count(wanted) == len(expected)
        passing = {line.item_id for line in expected}
        assert sorted(lines.item_ids(wanted)) == sorted(passing)
        for line in every[::30]:
            assert lines.holds(wanted, line.item_id) == (line.item_id in passing)


def test_counts(laid):
    session, job = laid
    for tried in TRIED:
        every, counts = in_memory(session, job, tried), LedgerLines(session, job, tried).counts()
        assert counts.verdicts == verdict_counts(every) and counts.every == len(every)
        values = {
            "page": [line.page_number for line in every],
            "file_state": [line.file_state for line in every],
            "colour": [line.colour for line in every],
            "kind": [line.kind for line in every],
        }
        assert counts.choices == {
            name: [(str(value), count) for value, count in sorted(Counter(found).items())]
            for name, found in values.items()
        }


def test_the_ruler(laid):
    session, job = laid
    for tried in TRIED:
        every, lines = in_memory(session, job, tried), LedgerLines(session, job, tried)
        chosen = [line.item_id for line in every[::11]]
        on_steps = Counter(line.ruler_step for line in every if line.ruler_step is not None)
        spots = placements_on_ruler(lines, chosen)
        assert {spot.step: spot.on_step for spot in spots} == on_steps
        assert any(spot.on_step > MOST_STACKED for spot in spots)
        by_item = {line.item_id: line for line in every}
        for spot in spots:
            there = [line for line in every if line.ruler_step == spot.step]
            if spot.on_step > MOST_STACKED:
                assert spot.verdict is VERDICTS[min(line.verdict_rank for line in there)]
                marked = [line.item_id for line in there if line.item_id in chosen]
                assert spot.item_id == min(marked, default=0)
            else:
                line = by_item[spot.item_id]
                told = (spot.verdict, spot.name, spot.page_number, spot.judged_ppi)
                assert told == (line.verdict, line.name, line.page_number, line.judged_ppi)


def test_the_ends_of_the_ruler_are_the_jobs_own(laid):
    session, job = laid
    steps = [line.ruler_step for line in in_memory(session, job, None) if line.ruler_step]
    assert LedgerLines(session, job, own_target(72, COATED)).ends == (min(steps), max(steps))


def test_a_job_without_pictures(studio, new_job):
    with studio.session() as session:
        lines = LedgerLines(session, job_with(session, new_job()))
        assert lines.shown(LineFilter()) == [] and lines.count(LineFilter()) == 0
        assert lines.counts().every == 0 and lines.ends is None
        assert placements_on_ruler(lines, [1]) == []
        assert session.scalar(select(Page.id)) is not None
