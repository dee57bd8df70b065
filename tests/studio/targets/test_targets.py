"""The studio's list of targets, files of them, and the published schemas."""

import json
from dataclasses import replace

import pytest
from jsonschema import Draft202012Validator

from harnet.core.targets.severity import Severity
from harnet.core.targets.shipped import SHIPPED
from harnet.studio.common.errors import Conflict, NotThere, Refused
from harnet.studio.common.published_file import schema_of
from harnet.studio.jobs.jobs import job_with, set_target, target_of
from harnet.studio.preflight.report import report_as_json, report_of
from harnet.studio.targets.files import TargetFile, targets_as_file
from harnet.studio.targets.targets import (
    all_targets,
    copy_target,
    drop_target,
    jobs_with_target,
    read_targets,
    row_of,
    save_target,
    take_over,
    target_with,
)
from tests.support.schemas import report_validator, schema


def test_shipped_ones_first_then_the_studios_own_by_name(studio):
    with studio.session() as session:
        for name in ("Zinc", "Arch press"):
            save_target(session, replace(SHIPPED[0], key=name.lower().split()[0], name=name))
        names = [target.name for target in all_targets(session)]
        assert names[: len(SHIPPED)] == [target.name for target in SHIPPED]
        assert names[len(SHIPPED) :] == ["Arch press", "Zinc"]


def test_a_copy_gets_a_key_of_its_own(studio):
    with studio.session() as session:
        first, second = copy_target(session, "coated"), copy_target(session, "coated")
        assert first.name == "Coated press, copy" and first.key != second.key
        assert replace(first, key="coated", name="Coated press") == SHIPPED[0]


def test_a_shipped_target_is_changed_and_comes_back(studio):
    with studio.session() as session:
        save_target(session, replace(SHIPPED[0], tolerance=0.05))
        assert target_with(session, "coated").passes_from_ppi == pytest.approx(285)
        assert drop_target(session, "coated") is True
        assert target_with(session, "coated") == SHIPPED[0]
        with pytest.raises(Refused, match="as it ships"):
            drop_target(session, "coated")


def test_two_editors_do_not_overwrite_each_other(studio):
    with studio.session() as session:
        save_target(session, replace(SHIPPED[0], key="press"))
        version = row_of(session, "press").version
        save_target(session, replace(SHIPPED[0], key="press", tolerance=0.05), version)
        with pytest.raises(Conflict):
            save_target(session, replace(SHIPPED[0], key="press", tolerance=0.2), version)
        with pytest.raises(Refused, match="not saved"):
            save_target(session, replace(SHIPPED[0], key="press", tolerance=2))


def test_a_job_keeps_its_figures_until_it_takes_the_new_ones_over(studio, new_job):
    job_id = new_job()
    with studio.session() as session:
        stricter = replace(SHIPPED[0], tolerance=0.01)
        save_target(session, stricter)
        job = job_with(session, job_id)
        assert target_of(job) == SHIPPED[0] and jobs_with_target(session, "coated") == 1
        assert take_over(session, stricter) == 1 and take_over(session, stricter) == 0
        assert target_of(job) == stricter


def test_a_target_that_is_gone_from_the_list_still_judges_its_job(studio, new_job):
    job_id = new_job()
    with studio.session() as session:
        own = copy_target(session, "office")
        job = job_with(session, job_id)
        set_target(session, job, own.key)
        assert drop_target(session, own.key) is False
        assert target_of(job) == own
        with pytest.raises(NotThere):
            target_with(session, own.key)


class TestFiles:
    def test_what_is_exported_is_read_in_again(self, studio):
        with studio.session() as session:
            fussy = replace(
                SHIPPED[0], key="fussy", severities=(("file-loose", Severity.BLOCKING),)
            )
            save_target(session, fussy)
            text = targets_as_file(all_targets(session))
            drop_target(session, "fussy")
            new, replaced = read_targets(session, text)
            assert new == ["Coated press"] and len(replaced) == len(SHIPPED)
            assert target_with(session, "fussy") == fussy

    def test_it_keeps_to_the_published_schema(self):
        published = schema("targets.schema.json")
        assert published == schema_of(TargetFile, "targets.schema.json")
        Draft202012Validator(published).validate(json.loads(targets_as_file(list(SHIPPED))))

    @pytest.mark.parametrize(
        "change, says",
        [
            (lambda file: file.pop("format"), "format: field required"),
            (lambda file: file["targets"].clear(), "at least 1 item"),
            (lambda file: file["targets"][0].update(tolerance=1.5), "targets → 0 → tolerance"),
            (lambda file: file["targets"][0].update(floor_ppi=290), "floor is"),
            (lambda file: file["targets"][0].update(key="own"), "reserved for custom"),
            (lambda file: file["targets"][0].update(severities={"moon": "note"}), "a rule “moon”"),
            (lambda file: file["targets"][0].update(colour="red"), "extra inputs"),
        ],
    )
    def test_one_that_makes_no_sense_changes_nothing(self, studio, change, says):
        file = json.loads(targets_as_file([replace(SHIPPED[0], key="new"), SHIPPED[1]]))
        change(file)
        with studio.session() as session:
            with pytest.raises(Refused, match=says):
                read_targets(session, json.dumps(file))
            assert all_targets(session) == list(SHIPPED)

    @pytest.mark.parametrize("text", ["", "{", "[]", "null", "x" * 1_000_001])
    def test_one_that_is_none_is_told(self, studio, text):
        with studio.session() as session, pytest.raises(Refused):
            read_targets(session, text)


def test_the_report_keeps_to_its_published_schema(studio, new_job):
    job_id = new_job()
    with studio.session() as session:
        values = report_as_json(report_of(session, job_with(session, job_id)))
    report_validator("job-report.schema.json").validate(values)
