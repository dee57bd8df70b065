"""The form for a new job, sent as the browser sends it."""

import pytest

FORM = {
    "title": "Harbour card",
    "width": "210",
    "height": "297",
    "unit": "mm",
    "px_per_inch": "96",
    "bleed": "3",
    "margin": "10",
    "pages": "2",
    "target": "coated",
    "own_ppi": "",
}


@pytest.mark.parametrize(
    "changed, status",
    [
        ({}, 302),
        ({"target": "own", "own_ppi": "44"}, 302),
        ({"is_facing": "yes"}, 302),
        ({"unit": "px", "width": "1920", "height": "1080"}, 302),
        ({"target": "own"}, 422),
        ({"width": "wide"}, 422),
        ({"title": " "}, 422),
    ],
)
def test_makes_a_job_or_shows_what_was_typed(open_client, changed, status):
    answer = open_client.post("/jobs/new", data=FORM | changed)
    assert answer.status_code == status
    if status == 422:
        assert 'role="alert"' in answer.text and 'value="297"' in answer.text
