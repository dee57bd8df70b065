"""`python -m harnet.demo`: the tables, the shelf and the demo jobs, unless they are there."""

import shutil
from pathlib import Path

from sqlalchemy import select

from harnet.demo.handbook import make_jobs
from harnet.demo.pictures import MISSING_NAME, make_shelf
from harnet.store.database import migrate
from harnet.store.models import Job, Shelf
from harnet.studio.desk import Desk, Settings
from harnet.studio.shelves import shelf_named, take_in_folder

SHELF_NAME = "Tarnholm shelf"


def load_demo(settings: Settings, pictures: Path) -> None:
    """Fills an empty studio with the scenario; `pictures` keeps the generated files."""
    desk = Desk(settings)
    with desk.session() as session:
        if session.scalars(select(Job).limit(1)).first() is not None:
            return
        if session.scalars(select(Shelf).where(Shelf.name == SHELF_NAME)).first() is not None:
            return
        make_shelf(pictures)
        shelf = shelf_named(desk, session, SHELF_NAME)
        for path in sorted(pictures.iterdir()):
            if not path.name.startswith("."):
                shutil.copy2(path, Path(shelf.folder) / path.name)
        take_in_folder(desk, session, shelf)
        session.refresh(shelf)
        make_jobs(session, {picture.file_name: picture for picture in shelf.pictures})
        elsewhere = settings.data_folder / "moved away"
        elsewhere.mkdir(exist_ok=True)
        shutil.move(Path(shelf.folder) / MISSING_NAME, elsewhere / MISSING_NAME)


def main() -> None:
    """Loads the demo into the studio that the environment names."""
    settings = Settings.from_environment()
    migrate(settings.database_url)
    load_demo(settings, settings.data_folder / "demo pictures")


if __name__ == "__main__":
    main()
