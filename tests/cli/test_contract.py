"""The command's contract: forms, figures and exit codes, through the installed command."""

import contextlib
import csv
import io
import json
import os
import subprocess
from pathlib import Path

import pytest
from PIL import Image
from reportlab.lib.utils import ImageReader
from reportlab.pdfgen.canvas import Canvas

from tests.support.command import HARNET, harnet
from tests.support.pictures import photo
from tests.support.schemas import report_validator


@pytest.fixture
def flyer(tmp_path):
    """A PDF with one image of 300 × 200 px at a width in points."""

    def make(*widths_pt, mode="RGB"):
        path = tmp_path / "flyer.pdf"
        canvas = Canvas(str(path))
        for width in widths_pt:
            image = ImageReader(Image.fromarray(photo()).convert(mode))
            canvas.drawImage(image, 0, 0, width, width * 2 / 3)
            canvas.showPage()
        canvas.save()
        return path

    return make


class TestCheck:
    def test_json(self, flyer):
        path = flyer(72, 101.75)
        run = harnet("check", path, "--target", "300", "--format", "json")
        answer = json.loads(run.stdout)
        assert (answer["file"], answer["pages"]) == (str(path), 2)
        report_validator("document-check.schema.json").validate(answer)
        assert answer["target"]["density_ppi"] == 300
        second = answer["images"][1]
        assert second["ppi_x"] == pytest.approx(212.3, abs=0.05)
        assert {
            key: second[key] for key in ("page", "px_w", "px_h", "verdict", "colour", "bits")
        } == {
            "page": 2,
            "px_w": 300,
            "px_h": 200,
            "verdict": "thin",
            "colour": "rgb",
            "bits": 8,
        }
        assert second["ppi_min"] == min(second["ppi_x"], second["ppi_y"])
        assert second["width_pt"] == pytest.approx(101.75, abs=0.001)
        assert answer["summary"] == {"coarse": 0, "thin": 1, "near": 0, "full": 1, "surplus": 0}
        assert run.returncode == 1

    @pytest.mark.parametrize(
        "width, target, code",
        [(72, "300", 0), (80, "300", 0), (80.1, "300", 1), (100, "office", 0)],
    )
    def test_exit_code_by_verdict(self, flyer, width, target, code):
        assert harnet("check", flyer(width), "--target", target).returncode == code

    def test_colours_only_on_a_terminal(self, flyer):
        path = flyer(100)
        assert "\x1b" not in harnet("check", path).stdout
        ours, theirs = os.openpty()
        process = subprocess.Popen([HARNET, "check", path], stdout=theirs)
        os.close(theirs)
        said = b""
        with contextlib.suppress(OSError):
            while block := os.read(ours, 4096):
                said += block
        os.close(ours)
        assert process.wait() == 1
        assert b"\x1b[33m1 " in said and b"thin" in said

    def test_a_report_beside_the_answer(self, flyer, tmp_path):
        path = flyer(100)
        run = harnet("check", path, "--report", tmp_path / "report.html", "-q")
        assert run.returncode == 1 and "report.html: " in run.stderr
        assert "216 ppi, 84 short of 300" in (tmp_path / "report.html").read_text()
        before = path.read_bytes()
        assert harnet("check", path, "--report", path).returncode == 2
        assert path.read_bytes() == before
        assert harnet("check", path, "--report", tmp_path / "report.txt").returncode == 2

    def test_a_report_in_inches(self, flyer, tmp_path):
        path = tmp_path / "report.html"
        harnet("check", flyer(100), "--report", path, "-q", "--unit", "in")
        # 300 × 200 px over 100 pt: 1.39 × 0.93 in.
        text = path.read_text()
        assert "216 ppi at 1.39 × 0.93 in" in text and " mm" not in text

    def test_csv_and_table(self, flyer):
        path = flyer(72)
        rows = list(csv.DictReader(io.StringIO(harnet("check", path, "--format", "csv").stdout)))
        assert (rows[0]["px_w"], rows[0]["verdict"]) == ("300", "full")
        table = harnet("check", path).stdout
        assert "300 × 200" in table and "\n1 page, 1 image: " in table

    @pytest.mark.parametrize("name, content", [("cut.pdf", b"%PDF-1.7\n1 0 obj"), ("a.pdf", b"hi")])
    def test_unreadable_is_two_with_one_sentence(self, tmp_path, name, content):
        path = tmp_path / name
        path.write_bytes(content)
        run = harnet("check", path, "--format", "json")
        assert run.returncode == 2
        answer = json.loads(run.stdout)
        assert (answer["file"], answer["error"]["code"]) == (str(path), "unreadable-file")
        assert answer["error"]["message"] == run.stderr.strip()
        assert harnet("check", path, "--format", "csv").stdout.count("\n") <= 1
        assert run.stderr.startswith(str(path)) and run.stderr.count("\n") == 1

    def test_an_unknown_target_is_two(self, flyer):
        run = harnet("check", flyer(72), "--target", "cardboard")
        assert run.returncode == 2 and "cardboard" in run.stderr


class TestCheckMany:
    def test_several_files_patterns_and_side_by_side(self, flyer, tmp_path):
        good = flyer(72)
        good.rename(tmp_path / "a.pdf")
        thin = flyer(100)
        thin.rename(tmp_path / "b.pdf")
        run = harnet("check", str(tmp_path / "*.pdf"), "--jobs", "2", "--format", "json")
        answers = json.loads(run.stdout)
        assert run.returncode == 1
        assert [Path(one["file"]).name for one in answers] == ["a.pdf", "b.pdf"]
        assert [one["images"][0]["verdict"] for one in answers] == ["full", "thin"]
        rows = list(
            csv.DictReader(
                io.StringIO(harnet("check", str(tmp_path / "*.pdf"), "--format", "csv").stdout)
            )
        )
        assert [row["file"].rpartition("/")[2] for row in rows] == ["a.pdf", "b.pdf"]

    def test_one_that_cannot_be_read_does_not_keep_the_others(self, flyer, tmp_path):
        bad = tmp_path / "bad.pdf"
        bad.write_bytes(b"no")
        run = harnet("check", bad, flyer(72), "--format", "json")
        assert run.returncode == 2 and run.stderr.startswith(f"{bad}: ")
        unread, read = json.loads(run.stdout)
        assert unread["error"]["code"] == "unreadable-file" and read["pages"] == 1

    def test_quiet_leaves_the_exit_code_alone(self, flyer):
        run = harnet("check", flyer(100), "--quiet")
        assert (run.returncode, run.stdout, run.stderr) == (1, "", "")

    def test_a_copy_with_notes_never_over_the_original(self, flyer, tmp_path):
        path, out = flyer(100, 72), tmp_path / "noted.pdf"
        before = path.read_bytes()
        run = harnet("check", path, "--notes", out)
        assert run.returncode == 1 and run.stderr.strip() == f"{out}: 1 note"
        assert path.read_bytes() == before and b"/Square" in out.read_bytes()
        refused = harnet("check", path, "--notes", path)
        assert refused.returncode == 2 and "never overwritten" in refused.stderr
        assert path.read_bytes() == before


class TestFacts:
    def test_the_good_are_listed_and_the_bad_get_a_sentence(self, make_picture, tmp_path):
        good = make_picture("slipway.jpg", dpi=(300, 300))
        bad = tmp_path / "notes.png"
        bad.write_text("hello")
        run = harnet("facts", bad, good, "--format", "json")
        unread, row = json.loads(run.stdout)
        assert unread["error"]["code"] == "unreadable-file"
        assert run.returncode == 2
        assert run.stderr.startswith(f"{bad}: ") and "slipway" not in run.stderr
        assert row["file"] == str(good)
        assert (row["kind"], row["format"], row["px_w"], row["px_h"]) == (
            "raster",
            "jpeg",
            300,
            200,
        )
        assert (row["density_x"], row["colour"], row["bits"]) == (300, "rgb", 8)
        assert (row["alpha"], row["lossy"], row["icc"], row["frames"]) == (False, True, None, 1)
        assert (row["size_bytes"], row["unpacked_bytes"]) == (good.stat().st_size, 180_000)

    def test_table_and_csv(self, make_picture):
        path = make_picture("gull-close.png")
        assert "none" in harnet("facts", path).stdout
        [row] = csv.DictReader(io.StringIO(harnet("facts", path, "--format", "csv").stdout))
        assert row["density_x"] == ""


class TestReach:
    def test_json(self, make_picture):
        path = make_picture("harbour-morning.jpg", 5184, 3456)
        run = harnet("reach", path, "--ppi", "300", "--unit", "cm", "--format", "json")
        answer = json.loads(run.stdout)
        # arithmetic, and stated in practice: 43.9 × 29.3 cm
        assert answer["width"] == pytest.approx(43.9, abs=0.05)
        assert answer["height"] == pytest.approx(29.3, abs=0.05)
        assert (answer["unit"], answer["ppi"], run.returncode) == ("cm", 300, 0)

    @pytest.mark.parametrize("arguments", [("--ppi", "0"), ("--ppi", "300", "--unit", "ell")])
    def test_nonsense_is_two_with_a_sentence(self, make_picture, arguments):
        run = harnet("reach", make_picture(), *arguments)
        assert run.returncode == 2 and run.stderr.count("\n") == 1
