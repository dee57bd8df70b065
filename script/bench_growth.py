"""How the cost of everyday work grows with what a studio holds: `script/bench growth`."""

import statistics
import time

from grown import empty_studio, one_job
from sqlalchemy import select

from harnet.standins.studio import open_studio
from harnet.store.history import undo
from harnet.store.tables.jobs import Item, Page
from harnet.studio.jobs import pages
from harnet.studio.jobs.jobs import job_with
from harnet.studio.judging.judging import judge_job, settle
from harnet.studio.tasks.sweeping import sweep
from harnet.web.app import create_app

CLUSTER = "var/bench-postgres"
STUDIO_SIZES = (50, 500, 5_000, 50_000)
PER_PAGE, ROUNDS = 25, 7
GOAL = 3.0
"""From 50 to 50 000 a logarithm grows 2.8-fold."""
READ_ALL = {
    "a ledger view": "the database counts every line of the job, for its ruler and its filters",
    "preflight": "the database puts the places of all findings in order",
    "the order by reach": "the database compares two figures of each picture",
    "a job checked anew": "every placement is judged",
    "a sweep": "every stored file is looked at",
    "a page in the middle": "the pages behind it get other numbers; none is judged again",
}


def growth(told) -> None:
    """Tells each kind of work with its milliseconds at every size."""
    spent = {}
    # One page more than a job may have is added to the largest.
    pages.MOST_PAGES += 1
    for size in STUDIO_SIZES:
        with empty_studio(CLUSTER) as settings:
            studio = open_studio(settings)
            job = one_job(studio, size // PER_PAGE, PER_PAGE, size)
            client = create_app(settings)
            client.config["WTF_CSRF_ENABLED"] = False
            for name, work in _works(studio, client.test_client(), job):
                spent.setdefault(name, []).append(_median_ms(work))
            studio.engine.dispose()
    for name, times in spent.items():
        told(name, times, READ_ALL.get(name, ""))


def _works(studio, client, job):
    with studio.session() as session:
        first = select(Item.id).join(Page).where(Page.job_id == job).order_by(Item.id).limit(1)
        item = session.scalar(first)

    def got(path):
        answer = client.get(path)
        assert answer.status_code == 200, (path, answer.status_code)

    def edit():
        with studio.session() as session:
            version = session.scalar(select(Item.version).where(Item.id == item))
        form = {"items": f"{item}:{version}", "kind": "move", "dx": 1, "dy": 1}
        answer = client.post(f"/jobs/{job}/pages/gesture", data=form)
        assert answer.status_code == 200, answer.status_code

    def checked():
        with studio.session() as session:
            judge_job(session, job_with(session, job))

    def page_added():
        with studio.session() as session:
            middle = len(job_with(session, job).pages) // 2
            pages.add_page(session, job_with(session, job), middle)
            settle(session)
            undo(session, job_with(session, job))

    return (
        ("an edit", edit),
        ("the page with it", lambda: got(f"/jobs/{job}/pages")),
        ("a ledger view", lambda: got(f"/jobs/{job}/ledger")),
        ("preflight", lambda: got(f"/jobs/{job}/preflight")),
        ("output", lambda: got(f"/jobs/{job}/output")),
        ("a wall search", lambda: got("/pictures?words=quay+17.")),
        ("pick by fit", lambda: got(f"/jobs/{job}/matches/{item}")),
        ("find anything", lambda: got("/find?text=quay+17.")),
        ("the order by reach", lambda: got("/pictures?order=reach")),
        ("a page in the middle", page_added),
        ("a job checked anew", checked),
        ("a sweep", lambda: sweep(studio, is_dry=True)),
    )


def _median_ms(work):
    work()
    times = []
    for _ in range(ROUNDS):
        start = time.perf_counter()
        work()
        times.append((time.perf_counter() - start) * 1000)
        if sum(times) > 20_000:
            break
    return statistics.median(times)
