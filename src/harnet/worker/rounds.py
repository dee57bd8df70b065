"""What is done again and again, and by whom nobody asks: the minute's round and the hour's."""

import logging

from harnet.store.tables.jobs import Job
from harnet.studio.common.studio import Studio
from harnet.studio.jobs.listing import JobStatus, jobs_that_are
from harnet.studio.judging.judging import catch_up
from harnet.studio.output.retention import clear_old_outputs
from harnet.studio.people.attempts import forget_attempts
from harnet.studio.people.presence import forget_presence
from harnet.studio.people.signing_in import forget_old
from harnet.studio.pictures.shelves import look_at_shelves, make_waiting_previews
from harnet.studio.tasks.clock import Clock
from harnet.studio.tasks.sweeping import sweep
from harnet.studio.tasks.task import Task

logger = logging.getLogger("harnet")
_CLOCK = Clock()


def look_at_jobs(studio: Studio) -> None:
    """Notices files of open jobs that went, came back or changed; each job is a transaction."""
    with studio.session() as session:
        numbers = [job.id for job in jobs_that_are(session, JobStatus.OPEN)]
    for number in numbers:
        with studio.session() as session:
            job = session.get(Job, number)
            if job is not None:
                catch_up(session, job)


def look_again(studio: Studio) -> None:
    """Looks at the shelves, makes the previews that are waited for, and looks at the jobs."""
    look_at_shelves(studio)
    make_waiting_previews(studio)
    look_at_jobs(studio)


def clear(studio: Studio) -> None:
    """Deletes outputs and sign-ins whose time is up, and what nothing needs any longer.

    Not in the hour after the clock was set: what came in a moment ago may look a year old.
    """
    if _CLOCK.was_set():
        logger.warning("nothing is cleared this hour: the clock was set")
        return
    clear_old_outputs(studio)
    sweep(studio)
    with studio.session() as session:
        forget_old(session, studio.settings.expiry)
        forget_presence(session)
        forget_attempts(session)


LOOK_AGAIN = Task(
    name="look_again",
    queue="shelves",
    run=look_again,
    cron="* * * * *",
    lock="shelves",
    queueing_lock="shelves",
)
CLEAR = Task(
    name="clear_outputs", queue="shelves", run=clear, cron="17 * * * *", queueing_lock="clearing"
)
