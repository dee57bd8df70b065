"""What a large job costs: the ledger of 5 000 placements, and an edit in it against one in 50."""

import statistics
import time
from collections.abc import Callable
from pathlib import Path

from grown import empty_studio
from sqlalchemy import select
from sqlalchemy.orm import Session

from harnet.core.pictures.picture import facts_as_values
from harnet.demo.many import lay_out_many
from harnet.media.facts.read import facts_of
from harnet.standins.studio import open_studio
from harnet.store.tables.jobs import Item, Page
from harnet.store.tables.pictures import Picture, Shelf
from harnet.studio.common.settings import Settings
from harnet.studio.jobs.jobs import NewJob, make_job
from harnet.web.app import create_app

PER_PAGE, PICTURES, ROUNDS = 10, 200, 25
CLUSTER = "var/bench-postgres"


def large_jobs(jpegs: list[Path]) -> None:
    """Prints the figures; `jpegs` are the files that lie on the shelf."""
    with empty_studio(CLUSTER) as settings:
        _measure(settings, jpegs)


def _measure(settings: Settings, jpegs: list[Path]) -> None:
    studio = open_studio(settings)
    with studio.session() as session:
        pictures = shelf_of(session, jpegs[:PICTURES])
        small, large = (job_of(session, pages, pictures) for pages in (5, 500))
    with studio.session() as session:
        items = {job: first_item(session, job) for job in (small, large)}
    app = create_app(settings)
    app.config["WTF_CSRF_ENABLED"] = False
    client = app.test_client()
    ledger = _median(lambda: client.get(f"/jobs/{large}/ledger"))
    part = {"HX-Request": "true", "HX-Target": "ledger"}
    tried = _median(lambda: client.get(f"/jobs/{large}/ledger?try=220", headers=part))
    print(f"{'ledger of 5 000 placements, first screen':<52} {ledger * 1000:7.0f} ms  goal 150 ms")
    print(f"{'the same against another target, while dragging':<52} {tried * 1000:7.0f} ms")

    def edit(job: int) -> None:
        with studio.session() as session:
            version = session.scalar(select(Item.version).where(Item.id == items[job]))
        form = {"items": f"{items[job]}:{version}", "kind": "size", "handle": "se", "dx": 3}
        reply = client.post(f"/jobs/{job}/pages/gesture", data={**form, "dy": 3})
        assert reply.status_code == 200, reply.status_code

    few, many = _medians([lambda: edit(small), lambda: edit(large)])
    print(
        f"{'one edit until findings are right, 5 000 placements':<52} {many * 1000:7.0f} ms  "
        f"with 50           {few * 1000:7.0f} ms  ratio {many / few:5.2f}"
    )
    studio.engine.dispose()


def shelf_of(session: Session, jpegs: list[Path]) -> list[Picture]:
    shelf = Shelf(name="Bench", folder=str(jpegs[0].parent))
    session.add(shelf)
    session.flush()
    pictures = []
    for path in jpegs:
        status = path.stat()
        picture = Picture(shelf_id=shelf.id, file_name=path.name, sha256=path.stem.rjust(64, "0"))
        picture.facts = facts_as_values(facts_of(path))
        picture.size_bytes, picture.modified_ns = status.st_size, status.st_mtime_ns
        pictures.append(picture)
    session.add_all(pictures)
    session.flush()
    return pictures


def job_of(session: Session, page_count: int, pictures: list[Picture]) -> int:
    new = NewJob.measured(f"{page_count} pages", 210, 297, pages=page_count)
    job = make_job(session, new)
    lay_out_many(session, job.id, pictures, PER_PAGE)
    return job.id


def first_item(session: Session, job_id: int) -> int:
    wanted = select(Item.id).join(Page).where(Page.job_id == job_id, Page.position == 2)
    return session.scalars(wanted.order_by(Item.id)).first() or 0


def _median(work: Callable[[], object]) -> float:
    return _medians([work])[0]


def _medians(works: list[Callable[[], object]]) -> list[float]:
    """The median time of each, done in turns, so that a busy moment falls on all alike."""
    times: list[list[float]] = [[] for _ in works]
    for _ in range(ROUNDS + 1):
        for work, spent in zip(works, times, strict=True):
            start = time.perf_counter()
            work()
            spent.append(time.perf_counter() - start)
    return [statistics.median(spent[1:]) for spent in times]
