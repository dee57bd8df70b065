"""What a command is judged by: files of targets, what counts as failing, several files at once."""

import json
from pathlib import Path

import pytest
from PIL import Image

from harnet.core.targets.shipped import target_named
from harnet.studio.targets.files import targets_as_file
from tests.support.command import flyer, harnet
from tests.support.pictures import photo


@pytest.fixture
def thin(tmp_path):
    """A PDF with a picture of 212 ppi: thin for 300."""
    flyer(tmp_path / "thin.pdf", 101.75)
    return tmp_path / "thin.pdf"


@pytest.fixture
def own_targets(tmp_path):
    path = tmp_path / "our targets.json"
    path.write_text(targets_as_file([target_named("coated"), target_named("office")]))
    return path


class TestFilesOfTargets:
    def test_one_of_several_by_its_key(self, thin, own_targets):
        for key, density in (("coated", 300), ("office", 220)):
            run = harnet("check", thin, "--target", f"{own_targets}#{key}", "--format", "json")
            assert json.loads(run.stdout)["target"]["density_ppi"] == density

    def test_the_only_one_needs_no_key(self, thin, tmp_path):
        path = tmp_path / "one.json"
        path.write_text(targets_as_file([target_named("office")]))
        assert harnet("check", thin, "--target", path, "--quiet").returncode == 0

    @pytest.mark.parametrize("key, words", [("", "say which"), ("#moon", "coated, office")])
    def test_which_is_not_said(self, thin, own_targets, key, words):
        run = harnet("check", thin, "--target", f"{own_targets}{key}")
        assert run.returncode == 2 and words in run.stderr and "Traceback" not in run.stderr

    @pytest.mark.parametrize("text", ["", "{}", "[1]", '{"format": "harnet targets"}'])
    def test_none(self, thin, tmp_path, text):
        (tmp_path / "none.json").write_text(text)
        run = harnet("check", thin, "--target", tmp_path / "none.json")
        assert run.returncode == 2 and "none.json" in run.stderr
        assert "Traceback" not in run.stderr

    def test_one_that_is_not_there(self, thin, tmp_path):
        run = harnet("check", thin, "--target", tmp_path / "gone.json")
        assert run.returncode == 2 and "cannot be read" in run.stderr


class TestWhatFails:
    @pytest.mark.parametrize(
        "target, fail_on, code",
        [
            # 212 ppi are thin for 300 and, below a third of it, coarse for 700.
            ("300", "coarse", 0),
            ("300", "thin", 1),
            ("300", "blocking", 0),
            ("700", "coarse", 1),
            ("150", "thin", 0),
        ],
    )
    def test_is_said(self, thin, target, fail_on, code):
        run = harnet("check", thin, "--target", target, "--fail-on", fail_on, "--quiet")
        assert (run.returncode, run.stdout) == (code, "")

    def test_findings_beside_density_stand_under_the_table(self, thin):
        answer = json.loads(harnet("check", thin, "--target", "150", "--format", "json").stdout)
        table = harnet("check", thin, "--target", "150").stdout
        assert {one["headline"] for one in answer["findings"]} == {
            "no bleed on page 1",
            "no trim box",
        }
        assert "warning: no bleed on page 1\nnote: no trim box\n" in table

    def test_a_warning_where_that_is_asked(self, thin):
        assert harnet("check", thin, "--target", "150").returncode == 0
        assert harnet("check", thin, "--target", "150", "--fail-on", "warning").returncode == 1


class TestReach:
    def test_for_a_target_is_that_of_its_density(self, tmp_path):
        Image.fromarray(photo()).save(tmp_path / "a.jpg")
        found = [
            json.loads(harnet("reach", tmp_path / "a.jpg", *how, "--format", "json").stdout)
            for how in (("--target", "office"), ("--ppi", "220"))
        ]
        assert found[0]["width"] == found[1]["width"] == pytest.approx(300 / 220 * 25.4, 1e-4)


def test_facts_of_a_pattern(tmp_path):
    for name in ("a.jpg", "b.jpg"):
        Image.fromarray(photo()).save(tmp_path / name)
    run = harnet("facts", tmp_path / "*.jpg", "--format", "json")
    assert [Path(one["file"]).name for one in json.loads(run.stdout)] == ["a.jpg", "b.jpg"]
