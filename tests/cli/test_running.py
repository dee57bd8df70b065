"""The commands around the checks: a watched folder, targets, completion, the manual."""

import json
import subprocess
import time

import pytest

from tests.support.command import HARNET, flyer, harnet


class TestWatch:
    def test_once_writes_a_report_beside_each(self, tmp_path):
        flyer(tmp_path / "thin.pdf", 100)
        flyer(tmp_path / "FULL.PDF", 72)
        (tmp_path / "no.pdf").write_bytes(b"no")
        (tmp_path / "notes.txt").write_text("left alone")
        run = harnet("watch", tmp_path, "--once", "--target", "300")
        assert run.returncode == 0, run.stderr
        reports = {one.name: json.loads(one.read_text()) for one in tmp_path.glob("*.json")}
        assert set(reports) == {
            "thin.pdf.check.json",
            "FULL.PDF.check.json",
            "no.pdf.check.json",
        }
        assert reports["thin.pdf.check.json"]["summary"]["thin"] == 1
        assert reports["no.pdf.check.json"]["failure"].startswith("no.pdf: ")
        assert "thin.pdf: 1 picture, some fall short" in run.stdout
        # What did not change is not read again.
        assert harnet("watch", tmp_path, "--once", "--target", "300").stdout == ""
        # By another target all is.
        assert "thin.pdf" in harnet("watch", tmp_path, "--once", "--target", "150").stdout

    def test_one_that_arrives_later_and_one_that_changes(self, tmp_path):
        process = subprocess.Popen(
            [HARNET, "watch", str(tmp_path), "--every", "0.1"], stdout=subprocess.DEVNULL
        )
        try:
            report = tmp_path / "late.pdf.check.json"
            flyer(tmp_path / "late.pdf", 100)
            assert verdict_within(report, "thin")
            flyer(tmp_path / "late.pdf", 72)
            assert verdict_within(report, "full")
        finally:
            process.terminate()
            process.wait(10)

    def test_a_folder_that_is_not_there(self, tmp_path):
        run = harnet("watch", tmp_path / "gone")
        assert run.returncode == 2 and "no such folder" in run.stderr


def verdict_within(report, verdict, seconds=30):
    end = time.monotonic() + seconds
    while time.monotonic() < end:
        if report.exists() and json.loads(report.read_text()).get("summary", {}).get(verdict):
            return True
        time.sleep(0.05)
    return False


def test_targets():
    rows = json.loads(harnet("targets", "--format", "json").stdout)
    assert {"key": "coated", "density_ppi": 300}.items() <= rows[0].items()
    assert "newsprint" in harnet("targets").stdout


@pytest.mark.parametrize("shell", ["bash", "zsh", "fish"])
def test_completion(shell):
    assert "_HARNET_COMPLETE" in harnet("completion", shell).stdout


def test_bash_accepts_the_completion_and_offers_commands():
    words = (
        f'PATH="$(dirname {HARNET}):$PATH"; eval "$(harnet completion bash)";'
        ' COMP_WORDS=(harnet ch); COMP_CWORD=1; _harnet_completion harnet; echo "${COMPREPLY[@]}"'
    )
    run = subprocess.run(["bash", "-c", words], capture_output=True, text=True)
    assert run.stdout.split() == ["check"], run.stderr


def test_the_manual_holds_every_command():
    page = harnet("manual").stdout
    for command in ("check", "facts", "reach", "targets", "export", "serve", "worker", "watch"):
        assert f".SS harnet {command} " in page
    assert "\\-\\-target" in page


@pytest.mark.parametrize("command", ["serve", "worker"])
def test_without_settings_they_say_what_is_missing(command):
    run = harnet(command)
    assert run.returncode == 2
    assert "HARNET_DATABASE must be set" in run.stderr
