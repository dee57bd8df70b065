"""Settings of a job that make no sense are told, and nothing is changed."""

import pytest


@pytest.mark.parametrize(
    "changed, words",
    [
        ({"title": " "}, "title"),
        ({"margin": "200"}, "leaves no page"),
        ({"bleed": "wide"}, "is not a length"),
    ],
)
def test_what_makes_no_sense_is_told(open_client, new_job, changed, words):
    address = f"/jobs/{new_job()}/settings"
    form = {"title": "Other", "unit": "mm", "typed_in": "mm", "bleed": "3", "margin": "5"}
    answer = open_client.post(address, data=form | changed)
    assert answer.status_code == 422
    assert 'role="alert"' in answer.text and words in answer.text
    assert "Quay flyer" in open_client.get(address).text


def test_a_text_style_that_makes_no_sense_is_told(open_client, new_job):
    style = {
        "font": "sans-400",
        "size_pt": "8",
        "leading_pt": "0",
        "space_pt": "0",
        "align": "left",
    }
    answer = open_client.post(f"/jobs/{new_job()}/text-styles/body", data=style)
    assert answer.status_code == 422 and "leading is 1 to 2000 pt, not 0" in answer.text
