"""Twelve people at once on one job and a bit, each with an item of their own."""

import subprocess
import sys
from pathlib import Path

from tests.support.databases import new_database

ROOT = Path(__file__).parents[2]


def test_nothing_fails_nothing_is_lost_and_every_figure_is_right():
    with new_database("load") as url:
        run = subprocess.run(
            [sys.executable, ROOT / "script" / "load", "--people", "12", "--seconds", "8",
             "--processes", "2", "--database", url],
            cwd=ROOT, capture_output=True, text=True, check=False, timeout=300,
        )  # fmt: skip
    assert run.returncode == 0, run.stdout + run.stderr
    assert "12 people, 2 processes" in run.stdout
    assert all(kind in run.stdout for kind in ("edit", "look", "measure"))
