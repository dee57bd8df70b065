"""A studio filled with as much as is wanted: one job laid out by Harnet, and its rows repeated."""

import subprocess
import tempfile
from contextlib import contextmanager
from pathlib import Path

from PIL import Image
from sqlalchemy import select, text

from harnet.core.pictures.picture import facts_as_values
from harnet.core.targets.shipped import target_named
from harnet.demo.many import lay_out_many
from harnet.media.facts.read import facts_of
from harnet.store.database import migrate
from harnet.store.tables.documents import Document, DocumentImage
from harnet.store.tables.jobs import Item, Job, Page
from harnet.store.tables.pictures import Picture, Shelf
from harnet.store.tables.preflight import FindingRow, Judgement
from harnet.studio.common.settings import Settings
from harnet.studio.documents.keeping import read_pdf
from harnet.studio.documents.uploads import add_document
from harnet.studio.jobs.jobs import NewJob, make_job

ROOT = Path(__file__).resolve().parents[1]
STRIDE = 100_000
"""Numbers of one job's rows are so far from those of the next."""


@contextmanager
def empty_studio(cluster):
    """The settings of a studio with nothing in it, on a database server that goes with it."""
    address = subprocess.run(
        ["script/postgres", "start", cluster, "--fast"], cwd=ROOT, capture_output=True, text=True
    ).stdout.strip()
    try:
        with tempfile.TemporaryDirectory() as folder:
            migrate(address)
            yield Settings(address, Path(folder))
    finally:
        subprocess.run(["script/postgres", "stop", cluster], cwd=ROOT, check=True)
        subprocess.run(["rm", "-rf", cluster], cwd=ROOT, check=True)


def fill(studio, jobs, pages=50, per_page=10, pictures=200):
    """Jobs of so many pages and placements a page, over so many pictures; the first job's number.

    One job is laid out and judged by Harnet, and all its rows again for each of the others, whose
    numbers are STRIDE apart.
    """
    _add_pictures(studio, pictures)
    with studio.session() as session:
        placed = list(session.scalars(select(Picture).limit(200)))
        job = make_job(session, NewJob.measured("Catalogue", 210, 297, pages=pages))
        lay_out_many(session, job.id, placed, per_page)
        first = job.id
    _repeat(
        studio,
        {
            Job: ("id",),
            Page: ("id", "job_id"),
            Item: ("id", "page_id"),
            Judgement: ("item_id", "job_id", "page_id"),
            FindingRow: ("id", "item_id", "job_id", "page_id"),
        },
        jobs,
    )
    return first


def _add_pictures(studio, count):
    with tempfile.TemporaryDirectory() as folder:
        path = Path(folder) / "quay.jpg"
        Image.new("RGB", (600, 400)).save(path, dpi=(300, 300))
        facts = facts_as_values(facts_of(path))
    with studio.session() as session:
        shelf = Shelf(name="Quay", folder="store:")
        session.add(shelf)
        session.flush()
        session.add_all(
            Picture(
                shelf=shelf, file_name=f"quay {n}.jpg", sha256=f"{n:064x}", size_bytes=9,
                modified_ns=0, facts=facts, likeness=f"{n * 2654435761 % 2**64:016x}",
            )
            for n in range(count)
        )  # fmt: skip


def add_documents(studio, path, count):
    """The same checked document so many times; the first one's number."""
    with studio.session() as session, path.open("rb") as file:
        first = add_document(studio, session, path.name, file, target_named("coated")).id
    read_pdf(studio, first)
    _repeat(studio, {Document: ("id",), DocumentImage: ("id", "document_id")}, count)
    return first


def one_job(studio, pages, per_page, pictures):
    """One job of so many pages, in the same way: two of them are laid out; the job's number."""
    _add_pictures(studio, pictures)
    with studio.session() as session:
        placed = list(session.scalars(select(Picture).limit(200)))
        job = make_job(session, NewJob.measured("Catalogue", 210, 297, pages=2))
        lay_out_many(session, job.id, placed, per_page)
        number = job.id
    _repeat(
        studio,
        {
            Page: {"id": STRIDE, "position": 2},
            Item: ("id", "page_id"),
            Judgement: ("item_id", "page_id"),
            FindingRow: ("id", "item_id", "page_id"),
        },
        pages // 2,
    )
    return number


def _repeat(studio, shifted, times):
    """All rows of some tables again, with the numbers in these columns moved on.

    Columns are moved by STRIDE each time, or by what a dictionary gives for them.
    """
    with studio.engine.begin() as link:
        link.execute(text("set session_replication_role = replica"))
        for model, columns in shifted.items():
            table = model.__table__
            steps = columns if isinstance(columns, dict) else dict.fromkeys(columns, STRIDE)
            own = [column.name for column in table.columns if column.computed is None]
            names = [f'"{name}"' for name in own]
            values = [
                f'"{name}" + n * {steps[name]}' if name in steps else f'"{name}"' for name in own
            ]
            link.execute(
                text(
                    f"insert into {table.name} ({', '.join(names)}) select {', '.join(values)} from"
                    f" (select * from {table.name}) rows, generate_series(1, {times - 1}) n"
                )
            )
    with studio.engine.connect().execution_options(isolation_level="AUTOCOMMIT") as link:
        link.execute(text("vacuum analyze"))
