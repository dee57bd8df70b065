"""Undo for a window, a job's settings, and pages moved together."""

from dataclasses import replace

import pytest
from sqlalchemy.orm import object_session

from harnet.core.errors import ValueOutOfRange
from harnet.core.measure.units import Unit
from harnet.store.history import history_of, recorded, redo, undo
from harnet.studio.common.errors import Conflict, Refused
from harnet.studio.jobs.jobs import job_with
from harnet.studio.jobs.pages import move_pages
from harnet.studio.jobs.settings import JobSettings, change_settings
from harnet.studio.jobs.steps import page_changed_by, step_known, steps_of
from harnet.studio.layout.arranging import set_quality
from harnet.studio.layout.film import stamps_of
from harnet.studio.layout.placing import place_picture, remove_items
from harnet.studio.pictures.picture import picture_with


@pytest.fixture
def job(studio, new_job):
    job_id = new_job(pages=4)
    with studio.session() as session:
        yield job_with(session, job_id)


@pytest.fixture
def session(job):
    return object_session(job)


@pytest.fixture
def picture(session, on_shelf, make_picture):
    return picture_with(session, on_shelf(make_picture()))


class TestUndo:
    def test_another_windows_step_is_named_and_not_undone(self, session, job, picture):
        place_picture(session, job, job.pages[0], picture)
        known, _ = steps_of(job)
        set_quality(session, job, job, "exact")
        with pytest.raises(Conflict, match="“Preview of the job” came last"):
            step_known(session, job, known)
        assert step_known(session, job, steps_of(job)[0]).label == "Preview of the job"

    def test_pressed_twice_in_a_row_it_goes_on(self, session, job, picture):
        place_picture(session, job, job.pages[0], picture)
        set_quality(session, job, job, "exact")
        known, _ = steps_of(job)
        undo(session, job)
        assert step_known(session, job, known).label.startswith("Place")
        undo(session, job)
        _, again = steps_of(job)
        redo(session, job)
        assert step_known(session, job, again, is_redo=True).label == "Preview of the job"

    def test_nothing_to_undo_or_redo(self, session, job):
        assert steps_of(job) == (0, 0)
        with pytest.raises(Refused, match="nothing to undo"):
            step_known(session, job, None)
        with pytest.raises(Refused, match="nothing to redo"):
            step_known(session, job, None, is_redo=True)

    def test_the_page_where_it_happened_is_known(self, session, job, picture):
        item = place_picture(session, job, job.pages[2], picture)
        assert page_changed_by(session, job, history_of(session, job)[0]) == 3
        remove_items(session, job, [item])
        edit = history_of(session, job)[0]
        assert page_changed_by(session, job, edit) == 3
        undo(session, job)
        assert page_changed_by(session, job, edit) == 3


class TestEditsInsideAnEdit:
    def test_are_one_step_there_and_back(self, session, job, picture):
        with recorded(session, job, "Both"):
            item = place_picture(session, job, job.pages[0], picture)
            set_quality(session, job, item, "exact")
            set_quality(session, job, job, "light")
        assert [edit.label for edit in history_of(session, job)] == ["Both"]
        number = item.id
        undo(session, job)
        assert job.quality is None and not job.pages[0].items
        redo(session, job)
        [again] = job.pages[0].items
        assert (again.id, again.quality, job.quality) == (number, "exact", "light")

    def test_what_comes_and_goes_inside_leaves_nothing(self, session, job, picture):
        with recorded(session, job, "Nothing"):
            remove_items(session, job, [place_picture(session, job, job.pages[0], picture)])
        assert history_of(session, job) == []


class TestSettings:
    WANTED = JobSettings(
        title=" Quay  leaflet ",
        unit=Unit.INCH,
        px_per_inch=None,
        bleed_pt=9,
        margin_pt=36,
        is_facing=True,
    )

    def test_change_as_one_edit(self, session, job):
        change_settings(session, job, self.WANTED)
        found = (job.title, job.unit, job.bleed_pt, job.margin_pt, job.is_facing)
        assert found == ("Quay leaflet", "in", 9, 36, True)
        undo(session, job)
        assert (job.title, job.unit, job.is_facing) == ("Quay flyer", "mm", False)

    @pytest.mark.parametrize(
        "changed, error, why",
        [
            ({"title": "  "}, Refused, "title"),
            ({"bleed_pt": -1}, ValueOutOfRange, "bleed"),
            ({"margin_pt": 4000}, ValueOutOfRange, "margin of 55.556 in leaves no page"),
            ({"unit": Unit.PX, "px_per_inch": 0.0}, ValueOutOfRange, "pixel density"),
        ],
    )
    def test_that_no_job_can_have(self, session, job, changed, error, why):
        with pytest.raises(error, match=why):
            change_settings(session, job, replace(self.WANTED, **changed))


class TestMovingPages:
    @pytest.mark.parametrize(
        "numbers, to, order",
        [
            ([1], 3, [2, 3, 1, 4]),
            ([4], 1, [4, 1, 2, 3]),
            ([1, 2], 4, [3, 4, 1, 2]),
            ([4, 2], 1, [2, 4, 1, 3]),
            ([2, 3], 3, [1, 2, 3, 4]),
        ],
    )
    def test_together(self, session, job, numbers, to, order):
        before = {page.id: number for number, page in enumerate(job.pages, 1)}
        move_pages(session, job, numbers, to)
        assert [before[page.id] for page in job.pages] == order

    def test_none_are_refused(self, session, job):
        with pytest.raises(Refused, match="Choose the pages"):
            move_pages(session, job, [], 1)


def test_a_pages_stamp_changes_with_what_is_on_it_and_with_nothing_else(session, job, picture):
    first = stamps_of(session, job.pages)
    item = place_picture(session, job, job.pages[0], picture)
    second = stamps_of(session, job.pages)
    changed = [number for number in first if first[number] != second[number]]
    assert changed == [job.pages[0].id]
    set_quality(session, job, item, "exact")
    session.flush()
    assert stamps_of(session, job.pages)[job.pages[0].id] != second[job.pages[0].id]
