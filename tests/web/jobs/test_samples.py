"""The three ways to begin, each with a sample."""

import pytest


def test_an_empty_studio_offers_a_sample_of_each(open_client):
    text = open_client.get("/jobs").text
    assert "three ways to begin" in text
    for kind in ("document", "pictures", "job"):
        assert f'action="/samples/{kind}"' in text
    assert "Throw the samples away" not in text


@pytest.mark.parametrize("kind, place", [("pictures", "/pictures"), ("job", "/jobs/")])
def test_a_sample_leads_to_where_it_is(open_client, kind, place):
    made = open_client.post(f"/samples/{kind}")
    assert made.status_code == 302 and made.headers["Location"].startswith(place)
    assert "Throw the samples away" in open_client.get("/jobs").text
    assert open_client.post("/samples/remove").headers["Location"] == "/jobs"
    assert "Throw the samples away" not in open_client.get("/jobs").text


def test_no_such_sample(open_client):
    assert open_client.post("/samples/film").status_code == 404
