"""`python -m harnet.demo`: the tables, the shelf and the demo jobs, unless they are there."""

import shutil
import sys
from dataclasses import replace
from pathlib import Path

from sqlalchemy import select
from sqlalchemy.orm import Session

from harnet.core.pictures.picture import Colour
from harnet.core.targets.severity import Severity
from harnet.demo.catalogue import write_table
from harnet.demo.decks import (
    BOOK_NAME,
    DECK_NAME,
    TEXT_NAME,
    write_book,
    write_talk,
    write_text,
)
from harnet.demo.foreign import (
    FAIR_NAME,
    FESTIVAL_NAME,
    write_fair_programme,
    write_festival_leaflet,
)
from harnet.demo.handbook import make_jobs
from harnet.demo.people import add_people
from harnet.demo.pictures import COPIES, MISSING_NAME, SHELF, make_shelf
from harnet.standins.agency import TarnholmAgency
from harnet.standins.studio import open_studio
from harnet.store.base import now_utc
from harnet.store.database import migrate
from harnet.store.tables.jobs import Job
from harnet.store.tables.pictures import Picture
from harnet.studio.common.settings import Settings
from harnet.studio.common.studio import Studio
from harnet.studio.copies.copies import ask_for_copy, make_copy
from harnet.studio.documents.acceptance import WHOLE, accept_on
from harnet.studio.documents.keeping import read_pdf
from harnet.studio.documents.uploads import add_document, document_with
from harnet.studio.judging.judging import settle
from harnet.studio.layout.links import carry, paste_picture
from harnet.studio.pictures.picture import path_of, set_rights
from harnet.studio.pictures.shelves import (
    all_shelves,
    look_at_shelves,
    make_waiting_previews,
    shelf_named,
)
from harnet.studio.pictures.watching import watch_folder
from harnet.studio.preflight.checking import accept, findings_in
from harnet.studio.targets.targets import save_target, target_with

SHELF_NAME, PDF_SHELF_NAME = "Tarnholm shelf", "Texts and PDFs"
TRUST_FOLDER = "from the trust"
CHANGED_NAME = "notice-photo.jpg"
"""Placed on the notice board, then edited by someone else."""


def load_demo(settings: Settings, pictures: Path) -> None:
    """Fills an empty studio with the scenario; `pictures` keeps the generated files.

    Every step leaves alone what is there, so that a load that was cut short goes on.
    """
    studio = open_studio(settings)
    with studio.session() as session:
        if session.scalars(select(Job).limit(1)).first() is not None:
            return
    make_shelf(pictures)
    TarnholmAgency(pictures / "agency").draw_all()
    shutil.copytree(pictures / "agency", settings.agency_folder, dirs_exist_ok=True)
    _fill_shelf(studio, pictures)
    _fill_shelf_of_pdfs(studio, pictures)
    _watch_the_trusts_folder(studio, pictures)
    look_at_shelves(studio)
    make_waiting_previews(studio)
    with studio.session() as session:
        shelf = shelf_named(studio, session, SHELF_NAME)
        by_name = {picture.file_name: picture for picture in shelf.pictures}
        for picture in SHELF:
            set_rights(by_name[picture.name], picture.rights)
        jobs = make_jobs(session, by_name | _pictures_of_the_trust(session))
        board, handbook = jobs[0], jobs[-1]
        _hold_in_every_way(studio, session, board, by_name)
        _let_one_pass(session, board)
        _target_of_a_print_house(session)
        handbook.edited_at = now_utc()
        copies = [ask_for_copy(session, by_name[name], recipe).id for name, recipe in COPIES]
    for copy_id in copies:
        make_copy(studio, copy_id)
    write_table(settings.data_folder.parent)
    _check_documents(studio, pictures)
    trust = settings.data_folder.parent / TRUST_FOLDER
    shutil.copy2(pictures / "rope-store.jpg", trust / CHANGED_NAME)
    elsewhere = settings.data_folder / "moved away"
    elsewhere.mkdir(exist_ok=True)
    shutil.move(Path(shelf.folder) / MISSING_NAME, elsewhere / MISSING_NAME)


def _check_documents(studio: Studio, pictures: Path) -> None:
    """A programme, a leaflet, a talk, a text and a book that someone sent."""
    folder = studio.settings.data_folder.parent
    for write, name in ((write_book, BOOK_NAME), (write_text, TEXT_NAME), (write_talk, DECK_NAME)):
        write(pictures, folder / name)
        _checked(studio, folder / name)
    write_fair_programme(pictures, folder / FAIR_NAME)
    _checked(studio, folder / FAIR_NAME)
    write_festival_leaflet(pictures, folder / FESTIVAL_NAME)
    document_id = _checked(studio, folder / FESTIVAL_NAME)
    with studio.session() as session:
        reason = "The copy shop cuts to the page that is seen"
        accept_on(
            session,
            document_with(session, document_id),
            WHOLE,
            "trim-box-missing",
            reason,
            "I. Varga",
        )


def _checked(studio: Studio, path: Path) -> int:
    """A document, checked as if it had been dropped; its number."""
    with studio.session() as session, path.open("rb") as file:
        target = target_with(session, "coated")
        document_id = add_document(studio, session, path.name, file, target).id
    read_pdf(studio, document_id)
    return document_id


def _fill_shelf(studio: Studio, pictures: Path) -> None:
    with studio.session() as session:
        folder = Path(shelf_named(studio, session, SHELF_NAME).folder)
    for path in sorted(pictures.iterdir()):
        if path.is_file() and not path.name.startswith("."):
            shutil.copy2(path, folder / path.name)


def _fill_shelf_of_pdfs(studio: Studio, pictures: Path) -> None:
    """A PDF of several pages, each of which can be placed."""
    with studio.session() as session:
        folder = Path(shelf_named(studio, session, PDF_SHELF_NAME).folder)
    write_fair_programme(pictures, folder / FAIR_NAME)


def _watch_the_trusts_folder(studio: Studio, pictures: Path) -> None:
    """A folder of someone else's: a picture that is known already, and a file that is none."""
    folder = studio.settings.data_folder.parent / TRUST_FOLDER
    folder.mkdir(exist_ok=True)
    shutil.copy2(pictures / "storm-watch.jpg", folder / CHANGED_NAME)
    shutil.copy2(pictures / "fog-signal.jpg", folder / "IMG_0412.jpg")
    (folder / "minutes.png").write_text("Minutes of the spring meeting of the trust\n")
    with studio.session() as session:
        if all(not shelf.is_watched for shelf in all_shelves(session)):
            watch_folder(studio, session, str(folder))


def _pictures_of_the_trust(session: Session) -> dict[str, Picture]:
    (shelf,) = [shelf for shelf in all_shelves(session) if shelf.is_watched]
    return {picture.file_name: picture for picture in shelf.pictures}


def _hold_in_every_way(
    studio: Studio, session: Session, board: Job, shelf: dict[str, Picture]
) -> None:
    """On the notice board one picture is carried and one is loose; the loader changes a third."""
    page = board.pages[0]
    stair = next(item for item in page.items if item.picture is shelf["tower-stair.jpg"])
    carry(studio, session, board, stair)
    with path_of(shelf["gull-close.png"]).open("rb") as file:
        loose = paste_picture(studio, session, board, page, "pasted gull.png", file)
    loose.x_pt, loose.y_pt = 140 * 72 / 25.4, 150 * 72 / 25.4


def _let_one_pass(session: Session, board: Job) -> None:
    """Someone accepted a finding, with a reason."""
    settle(session)
    found = next(one for one in findings_in(session, board) if one.row.rule_id == "file-loose")
    reason = "The gull is a stopgap until the trust sends the original."
    accept(session, board, found.row.item_id, found.row.rule_id, reason, "I. Varga")


def _target_of_a_print_house(session: Session) -> None:
    """A target of the studio's own, as a print house stated it."""
    coated = target_with(session, "coated")
    expects = replace(
        coated.expects,
        colours=(Colour.CMYK, Colour.GREY, Colour.BILEVEL),
        allows_transparency=False,
        least_jpeg_quality=75,
    )
    target = replace(
        coated,
        key="harbour-press",
        name="Harbour press, sheets",
        tolerance=0.05,
        reason="Stated by the print house: CMYK only, no transparency, at least 285 ppi.",
        expects=expects,
        severities=(("density-below-tolerance", Severity.BLOCKING),),
    )
    save_target(session, target)


def main() -> None:
    """Loads the demo into the studio that the environment names."""
    settings = Settings.from_environment()
    migrate(settings.database_url)
    load_demo(settings, settings.data_folder / "demo pictures")
    if "--people" in sys.argv[1:]:
        add_people(open_studio(settings))


if __name__ == "__main__":
    main()
