"""Two pictures side by side: one place at one size, facts with what differs, a measure."""

from dataclasses import dataclass

from flask import Blueprint, Response, abort, jsonify, render_template, request
from flask.typing import ResponseReturnValue

from harnet.media.errors import UnreadableFile
from harnet.media.pixels.difference import difference
from harnet.media.pixels.exact import TILE_PX, exact_tile, levels_of
from harnet.store.tables.pictures import Picture
from harnet.studio.pictures.exact import MAKE_EXACT, exact_file, why_not_exact
from harnet.studio.pictures.picture import all_pictures, facts_of_picture, picture_with
from harnet.web.common.shared import in_background, studio
from harnet.web.pictures.facts import fact_lines

blueprint = Blueprint("compare", __name__, url_prefix="/compare")
ZOOMS = (100, 200, 400, 800)
_FOREVER = 365 * 24 * 3600


@dataclass(frozen=True, slots=True)
class FactPair:
    """A fact of both pictures, and whether it differs."""

    name: str
    one: str
    other: str

    @property
    def differs(self) -> bool:
        """Whether the two texts are not the same."""
        return self.one != self.other


@blueprint.get("")
def show() -> str:
    """Both pictures with their facts; without a choice, what there is to choose from."""
    numbers = (request.args.get("one", None, int), request.args.get("other", None, int))
    with studio().session() as session:
        choices = [one for one in all_pictures(session) if not facts_of_picture(one).is_vector]
        chosen = [picture_with(session, number) if number else None for number in numbers]
        one, other = chosen
        failures = [why_not_exact(studio(), picture) for picture in chosen if picture is not None]
        pairs = _pairs(one, other) if one and other else []
        return render_template(
            "pictures/compare.html",
            one=one,
            other=other,
            choices=choices,
            pairs=pairs,
            zooms=ZOOMS,
            failures=[failure for failure in failures if failure],
        )


def _pairs(one: Picture, other: Picture) -> list[FactPair]:
    ours, theirs = (dict(fact_lines(each, facts_of_picture(each))) for each in (one, other))
    return [
        FactPair(name, ours.get(name, "—"), theirs.get(name, "—"))
        for name in dict.fromkeys([*ours, *theirs])
    ]


@blueprint.get("/exact/<int:picture_id>")
def exact(picture_id: int) -> ResponseReturnValue:
    """The levels of a picture's exact preview; asks the worker for it where there is none yet."""
    with studio().session() as session:
        picture = picture_with(session, picture_id)
        path = exact_file(studio(), picture.sha256)
        failure = why_not_exact(studio(), picture) if path is None else ""
    if failure:
        return jsonify(failure=failure), 422
    if path is None:
        if "asked" not in request.args:
            in_background(MAKE_EXACT, picture_id=picture_id)
        return jsonify(waits=True), 202
    sizes = [[level.px_w, level.px_h] for level in levels_of(path)]
    return jsonify(levels=sizes, tile=TILE_PX, address=f"/compare/tile/{picture.sha256}")


@blueprint.get("/tile/<sha256>/<int:level>/<int:column>/<int:row>")
def tile(sha256: str, level: int, column: int, row: int) -> Response:
    """A tile of an exact preview."""
    if not sha256.isalnum():
        abort(404)
    path = exact_file(studio(), sha256)
    if path is None:
        abort(404)
    try:
        data = exact_tile(path, level, column, row)
    except IndexError:
        abort(404)
    response = Response(data, mimetype="image/png")
    response.headers["Cache-Control"] = f"private, max-age={_FOREVER}, immutable"
    return response


@blueprint.get("/difference")
def measure() -> str:
    """How far the two differ; the page asks again until both exact previews are there."""
    numbers = (request.args.get("one", 0, int), request.args.get("other", 0, int))
    with studio().session() as session:
        pictures = [picture_with(session, number) for number in numbers]
    paths = [exact_file(studio(), picture.sha256) for picture in pictures]
    found, failure = None, ""
    if paths[0] is not None and paths[1] is not None:
        try:
            found = difference(paths[0], paths[1])
        except UnreadableFile as error:
            failure = str(error)
    return render_template(
        "pictures/_difference.html",
        waits=None in paths,
        found=found,
        failure=failure,
        one=numbers[0],
        other=numbers[1],
    )
