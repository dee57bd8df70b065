"""Styles, scripts and fonts under names that change with their content, kept for a year."""

from functools import cache
from hashlib import sha256
from http import HTTPStatus
from pathlib import Path

import brotli
from flask import Blueprint, Response, request, send_from_directory

FOLDER = Path(__file__).parents[1] / "static"
FOREVER_SECONDS = 365 * 24 * 3600
_LETTERS = 12
_BEST = 11
_TEXTS = frozenset({".css", ".js", ".svg"})

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


@cache
def script_names() -> tuple[str, ...]:
    """The modules that every page needs, for browsers to fetch them before they ask one another."""
    return tuple(sorted(f"js/{path.name}" for path in (FOLDER / "js").glob("*.js")))


@cache
def _packed(name: str) -> bytes:
    return bytes(brotli.compress((FOLDER / name).read_bytes(), quality=_BEST))


def packed_for_good(response: Response) -> bool:
    """Makes a style or script as small as it gets, once for all; whether it is one, and asked for.

    Browsers keep it for a year.
    """
    name = (request.view_args or {}).get("filename", "")
    is_text = Path(name).suffix in _TEXTS and response.status_code == HTTPStatus.OK
    if not is_text or request.accept_encodings.best_match(["br"]) is None:
        return False
    response.direct_passthrough = False
    response.set_data(_packed(name))
    response.headers["Content-Encoding"] = "br"
    response.vary.add("Accept-Encoding")
    return True


@blueprint.get("/static/<version>/<path:name>")
def of_any_version(version: str, name: str) -> Response:
    """A file for a page of another version: on a machine that was brought up to date before."""
    response = send_from_directory(FOLDER, name, max_age=0)
    response.headers["Cache-Control"] = "no-cache"
    return response
