"""The designer's guide: one page a task, in the order of the work."""

from functools import cache
from importlib.resources import files

from flask import Blueprint, Response, abort, render_template, send_from_directory, url_for
from markdown_it import MarkdownIt
from markupsafe import Markup

blueprint = Blueprint("guide", __name__, url_prefix="/guide")
_FOLDER = files("harnet.web").joinpath("guide")
GUIDE_OF_AREA = {
    "pictures": "3-pictures",
    "pdf": "2-check",
    "jobs": "4-pages",
    "targets": "1-density",
    "ledger": "5-review",
    "preflight": "5-review",
    "output": "6-output",
}
"""The page that explains each view."""


@blueprint.get("")
def contents() -> str:
    """The pages, in the order of the work."""
    return render_template("common/guide.html", pages=_pages(), name="", text="")


@blueprint.get("/<name>")
def page(name: str) -> str:
    """One page."""
    if name not in dict(_pages()):
        abort(404)
    text = _FOLDER.joinpath(f"{name}.md").read_text()
    shown = MarkdownIt().render(
        text.replace("(screenshots/", f"({url_for('guide.contents')}/screenshots/")
    )
    return render_template("common/guide.html", pages=_pages(), name=name, text=Markup(shown))


@blueprint.get("/screenshots/<name>.png")
def picture(name: str) -> Response:
    """A picture of a view, as the guide shows it."""
    return send_from_directory(str(_FOLDER.joinpath("screenshots")), f"{name}.png", max_age=3600)


@cache
def _pages() -> list[tuple[str, str]]:
    """Names and titles."""
    found = sorted(one.name for one in _FOLDER.iterdir() if one.name.endswith(".md"))
    return [
        (
            name.removesuffix(".md"),
            _FOLDER.joinpath(name).read_text().partition("\n")[0].lstrip("# "),
        )
        for name in found
    ]
