"""The glossary: the words a designer meets, from the one page that explains them."""

import re
from functools import cache
from importlib.resources import files

from flask import Blueprint, render_template

blueprint = Blueprint("glossary", __name__)
_ROW = re.compile(r"^\| \*\*(?P<word>[^|]+)\*\* \| (?P<meaning>[^|]+) \|$", re.MULTILINE)


@blueprint.get("/glossary")
def show() -> str:
    """Every word with its meaning, in the order of the alphabet."""
    return render_template("common/glossary.html", entries=_entries())


@cache
def _entries() -> list[tuple[str, str]]:
    page = files("harnet.web").joinpath("glossary.md").read_text()
    return [(row["word"], row["meaning"]) for row in _ROW.finditer(page)]
