"""The page that shows how far a batch over very many placements is."""

import pytest

from harnet.store.tables.long_batch import LongBatch
from harnet.studio.ledger.long_batch import long_batch_with


@pytest.fixture
def waiting(studio, new_job):
    """The address of a batch that nobody works on, its job's and its own number."""
    job_id = new_job()
    with studio.session() as session:
        batch = LongBatch(job_id=job_id, kind="undo", label="Undo: Scale to reach", batch={})
        session.add(batch)
        session.flush()
        return f"/jobs/{job_id}/batches/{batch.id}", job_id, batch.id


def test_it_names_the_job_and_asks_again(client, waiting):
    address, job_id, _ = waiting
    page = client.get(address).text
    assert "Undo: Scale to reach" in page and f'href="/jobs/{job_id}/ledger"' in page
    assert f'hx-get="{address}"' in page and "Waiting for the worker." in page


def test_cancelled_it_says_that_nothing_was_changed(open_client, studio, waiting):
    address, job_id, batch_id = waiting
    reply = open_client.post(f"{address}/cancel", headers={"HX-Request": "true"})
    assert reply.headers["HX-Redirect"] == address
    with studio.session() as session:
        assert long_batch_with(session, job_id, batch_id).state == "cancelled"
    page = open_client.get(address).text
    assert "Cancelled; nothing was changed." in page and "hx-get" not in page.split("<main")[1]


def test_failed_it_says_why(client, studio, waiting):
    address, job_id, batch_id = waiting
    with studio.session() as session:
        batch = long_batch_with(session, job_id, batch_id)
        batch.state, batch.failure = "failed", "The job changed in the meantime."
    assert "The job changed in the meantime." in client.get(address).text


def test_done_it_leads_to_the_ledger_with_what_was_done(client, studio, waiting):
    address, job_id, batch_id = waiting
    with studio.session() as session:
        batch = long_batch_with(session, job_id, batch_id)
        batch.state, batch.said = "done", "Undone."
    there = client.get(address).headers["Location"]
    assert there == f"/jobs/{job_id}/ledger?done={batch_id}"
    again = client.get(address, headers={"HX-Request": "true"})
    assert again.headers["HX-Redirect"] == there
    assert "Undone." in client.get(there).text


def test_one_of_another_job_is_not_there(client, waiting):
    _, job_id, batch_id = waiting
    assert client.get(f"/jobs/{job_id + 1}/batches/{batch_id}").status_code == 404
