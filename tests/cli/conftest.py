"""What tests of the command share: the wheel."""

import shutil
import subprocess
import sys
from pathlib import Path

import pytest

ROOT = Path(__file__).parents[2]
LONG = 120


@pytest.fixture(scope="session")
def wheel(tmp_path_factory):
    """The wheel, built of a copy, so that nothing of an earlier build comes along."""
    folder = tmp_path_factory.mktemp("wheel")
    source = folder / "source"
    source.mkdir()
    shutil.copytree(ROOT / "src", source / "src", ignore=shutil.ignore_patterns("*.egg-info"))
    shutil.copytree(ROOT / "docs" / "screenshots", source / "docs" / "screenshots")
    for name in ("pyproject.toml", "README.md"):
        shutil.copy(ROOT / name, source / name)
    command = [sys.executable, "-m", "pip", "wheel", "--quiet", "--no-deps", "--no-build-isolation"]
    subprocess.run([*command, "-w", folder, source], check=True, timeout=LONG)
    (made,) = folder.glob("*.whl")
    return made
