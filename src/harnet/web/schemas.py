"""The published JSON Schemas, at the addresses that their `$id`s name; no token is needed."""

from importlib.resources import files

from flask import Blueprint, Response

from harnet.studio.common.errors import NotThere

blueprint = Blueprint("schemas", __name__, url_prefix="/schemas")
_FORMS = files("harnet.schemas")


@blueprint.get("/<name>")
def schema(name: str) -> Response:
    """One of them."""
    known = {file.name: file for file in _FORMS.iterdir() if file.name.endswith(".schema.json")}
    if name not in known:
        raise NotThere("There is no schema of this name.")
    return Response(known[name].read_bytes(), mimetype="application/schema+json")
