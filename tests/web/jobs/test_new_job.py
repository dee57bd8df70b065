"""The form for a new job, sent as the browser sends it."""

import re

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


def fields_of(text):
    """The form's fields by name."""
    return dict(re.findall(r'name="(\w+)"\s+value="([^"]*)"', text))


class TestUnits:
    def test_changing_the_unit_converts_the_figures(self, client):
        query = FORM | {"size_unit": "mm", "shown_unit": "mm", "unit": "in"}
        fields = fields_of(client.get("/jobs/new/page", query_string=query).text)
        # ISO 216: A4 is 210 × 297 mm, 8.268 × 11.693 in
        found = [fields[name] for name in ("width", "height", "bleed", "margin")]
        assert found == ["8.268", "11.693", "0.118", "0.394"]

    def test_a_common_size_comes_in_its_own_unit(self, client):
        query = FORM | {
            "width": "8.5",
            "height": "11",
            "unit": "in",
            "size_unit": "in",
            "shown_unit": "mm",
        }
        fields = fields_of(client.get("/jobs/new/page", query_string=query).text)
        assert [fields[name] for name in ("width", "height", "bleed")] == ["8.5", "11", "0.118"]

    def test_another_unit_right_after_a_common_size(self, client):
        query = FORM | {"width": "8.5", "height": "11", "unit": "mm", "size_unit": "in"}
        fields = fields_of(client.get("/jobs/new/page", query_string=query).text)
        assert [fields[name] for name in ("width", "height", "bleed")] == ["215.9", "279.4", "3"]

    def test_a_job_made_before_its_figures_were_converted(self, open_client):
        typed = {
            "unit": "in",
            "width": "8.5",
            "height": "11",
            "size_unit": "in",
            "shown_unit": "mm",
        }
        made = open_client.post("/jobs/new", data=FORM | typed)
        assert "bleed 0.118 in" in open_client.get(made.headers["Location"]).text

    def test_the_preview_says_what_fills_the_page(self, client):
        text = client.get("/jobs/new/preview", query_string=FORM | {"bleed": "0"}).text
        # 4 000 × 3 000 px on A4: 342 along the longer side, 363 along the shorter one
        assert re.search(r"a 12-megapixel photograph, at <b>342 ppi</b>", text)
        wrong = client.get("/jobs/new/preview", query_string=FORM | {"width": "wide"}).text
        assert "once its width and height are lengths" in wrong

    def test_the_form_opens_in_the_unit_of_the_person(self, open_client):
        answer = open_client.post("/unit", data={"unit": "in"})
        assert answer.status_code == 204 and answer.headers["HX-Refresh"] == "true"
        fields = fields_of(open_client.get("/jobs/new").text)
        assert (fields["shown_unit"], fields["bleed"]) == ("in", "0.118")
