"""A studio of its own for every test: one migrated database, emptied before each."""

from pathlib import Path

import pytest
from PIL import Image
from sqlalchemy import text

from harnet.standins.studio import open_studio
from harnet.store.base import Base
from harnet.store.database import migrate
from harnet.store.tables import (  # noqa: F401 (their tables are emptied, too)
    documents,
    output,
    reviews,
)
from harnet.studio.common.studio import Settings
from harnet.studio.jobs.jobs import NewJob, make_job
from harnet.studio.pictures.importing import import_picture
from harnet.studio.pictures.shelves import shelf_named
from tests.support.databases import new_database
from tests.support.pictures import photo


@pytest.fixture(scope="session")
def database_url():
    """A new database on the tests' cluster, gone afterwards."""
    with new_database("test") as url:
        migrate(url)
        yield url


@pytest.fixture
def settings(database_url, tmp_path):
    """Settings of an empty studio."""
    settings = Settings(database_url, tmp_path / "data")
    studio = open_studio(settings)
    tables = ", ".join(Base.metadata.tables)
    with studio.engine.begin() as connection:
        connection.execute(text(f"truncate {tables}, procrastinate_jobs restart identity cascade"))
    studio.engine.dispose()
    return settings


@pytest.fixture
def studio(settings):
    """The studio, open."""
    studio = open_studio(settings)
    yield studio
    studio.engine.dispose()


@pytest.fixture
def make_picture(tmp_path):
    """Writes a picture file with Pillow and returns its path."""

    def make(name="slipway.jpg", width=300, height=200, mode="RGB", **options) -> Path:
        path = tmp_path / name
        path.parent.mkdir(parents=True, exist_ok=True)
        seed = options.pop("seed", 1)
        Image.fromarray(photo(width, height, seed=seed)).convert(mode).save(path, **options)
        return path

    return make


@pytest.fixture
def on_shelf(studio):
    """Takes a file onto a shelf and returns the picture's number."""

    def take(path: Path) -> int:
        with studio.session() as session, path.open("rb") as file:
            shelf = shelf_named(studio, session, "Tarnholm shelf")
            return import_picture(studio, session, shelf, path.name, file).id

    return take


@pytest.fixture
def new_job(studio):
    """Makes a job and returns its number."""

    def make(title="Quay flyer", width=148, height=210, **more) -> int:
        with studio.session() as session:
            return make_job(session, NewJob.measured(title, width, height, **more)).id

    return make
