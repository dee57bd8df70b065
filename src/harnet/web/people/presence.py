"""Who else has a job open: asked for by the page every twenty seconds."""

from flask import Blueprint, render_template, request

from harnet.studio.jobs.jobs import job_with
from harnet.studio.people.presence import note_presence, others_in
from harnet.web.common.shared import studio
from harnet.web.common.signed_in import me

blueprint = Blueprint("presence", __name__)


@blueprint.get("/jobs/<int:job_id>/here")
def here(job_id: int) -> str:
    """The others who have this job open; notes that whoever asks has it open, too."""
    own = me().person_id
    if own is None:
        return ""
    with studio().session() as session:
        job_with(session, job_id)
        note_presence(session, job_id, own, request.args.get("view", ""))
        return render_template("people/_here.html", others=others_in(session, job_id, own))
