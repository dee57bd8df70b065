"""Why a placement has its verdict: its own figures in sentences, and its sample at the limits."""

from flask import Blueprint, render_template

from harnet.core.layout.explaining import verdict_reasons
from harnet.studio.jobs.jobs import job_with, target_of
from harnet.studio.layout.placed import placed_from
from harnet.studio.layout.placing import item_in
from harnet.web.common.shared import studio
from harnet.web.common.units import paper_unit
from harnet.web.drawing.marks import mark_of

blueprint = Blueprint("why", __name__, url_prefix="/jobs/<int:job_id>/why")
_DENSEST_RUNG_PPI = 1200


@blueprint.get("/<int:item_id>")
def show(job_id: int, item_id: int) -> str:
    """The explanation, for the dialog."""
    with studio().session() as session:
        job = job_with(session, job_id)
        item = item_in(job, item_id)
        placed = placed_from(item, item.page.position + 1, target_of(job))
        figures, judged = placed.figures, placed.figures.judged_ppi
        rungs: dict[int, str] = {}
        if judged is not None and not placed.placement.source.is_vector:
            target = figures.target
            for ppi, words in (
                (target.floor_ppi, "floor"),
                (target.density_ppi, "target"),
                (judged, "this picture"),
            ):
                rungs[max(1, min(round(ppi), _DENSEST_RUNG_PPI))] = words
        return render_template(
            "common/_explain.html",
            name=placed.name,
            verdict="vector" if figures.is_vector else figures.verdict.value,
            sha256=item.picture.sha256 if item.picture else "",
            mark=mark_of(figures),
            reasons=verdict_reasons(placed.placement, figures, paper_unit(job)),
            rungs=sorted(rungs.items()),
        )
