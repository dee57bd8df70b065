"""Handoff packs: uploaded, opened by the worker as a job."""

from typing import cast

from apiflask.fields import UploadFile

from harnet.store.tables.handoff import PackOpening
from harnet.studio.common.errors import Refused
from harnet.studio.handoff.opening import OPEN_PACK, keep_pack, opening_with
from harnet.studio.tasks.work import cancel_work
from harnet.web.api.door import resource
from harnet.web.api.forms.base import RequestForm, WorkState
from harnet.web.api.forms.packs import PackOut
from harnet.web.common.shared import in_background, studio

blueprint = resource("packs", "Handoff packs")


class PackIn(RequestForm):
    """A handoff pack: a ZIP with a job.json of the published form."""

    file: UploadFile
    """The ZIP, with its file name."""


def pack_out(opening: PackOpening) -> PackOut:
    """A pack in the API's form."""
    return PackOut(
        id=opening.id,
        file=opening.file_name,
        title=opening.title,
        state=cast(WorkState, opening.state),
        steps_done=opening.steps_done,
        steps_total=opening.steps_total,
        failure=opening.failure,
        job=opening.job_id,
        requested_at=opening.requested_at,
        finished_at=opening.finished_at,
    )


@blueprint.post("/packs")
@blueprint.input(PackIn, location="files")
@blueprint.output(PackOut, status_code=202)
def upload(files_data: PackIn) -> PackOut:
    """Hands a pack in; the worker makes a job of it."""
    file = files_data.file
    if not file.filename:
        raise Refused("The pack has no file name.")
    with studio().session() as session:
        answer = pack_out(keep_pack(studio(), session, file.filename, file.stream))
    in_background(OPEN_PACK, row_id=answer.id)
    return answer


@blueprint.get("/packs/<int:opening_id>")
@blueprint.output(PackOut)
def pack(opening_id: int) -> PackOut:
    """One pack, how far its opening is, and the job that it became."""
    with studio().session() as session:
        return pack_out(opening_with(session, opening_id))


@blueprint.post("/packs/<int:opening_id>/cancel")
@blueprint.output(PackOut)
def stop(opening_id: int) -> PackOut:
    """Cancels an opening that is not finished; pictures that came onto the shelf stay there."""
    with studio().session() as session:
        opening = opening_with(session, opening_id)
        cancel_work(opening)
        return pack_out(opening)
