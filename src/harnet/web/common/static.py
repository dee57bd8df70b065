"""Styles, scripts and fonts under names that change with their content, kept for a year."""

from functools import cache
from hashlib import sha256
from pathlib import Path

from flask import Blueprint, Response, send_from_directory

FOLDER = Path(__file__).parents[1] / "static"
FOREVER_SECONDS = 365 * 24 * 3600
_LETTERS = 12

blueprint = Blueprint("anystatic", __name__)


@cache
def static_version() -> str:
    """A word that is another one as soon as any of the files is."""
    digest = sha256()
    for path in sorted(FOLDER.rglob("*")):
        if path.is_file():
            digest.update(str(path.relative_to(FOLDER)).encode())
            digest.update(path.read_bytes())
    return digest.hexdigest()[:_LETTERS]


@blueprint.get("/static/<version>/<path:name>")
def of_any_version(version: str, name: str) -> Response:
    """A file for a page of another version: on a machine that was brought up to date before."""
    response = send_from_directory(FOLDER, name, max_age=0)
    response.headers["Cache-Control"] = "no-cache"
    return response
