"""The press loupe over a picture that is on no page: printed at a density that one chooses."""

from flask import Blueprint, jsonify, request
from flask.typing import ResponseReturnValue

from harnet.core.measure.geometry import Matrix
from harnet.core.measure.units import POINTS_PER_INCH
from harnet.core.pictures.picture import Colour
from harnet.media.pixels.halftone import PrintedPicture
from harnet.studio.pictures.exact import MAKE_EXACT, exact_file, why_not_exact
from harnet.studio.pictures.loupe import prints_black_only, sampled
from harnet.studio.pictures.picture import facts_of_picture, picture_with
from harnet.studio.targets.targets import DEFAULT_KEY, target_with
from harnet.web.common.shared import in_background, studio
from harnet.web.common.values import figure_within
from harnet.web.drawing.loupe import loupe_settings, place_asked, sample_answer

blueprint = Blueprint("picture_loupe", __name__, url_prefix="/pictures/<int:picture_id>/loupe")
_LEAST_PPI, _MOST_PPI = 1, 2400


@blueprint.get("")
def show(picture_id: int) -> ResponseReturnValue:
    """The sample at `x` and `y`, shares of the picture, printed at `ppi` beside a target."""
    across, down = place_asked()
    ppi = figure_within(
        request.args.get("ppi", "300"), "density of the sample", _LEAST_PPI, _MOST_PPI, "ppi"
    )
    with studio().session() as session:
        picture = picture_with(session, picture_id)
        target = target_with(session, request.args.get("target") or DEFAULT_KEY)
        facts, name = facts_of_picture(picture), picture.file_name
        path = exact_file(studio(), picture.sha256)
        failure = why_not_exact(studio(), picture) if path is None else ""
    if failure or facts.px_w is None or facts.px_h is None:
        return jsonify(message=failure)
    if path is None:
        if "asked" not in request.args:
            in_background(MAKE_EXACT, picture_id=picture_id)
        return jsonify(message=f"The pixels of {name} are being read…", waits=True)
    width, height = (POINTS_PER_INCH * px / ppi for px in (facts.px_w, facts.px_h))
    at = (across * width, down * height)
    part = PrintedPicture(
        path=path,
        matrix=Matrix.scaling(width, height).then(Matrix.translation(-at[0], -at[1])),
        black_only=prints_black_only(facts),
    )
    is_bilevel = facts.colour is Colour.BILEVEL
    px = (facts.px_w, facts.px_h)
    sample = sampled([part], px, target, is_bilevel, loupe_settings(), at)
    return jsonify(sample_answer(name, target, sample))
