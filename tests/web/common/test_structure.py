"""The list of views that import-linter keeps apart is complete."""

import re
import tomllib
from pathlib import Path

ROOT = Path(__file__).parents[3]


def test_every_module_with_a_blueprint_is_kept_apart_from_the_others():
    settings = tomllib.loads((ROOT / "pyproject.toml").read_text())
    contracts = settings["tool"]["importlinter"]["contracts"]
    [listed] = [one["modules"] for one in contracts if one["type"] == "independence"]
    source = ROOT / "src"
    views = [
        ".".join(path.relative_to(source).with_suffix("").parts)
        for path in (source / "harnet" / "web").rglob("*.py")
        if re.search(r"^\w*(blueprint|resource) = ", path.read_text(), re.MULTILINE)
    ]
    assert sorted(views) == sorted(listed)
