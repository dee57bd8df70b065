"""Review links: unguessable, expiring, withdrawable."""

from datetime import timedelta

import pytest

from harnet.store.base import now_utc
from harnet.studio.common.errors import NotThere, Refused
from harnet.studio.jobs.jobs import job_with
from harnet.studio.preflight.reviews import is_open, link_behind, links_to, make_link, withdraw


def made(studio, job_id, days=14):
    with studio.session() as session:
        return make_link(session, job_with(session, job_id), "  the  client ", days)


def test_a_link_leads_to_its_job_and_says_when_it_was_read(studio, new_job):
    job_id = new_job()
    link = made(studio, job_id)
    assert (link.label, link.job_id, link.last_read_at) == ("the client", job_id, None)
    with studio.session() as session:
        assert link_behind(session, link.token).job_id == job_id
    with studio.session() as session:
        assert links_to(session, job_with(session, job_id))[0].last_read_at is not None


def test_tokens_are_long_and_never_the_same(studio, new_job):
    job_id = new_job()
    tokens = {made(studio, job_id).token for _ in range(20)}
    assert len(tokens) == 20 and min(map(len, tokens)) >= 32


def test_one_that_expired_or_was_withdrawn_leads_nowhere(studio, new_job):
    job_id = new_job()
    old, withdrawn = made(studio, job_id), made(studio, job_id)
    with studio.session() as session:
        job = job_with(session, job_id)
        links = {link.id: link for link in links_to(session, job)}
        links[old.id].expires_at = now_utc() - timedelta(seconds=1)
        withdraw(session, job, withdrawn.id)
        session.flush()
        assert not any(is_open(link) for link in links.values())
    sentences = set()
    for token in (old.token, withdrawn.token, "x" * 32):
        with studio.session() as session, pytest.raises(NotThere) as told:
            link_behind(session, token)
        sentences.add(str(told.value))
    # Nobody learns from the answer whether there ever was such a link.
    assert len(sentences) == 1


@pytest.mark.parametrize("days", [0, -1, 366])
def test_days_that_make_no_sense(studio, new_job, days):
    with pytest.raises(Refused, match="1 to 365 days"):
        made(studio, new_job(), days)


def test_a_link_of_another_job_cannot_be_withdrawn(studio, new_job):
    link, other = made(studio, new_job()), new_job()
    with studio.session() as session, pytest.raises(NotThere):
        withdraw(session, job_with(session, other), link.id)
