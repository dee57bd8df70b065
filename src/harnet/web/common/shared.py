"""What every view of a job shows at its top, and how views reach the studio."""

from collections.abc import Sequence
from dataclasses import dataclass
from typing import Any

from flask import Response, current_app, g, make_response, redirect, request, url_for
from procrastinate.exceptions import AlreadyEnqueued

from harnet.core.measure.verdict import Verdict
from harnet.core.measure.wording import counted, exact_length_text, grouped, size_text
from harnet.core.targets.target import Target
from harnet.store.database import Session, object_session
from harnet.store.tables.jobs import Job
from harnet.studio.common.studio import Studio
from harnet.studio.jobs.jobs import job_with, page_count, page_counts, target_of
from harnet.studio.jobs.steps import steps_of
from harnet.studio.judging.judging import catch_up, settle_job
from harnet.studio.ledger.long_batch import CARRY_OUT_BATCH
from harnet.studio.people.access import group_name
from harnet.studio.preflight.checking import JobCounts, counts_of, counts_of_each
from harnet.studio.preflight.comments import open_comments
from harnet.studio.targets.targets import all_targets
from harnet.studio.tasks.task import Task
from harnet.studio.tasks.waiting import is_anybody_at_work
from harnet.web.common.units import paper_unit, shown_unit
from harnet.worker.rounds import LOOK_AGAIN

_STRIP_PX = 210.0


def studio() -> Studio:
    """The studio of this application."""
    found: Studio = current_app.extensions["studio"]
    return found


def listed_targets() -> list[Target]:
    """The list of targets, read once a request."""
    if "targets" not in g:
        with studio().session() as session:
            g.targets = all_targets(session)
    found: list[Target] = g.targets
    return found


def viewed_job(session: Session, job_id: int) -> Job:
    """The job of that number, up to date with its files, for a view of it."""
    job = job_with(session, job_id)
    catch_up(session, job)
    return job


def idle_sentence(is_running: bool) -> str:
    """What to say where work waits and nobody is there to do it; empty where all is well."""
    if not is_running:
        return ""
    with studio().session() as session:
        if is_anybody_at_work(session):
            return ""
    return (
        "No worker is running, so this is waiting. Nothing is lost: it continues as soon as one is"
        " started with harnet worker."
    )


def in_background(task: Task, **arguments: Any) -> None:
    """Has the worker do a task; the row that it is about must be committed."""
    task.defer(current_app.extensions["queue"], **arguments)


def handed_to_worker(job_id: int, batch_id: int) -> Response:
    """Has the worker make a long batch that is committed, and goes where its progress is shown."""
    in_background(CARRY_OUT_BATCH, row_id=batch_id)
    where = url_for("longbatch.show", job_id=job_id, batch_id=batch_id)
    if "HX-Request" in request.headers:
        return Response("", headers={"HX-Redirect": where})
    return make_response(redirect(where))


def send_look() -> None:
    """Has the worker look at the shelves and make the previews that are waited for."""
    try:
        in_background(LOOK_AGAIN)
    except AlreadyEnqueued:
        # A look that waits already will see everything that is there now.
        return


@dataclass(frozen=True, slots=True)
class StripPart:
    """A stretch of the verdict strip, in pixels of its drawing."""

    verdict: Verdict
    count: int
    x: float
    width: float


@dataclass(frozen=True, slots=True)
class JobHeader:
    """A job's title line: pages, verdict strip, target, findings."""

    job: Job
    target: Target
    counts: JobCounts
    comments: int = 0
    """How many are open."""
    group: str = ""
    """The name of the group that it belongs to; empty for everyone."""
    pages: int = 1

    @classmethod
    def of(cls, job: Job) -> "JobHeader":
        """The header of a job as it stands, edits of this request included."""
        settle_job(job)
        session = object_session(job)
        assert session is not None
        comments = open_comments(session, job)
        group = group_name(session, job.group_id)
        return cls(job, target_of(job), counts_of(job), comments, group, page_count(job))

    @classmethod
    def of_each(cls, session: Session, jobs: Sequence[Job]) -> list["JobHeader"]:
        """The headers of many jobs for a list, which says nothing of comments and groups."""
        counts, pages = counts_of_each(session, jobs), page_counts(session, jobs)
        return [cls(job, target_of(job), counts[job.id], pages=pages[job.id]) for job in jobs]

    @property
    def steps(self) -> tuple[int, int]:
        """The edits that undo and redo are about, 0 without; the page sends them back."""
        return steps_of(self.job)

    @property
    def page_line(self) -> str:
        """Number of pages, page size and bleed."""
        parts = [counted(self.pages, "page"), page_size_text(self.job)]
        if self.job.bleed_pt:
            unit = paper_unit(self.job)
            parts.append(f"bleed {exact_length_text(self.job.bleed_pt, unit)} {unit.value}")
        return " · ".join(parts)

    @property
    def counts_line(self) -> str:
        """The verdicts that occur, in words."""
        counts = self.counts
        parts = [
            f"{grouped(count)} {verdict.value}"
            for verdict, count in counts.verdicts.items()
            if count
        ]
        return " · ".join([f"{grouped(counts.pictures)} placed", *reversed(parts)])

    @property
    def comments_words(self) -> str:
        """The open comments in words."""
        return counted(self.comments, "comment") if self.comments else "comments"

    def strip(self, width: float = _STRIP_PX) -> list[StripPart]:
        """The verdict strip, worst first."""
        parts, x = [], 0.0
        for verdict, count in self.counts.verdicts.items():
            if count:
                part = width * count / self.counts.pictures
                parts.append(StripPart(verdict, count, x, part))
                x += part
        return parts


def page_size_text(job: Job) -> str:
    """A job's default page in its own unit; a pixel page states its density."""
    unit, per_inch = shown_unit(job)
    text = size_text(job.width_pt, job.height_pt, unit, per_inch)
    return f"{text} at {job.px_per_inch:g} ppi" if job.px_per_inch else text


def drawn_box(width: float, height: float, most_w: float, most_h: float) -> tuple[float, float]:
    """A size at its true proportion, as large as a box allows."""
    scale = min(most_w / width, most_h / height)
    return width * scale, height * scale
