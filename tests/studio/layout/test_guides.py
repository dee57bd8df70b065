"""Guides of a page and the grid of a job, kept with them and undone."""

import pytest

from harnet.core.errors import ValueOutOfRange
from harnet.core.layout.grid import Grid
from harnet.core.measure.geometry import Box
from harnet.store.history import undo
from harnet.studio.common.errors import Refused
from harnet.studio.jobs.jobs import job_with, page_of
from harnet.studio.jobs.pages import copy_page
from harnet.studio.layout.arranging import add_item
from harnet.studio.layout.gestures import Gesture, gesture_result
from harnet.studio.layout.guides import (
    clear_guides,
    grid_of,
    guides_of_page,
    put_guide,
    remove_guide,
    set_grid,
    snapping_places,
)


@pytest.fixture
def set_up(studio, new_job):
    job_id = new_job()
    with studio.session() as session:
        job = job_with(session, job_id)
        yield session, job, page_of(job, 1)


def test_guides_are_added_moved_removed_and_undone(set_up):
    session, job, page = set_up
    put_guide(session, job, page, "x", 100)
    put_guide(session, job, page, "y", 50.5)
    put_guide(session, job, page, "x", 60)
    assert guides_of_page(page) == {"x": [60, 100], "y": [50.5]}
    put_guide(session, job, page, "x", 110, was_pt=100)
    assert guides_of_page(page)["x"] == [60, 110]
    remove_guide(session, job, page, "x", 60)
    assert guides_of_page(page)["x"] == [110]
    undo(session, job)
    undo(session, job)
    assert guides_of_page(page)["x"] == [60, 100]
    clear_guides(session, job, page)
    assert guides_of_page(page) == {"x": [], "y": []}


def test_the_same_place_twice_is_one_guide(set_up):
    session, job, page = set_up
    for _ in range(2):
        put_guide(session, job, page, "y", 70)
    assert guides_of_page(page)["y"] == [70]


def test_a_guide_lies_on_the_page(set_up):
    session, job, page = set_up
    with pytest.raises(Refused, match="on the page or in its bleed"):
        put_guide(session, job, page, "x", page.width_pt + job.bleed_pt + 5)
    with pytest.raises(Refused, match="upright"):
        put_guide(session, job, page, "z", 5)


def test_what_is_moved_comes_to_rest_on_guides_columns_and_grid(set_up):
    session, job, page = set_up
    item = add_item(session, job, page, "rectangle", Box(200, 200, 40, 40))
    put_guide(session, job, page, "x", 153)
    set_grid(session, job, Grid(columns=2, gutter_pt=12, step_pt=17))
    places = snapping_places(job, page)
    wide = (page.width_pt - 2 * job.margin_pt - 12) / 2
    assert job.margin_pt + wide in places["x"] and 153 in places["x"]
    move = Gesture(kind="move", dx_pt=-45, dy_pt=0, snap_pt=3)
    [(_, moved)] = gesture_result(job, [item], move).geometries
    assert moved.box.x == 153


def test_a_copy_of_the_page_keeps_its_guides(set_up):
    session, job, page = set_up
    put_guide(session, job, page, "x", 42)
    copy_page(session, job, 1)
    assert guides_of_page(page_of(job, 2))["x"] == [42]


def test_a_grid_that_does_not_fit(set_up):
    session, job, _ = set_up
    with pytest.raises(ValueOutOfRange):
        set_grid(session, job, Grid(columns=3, gutter_pt=500))
    assert grid_of(job) == Grid()
