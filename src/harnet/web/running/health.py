"""Whether Harnet is alive, and whether it is ready, for load balancers and those who run it."""

from flask import Blueprint, Response, jsonify

from harnet.studio.running.health import quick_checks
from harnet.web.common.shared import studio

blueprint = Blueprint("health", __name__, url_prefix="/health")
_NOT_READY = 503


@blueprint.get("/live")
def live() -> Response:
    """That this process answers; nothing else is asked."""
    return jsonify(state="alive")


@blueprint.get("/ready")
def ready() -> tuple[Response, int]:
    """Whether it can do its work: database, tables and store; a worker may come later."""
    checks = quick_checks(studio())
    is_ready = all(one.is_well for one in checks if one.is_needed)
    told = {one.name: {"is_well": one.is_well, "sentence": one.sentence} for one in checks}
    answer = jsonify(state="ready" if is_ready else "not ready", checks=told)
    return answer, 200 if is_ready else _NOT_READY
