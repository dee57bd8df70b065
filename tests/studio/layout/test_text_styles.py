"""Text styles of a job, the texts that follow them, and credit lines."""

from itertools import pairwise

import pytest

from harnet.core.errors import ValueOutOfRange
from harnet.core.measure.geometry import Box
from harnet.core.pictures.rights import Rights
from harnet.media.pagedrawing.text_lines import TextStyle, lines_of
from harnet.store.history import redo, undo
from harnet.studio.common.errors import Refused
from harnet.studio.jobs.jobs import job_with, page_of
from harnet.studio.jobs.listing import duplicate_job
from harnet.studio.layout.arranging import add_item, set_style
from harnet.studio.layout.placing import place_picture
from harnet.studio.layout.text_styles import (
    add_credit_lines,
    apply_text_style,
    change_text_style,
    differs,
    take_style_from,
    text_styles_of,
)
from harnet.studio.pictures.picture import picture_with, set_rights


@pytest.fixture
def set_up(studio, new_job):
    """A session, a job and three of its texts."""
    job_id = new_job()
    with studio.session() as session:
        job = job_with(session, job_id)
        page = page_of(job, 1)
        texts = [add_item(session, job, page, "text", Box(20, 40 * at, 200, 30)) for at in range(3)]
        yield session, job, texts


def test_texts_follow_their_style(set_up):
    session, job, (one, two, three) = set_up
    apply_text_style(session, job, [one, two], "caption")
    caption = text_styles_of(job)["caption"]
    assert one.style["size_pt"] == two.style["size_pt"] == caption["size_pt"]
    assert change_text_style(session, job, "caption", {"size_pt": 7.0, "align": "right"}) == 2
    assert (one.style["size_pt"], one.style["align"]) == (7.0, "right")
    assert three.style["size_pt"] == 10.0 and "named" not in three.style
    undo(session, job)
    assert one.style["size_pt"] == caption["size_pt"]
    assert text_styles_of(job)["caption"] == caption
    redo(session, job)
    assert two.style["size_pt"] == text_styles_of(job)["caption"]["size_pt"] == 7.0


def test_what_was_changed_on_a_text_stays(set_up):
    session, job, (one, two, _) = set_up
    apply_text_style(session, job, [one, two], "body")
    set_style(session, job, one, {"colour": "#7a1f3d"}, None)
    assert differs(job, one) and not differs(job, two)
    change_text_style(session, job, "body", {"colour": "#000000", "leading_pt": 15.0})
    assert one.style["colour"] == "#7a1f3d" and one.style["leading_pt"] == 15.0
    assert two.style["colour"] == "#000000"
    apply_text_style(session, job, [one], "body")
    assert not differs(job, one)


def test_a_style_is_taken_from_a_text_in_one_step(set_up):
    session, job, (one, two, _) = set_up
    apply_text_style(session, job, [one], "heading")
    set_style(session, job, two, {"size_pt": 31.0, "leading_pt": 34.0}, None)
    take_style_from(session, job, two, "heading")
    assert one.style["size_pt"] == 31.0 and two.style["named"] == "heading"
    undo(session, job)
    assert one.style["size_pt"] == text_styles_of(job)["heading"]["size_pt"] != 31.0


def test_a_copy_of_the_job_has_its_styles(set_up):
    session, job, _ = set_up
    change_text_style(session, job, "credit", {"size_pt": 5.0})
    assert text_styles_of(duplicate_job(session, job))["credit"]["size_pt"] == 5.0


@pytest.mark.parametrize(
    "values, words",
    [
        ({"size_pt": 0.0}, "size"),
        ({"space_pt": -1.0}, "space after a paragraph"),
        ({"font": "none"}, "family"),
    ],
)
def test_figures_that_no_text_can_have(set_up, values, words):
    session, job, _ = set_up
    with pytest.raises(ValueOutOfRange, match=words):
        change_text_style(session, job, "body", values)


def test_what_is_no_style_or_no_text(set_up, on_shelf, make_picture):
    session, job, (one, *_) = set_up
    with pytest.raises(Refused, match="not a text style"):
        apply_text_style(session, job, [one], "footnote")
    picture = picture_with(session, on_shelf(make_picture()))
    item = place_picture(session, job, page_of(job, 1), picture)
    with pytest.raises(Refused, match="Select a text"):
        apply_text_style(session, job, [item], "body")


def test_credit_lines_come_from_the_rights(set_up, on_shelf, make_picture):
    session, job, _ = set_up
    picture = picture_with(session, on_shelf(make_picture()))
    item = place_picture(session, job, page_of(job, 1), picture, (150, 150))
    with pytest.raises(Refused, match="no credit line"):
        add_credit_lines(session, job, [item])
    set_rights(picture, Rights("CC-BY-4.0", "Photograph: I. Varga", ""))
    [line] = add_credit_lines(session, job, [item])
    assert (line.text, line.style["named"]) == ("Photograph: I. Varga", "credit")
    assert line.x_pt == pytest.approx(item.x_pt)
    assert line.y_pt == pytest.approx(item.y_pt + item.height_pt + 3)
    assert line.width_pt == pytest.approx(item.width_pt)
    undo(session, job)
    assert all(one.text != "Photograph: I. Varga" for one in page_of(job, 1).items)


def test_paragraphs_stand_apart():
    style = TextStyle(font="serif-400", size_pt=10, leading_pt=14, space_pt=6)
    lines = lines_of("High water\nLow water\nSlack", style, 300)
    steps = [low.baseline_pt - high.baseline_pt for high, low in pairwise(lines)]
    assert steps == [20, 20]
