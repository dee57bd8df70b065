"""Findings that are shown part by part: each of them is reached, once and in its order."""

import re

import pytest

from harnet.demo.many import lay_out_many
from harnet.studio.jobs.jobs import job_with
from harnet.studio.judging.judging import settle
from harnet.studio.pictures.picture import picture_with
from harnet.studio.preflight.checking import (
    accept,
    counts_of,
    finding_beside,
    findings_in,
    groups_of,
    pages_with_findings,
)
from harnet.web.preflight import preflight

AT_ONCE = 4


@pytest.fixture
def job_id(studio, new_job, on_shelf, make_picture, monkeypatch):
    """A job of 27 placements on nine pages, of which many are too poor, shown four at once."""
    monkeypatch.setattr(preflight, "_MOST_AT_ONCE", AT_ONCE)
    number = new_job(pages=9)
    names = [on_shelf(make_picture(f"{n}.jpg", 300 * n, 200 * n, seed=n)) for n in (1, 2, 3)]
    with studio.session() as session:
        lay_out_many(session, number, [picture_with(session, one) for one in names], 3)
    return number


def listed(studio, job_id, **asked):
    with studio.session() as session:
        found = findings_in(session, job_with(session, job_id), **asked)
        return [(one.row.name, one.page_number, one.row.headline) for one in found]


def shown(page):
    """The findings of a page: their numbers, and what each of them says."""
    rows = re.findall(
        r'<a class="finding[^>]*finding=(\d+)".*?<b>(.*?)</b>.*?page (\d+) ·\s*(.*?)\s*</span>',
        page,
        re.S,
    )
    return {int(number): (name, int(at), headline) for number, name, at, headline in rows}


def test_headings_and_their_parts(studio, client, job_id):
    every = listed(studio, job_id)
    with studio.session() as session:
        job = job_with(session, job_id)
        groups = groups_of(session, job)
        parted = [
            (one.row.name, one.page_number, one.row.headline)
            for group in groups
            for one in findings_in(session, job, group=group.name)
        ]
        assert [group.count for group in groups] == [
            len(findings_in(session, job, group=group.name)) for group in groups
        ]
        worst = findings_in(session, job, most=1)[0].row.group
        assert groups[0].name == worst and counts_of(job).open_findings == len(every)
    assert sorted(parted) == sorted(every) and max(group.count for group in groups) > AT_ONCE
    reached = {}
    for number in range(len(every)):
        page = client.get(f"/jobs/{job_id}/preflight?finding={number}").text
        some = shown(page)
        assert number in some and len(some) <= AT_ONCE * len(groups)
        reached |= some
    assert [reached[number] for number in range(len(every))] == parted


def test_page_by_page(studio, client, job_id):
    every = listed(studio, job_id, is_by_page=True)
    assert [at for _, at, _ in every] == sorted(at for _, at, _ in every)
    with studio.session() as session:
        groups = pages_with_findings(session, job_with(session, job_id))
    assert [(group.page_number, group.count) for group in groups] == [
        (number, sum(at == number for _, at, _ in every))
        for number in sorted({at for _, at, _ in every})
    ]
    address = f"/jobs/{job_id}/preflight?group=page&finding=0"
    reached = {}
    while address:
        page = client.get(address).text
        some = shown(page)
        assert not some.keys() & reached.keys() and len(some) <= AT_ONCE
        reached |= some
        further = re.search(r'href="([^"]*)">\s*[\d\s]+ more</a>', page)
        address = further[1].replace("&amp;", "&") if further else None
    assert [reached[number] for number in range(len(every))] == every
    back = re.search(
        r'finding=(\d+)">\s*[\d\s]+ before these',
        client.get(f"/jobs/{job_id}/preflight?group=page&finding={len(every) - 1}").text,
    )
    assert int(back[1]) == max(0, (len(every) - 1) // AT_ONCE - 1) * AT_ONCE


def test_accepted_ones_part_by_part(studio, client, job_id):
    with studio.session() as session:
        job = job_with(session, job_id)
        for one in findings_in(session, job)[:6]:
            accept(session, job, one.row.item_id, one.row.rule_id, "A proof.", "I. Varga")
        settle(session)
    first = client.get(f"/jobs/{job_id}/preflight").text
    assert first.count("Withdraw acceptance") == AT_ONCE and "2 more accepted" in first
    second = client.get(f"/jobs/{job_id}/preflight?accepted=4").text
    assert second.count("Withdraw acceptance") == 2 and "4 before these" in second


def test_one_finding_after_the_other(studio, job_id):
    with studio.session() as session:
        job = job_with(session, job_id)
        order = list(dict.fromkeys(one.row.item_id for one in findings_in(session, job)))
        item, went = None, []
        for _ in order:
            item = finding_beside(session, job, item, 1).row.item_id
            went.append(item)
        assert went == order
        assert finding_beside(session, job, order[-1], 1).row.item_id == order[0]
        assert finding_beside(session, job, order[0], -1).row.item_id == order[-1]
        assert finding_beside(session, job, None, -1).row.item_id == order[-1]
        first = findings_in(session, job)[0].row.id
        assert finding_beside(session, job, None, 1).row.id == first
