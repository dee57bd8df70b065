"""Two outputs of a job side by side, page by page, with a wipe and their bytes."""

from collections.abc import Sequence
from dataclasses import dataclass

from flask import Blueprint, Response, render_template, request

from harnet.core.measure.wording import bytes_text, share_text
from harnet.core.output.kind import PACK
from harnet.store.tables.jobs import Job
from harnet.store.tables.output import Output
from harnet.studio.common.errors import NotThere
from harnet.studio.jobs.jobs import job_with
from harnet.studio.output.outputs import output_with, outputs_of
from harnet.studio.output.pages import page_look, pages_in
from harnet.studio.tasks.states import DONE
from harnet.web.common.shared import JobHeader, studio
from harnet.web.output.lines import settings_words

blueprint = Blueprint("outputcompare", __name__, url_prefix="/jobs/<int:job_id>/output/compare")
_FOREVER = 365 * 24 * 3600


@dataclass(frozen=True, slots=True)
class ComparedOutput:
    """One of the two: the output, its settings in words, its bytes beside the other's."""

    output: Output
    words: str
    size: str
    pages: Sequence[int]
    """The numbers of the pages that it holds."""


@blueprint.get("")
def show(job_id: int) -> str:
    """A page of both; without a choice, the two made last."""
    with studio().session() as session:
        job = job_with(session, job_id)
        done = [
            output
            for output in outputs_of(session, job)
            if output.state == DONE and output.kind != PACK
        ]
        one, other = (
            _chosen(done, request.args.get(name, 0, int), place)
            for name, place in (("one", 1), ("other", 0))
        )
        sides = []
        if one is not None and other is not None:
            sides = [_side(one, other), _side(other, one)]
        numbers = sorted({number for side in sides for number in side.pages})
        page_number = request.args.get("page", 0, int)
        place = numbers.index(page_number) if page_number in numbers else 0
        return render_template(
            "output/compare.html",
            header=JobHeader.of(job),
            job=job,
            done=done,
            sides=sides,
            numbers=numbers,
            number=numbers[place] if numbers else 0,
            before=numbers[place - 1] if place > 0 else None,
            after=numbers[place + 1] if place + 1 < len(numbers) else None,
            only_one=[number for number in numbers if not all(number in s.pages for s in sides)],
        )


def _chosen(done: list[Output], output_id: int, place: int) -> Output | None:
    """The output asked for, or the one at that place; the latest stands first."""
    found = next((output for output in done if output.id == output_id), None)
    return found or (done[place] if len(done) > place else None)


def _side(output: Output, other: Output) -> ComparedOutput:
    size = bytes_text(output.size_bytes or 0)
    if output.size_bytes and other.size_bytes and output.size_bytes < other.size_bytes:
        size += f", {share_text(output.size_bytes / other.size_bytes)} of the other"
    return ComparedOutput(output, settings_words(output), size, pages_in(output))


@blueprint.get("/<int:output_id>/<int:number>.png")
def look(job_id: int, output_id: int, number: int) -> Response:
    """A page of an output as a picture; an output never changes."""
    with studio().session() as session:
        job: Job = job_with(session, job_id)
        output = output_with(session, output_id)
        if output.job_id != job.id:
            raise NotThere("This output belongs to another job.")
        data = page_look(studio(), output, number)
    response = Response(data, mimetype="image/png")
    response.headers["Cache-Control"] = f"private, max-age={_FOREVER}, immutable"
    return response
