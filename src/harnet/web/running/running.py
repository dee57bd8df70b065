"""How the studio is doing, for its owners, in plain words."""

from flask import Blueprint, render_template

from harnet.studio.running.figures import (
    failures_of_week,
    stored_bytes,
    work_figures,
    workers_alive,
)
from harnet.studio.running.health import all_checks
from harnet.web.common.shared import studio

blueprint = Blueprint("running", __name__, url_prefix="/running")


@blueprint.get("")
def show() -> str:
    """Checks, workers, what waits, what is stored, and what failed in the last week."""
    checks = all_checks(studio())
    with studio().session() as session:
        return render_template(
            "running/running.html",
            checks=checks,
            work=work_figures(session),
            workers=workers_alive(session),
            stored=stored_bytes(session),
            failures=failures_of_week(session),
        )
