"""Finding anything: the worst findings first, few of them put in order, many read in order."""

import pytest
from sqlalchemy import select, update

from harnet.demo.many import lay_out_many
from harnet.store.tables.jobs import Job
from harnet.store.tables.preflight import FindingRow
from harnet.studio.jobs import find
from harnet.studio.jobs.find import MOST_OF_A_KIND, found_by
from harnet.studio.pictures.picture import picture_with


@pytest.fixture
def two_jobs(studio, new_job, on_shelf, make_picture):
    """Two jobs with findings on pictures of several names."""
    names = ("Slipway 1.jpg", "slipway_2.jpg", "100% quay.png", "Ärmel.jpg")
    pictures = [on_shelf(make_picture(name, 60 + n, 40)) for n, name in enumerate(names)]
    numbers = [new_job(pages=3), new_job(pages=2)]
    with studio.session() as session:
        placed = [picture_with(session, one) for one in pictures]
        for number in numbers:
            lay_out_many(session, number, placed, 8)
    return numbers


def worst_of(session, text):
    """The findings that have a text, as they are put in order here."""
    rows = session.scalars(select(FindingRow)).all()
    words = text.lower().split()
    found = [row for row in rows if all(word in row.name.lower() for word in words)]
    found.sort(key=lambda row: (row.severity_rank, row.rule_rank, row.id))
    return [(row.item_id, f"{row.name}: {row.headline}") for row in found[:MOST_OF_A_KIND]]


def found(session, text):
    things = found_by(session, text)
    return [(one.number, one.name) for one in things if one.kind == "finding"]


@pytest.mark.parametrize("most_sorted", [0, 3, 10_000])
@pytest.mark.parametrize("text", ["slipway", "SLIPWAY 1", "_2", "0%", "jpg slip", "ä", "nowhere"])
def test_the_worst_come_first(studio, two_jobs, monkeypatch, most_sorted, text):
    monkeypatch.setattr(find, "_MOST_SORTED", most_sorted)
    with studio.session() as session:
        assert len(session.scalars(select(FindingRow)).all()) > 2 * MOST_OF_A_KIND
        expected = worst_of(session, text)
        assert bool(expected) == (text != "nowhere")
        assert found(session, text) == expected


@pytest.mark.parametrize("most_sorted", [0, 10_000])
def test_findings_of_a_deleted_job_are_not_found(studio, two_jobs, monkeypatch, most_sorted):
    monkeypatch.setattr(find, "_MOST_SORTED", most_sorted)
    with studio.session() as session:
        gone, kept = two_jobs
        session.execute(update(Job).where(Job.id == gone).values(deleted_at=Job.edited_at))
        things = [one for one in found_by(session, "slipway") if one.kind == "finding"]
        assert len(things) == MOST_OF_A_KIND
        assert {one.job_id for one in things} == {kept}
