"""A studio of its own for every test: one migrated database, emptied before each."""

from collections import Counter
from pathlib import Path

import pytest
from PIL import Image

from harnet.standins.studio import open_studio
from harnet.store.database import migrate
from harnet.studio.common.settings import Settings
from harnet.studio.jobs.jobs import NewJob, make_job
from harnet.studio.pictures.importing import import_picture
from harnet.studio.pictures.shelves import shelf_named
from tests.support.databases import empty, new_database
from tests.support.pictures import photo

TESTS = Path(__file__).parent


@pytest.hookimpl(trylast=True)
def pytest_collection_modifyitems(items):
    """Puts the files in the order in which two processes are done soonest.

    One loads the demo for the longest file that drives the interface while the other is busy with
    what needs no demo. Short files come last, to even out.
    """
    size = Counter(item.path for item in items)
    layer = {path: path.relative_to(TESTS).parts[0] for path in size}
    driving = [path for path in size if layer[path] == "e2e"]
    first = max(driving, key=lambda path: (size[path], path), default=None)

    def turn(item):
        path = item.path
        rank = 0 if path == first else {"media": 1, "e2e": 2}.get(layer[path], 3)
        return rank, -size[path], path

    items.sort(key=turn)


@pytest.fixture(scope="session")
def database_url():
    """A new database on the tests' cluster, gone afterwards."""
    with new_database("test") as url:
        migrate(url)
        yield url


@pytest.fixture
def settings(database_url, tmp_path):
    """Settings of an empty studio."""
    empty(database_url)
    return Settings(database_url, tmp_path / "data")


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
