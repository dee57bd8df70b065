"""A whole group of findings: a plan first, one edit, one reason, rights once per file."""

import pytest

from harnet.core.pictures.rights import Rights
from harnet.store.history import history_of, undo
from harnet.studio.common.errors import Refused
from harnet.studio.jobs.jobs import job_with
from harnet.studio.judging.judging import settle
from harnet.studio.layout.placing import place_picture
from harnet.studio.pictures.picture import picture_with
from harnet.studio.preflight.bulk import (
    accept_all,
    findings_of_group,
    fix_all,
    key_of,
    pictures_without_rights,
    planned_fixes,
    state_rights,
)
from harnet.studio.preflight.checking import findings_in

FEW = "Too few pixels"


@pytest.fixture
def poor(studio, new_job, on_shelf, make_picture):
    """A job in which one picture is placed twice and another once, all far too large."""
    ids = [
        on_shelf(make_picture("gull.jpg", dpi=(60, 60))),
        on_shelf(make_picture("ferry.jpg", seed=4, dpi=(60, 60))),
    ]
    job_id = new_job(pages=2, width=400, height=400)
    with studio.session() as session:
        job = job_with(session, job_id)
        for page, number in ((0, ids[0]), (1, ids[0]), (1, ids[1])):
            place_picture(session, job, job.pages[page], picture_with(session, number))
        settle(session)
        yield session, job


def test_a_plan_changes_nothing_and_names_the_surest_fix(poor):
    session, job = poor
    plan = planned_fixes(session, job, findings_of_group(session, job, FEW))
    assert [one.words for one in plan] == ["scale to reach, the frame follows"] * 3
    assert len(history_of(session, job)) == 3


def test_all_are_fixed_as_one_edit(studio, poor):
    session, job = poor
    keys = [key_of(one) for one in findings_of_group(session, job, FEW)]
    assert fix_all(studio, session, job, FEW, keys) == (3, [])
    settle(session)
    assert findings_of_group(session, job, FEW) == []
    assert history_of(session, job)[0].label == "Fix 3 findings: Too few pixels"
    undo(session, job)
    settle(session)
    assert len(findings_of_group(session, job, FEW)) == 3


def test_only_the_chosen_are_fixed(studio, poor):
    session, job = poor
    first, *others = findings_of_group(session, job, FEW)
    number = first.row.item_id
    assert fix_all(studio, session, job, FEW, [key_of(first)])[0] == 1
    settle(session)
    left = {one.row.item_id for one in findings_of_group(session, job, FEW)}
    assert left == {one.row.item_id for one in others} and number not in left
    with pytest.raises(Refused, match="Choose at least one"):
        fix_all(studio, session, job, FEW, [])


def test_a_group_is_accepted_with_one_reason(poor):
    session, job = poor
    assert accept_all(session, job, FEW, "A dummy for Friday", "I. Varga") == 3
    settle(session)
    assert findings_of_group(session, job, FEW) == []
    accepted = findings_in(session, job, are_accepted=True)
    assert {one.acceptance.reason for one in accepted} == {"A dummy for Friday"}
    undo(session, job)
    settle(session)
    assert len(findings_of_group(session, job, FEW)) == 3


def test_rights_are_stated_once_per_file(poor):
    session, job = poor
    asking = [one for one in findings_in(session, job) if "rights" in one.row.fixes]
    assert len(asking) == 3
    pictures = pictures_without_rights(session, asking)
    assert sorted(picture.file_name for picture in pictures) == ["ferry.jpg", "gull.jpg"]
    stated = {pictures[0].id: Rights("CC-BY-4.0", "I. Varga"), pictures[1].id: Rights()}
    assert state_rights(session, stated) == 1
    settle(session)
    left = [one for one in findings_in(session, job) if "rights" in one.row.fixes]
    assert {one.row.name for one in left} == {pictures[1].file_name}
