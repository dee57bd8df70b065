"""Pictures from the agency: searching, and fetching to a shelf in the worker."""

import time
from pathlib import Path

from sqlalchemy import select
from sqlalchemy.orm import Session

from harnet.core.pictures.rights import Rights
from harnet.media.errors import UnreadableFile
from harnet.store.tables.pictures import AgencyFetch
from harnet.studio.common.errors import NotThere, Refused
from harnet.studio.common.rows import row_with
from harnet.studio.common.studio import Studio
from harnet.studio.outside.agency import (
    AgencyError,
    AgencySilent,
    Delivery,
    DeliveryBroke,
)
from harnet.studio.people.quotas import require_turn
from harnet.studio.pictures.importing import import_picture
from harnet.studio.pictures.shelves import shelf_with
from harnet.studio.tasks.task import Task
from harnet.studio.tasks.work import Work, carry_out

_OWN_FAULT = "Harnet failed to fetch this through a fault of its own. Nothing was saved."
PATIENCE_SECONDS = 120.0
"""How long a delivery may take."""


def ask_to_fetch(studio: Studio, session: Session, offer_key: str, shelf_id: int) -> AgencyFetch:
    """Records that an offer is wanted on a shelf.

    Raises:
        Refused: no such offer, or a shelf that Harnet does not write to.
    """
    try:
        offer = studio.agency.offer(offer_key)
    except AgencyError as error:
        raise Refused(str(error)) from None
    shelf = shelf_with(session, shelf_id)
    if shelf.is_watched:
        raise Refused(
            f"{shelf.name} is a watched folder, which Harnet never writes to; choose one of"
            " Harnet's own shelves."
        )
    require_turn(session)
    fetch = AgencyFetch(offer_key=offer.key, title=offer.title, shelf_id=shelf.id)
    session.add(fetch)
    session.flush()
    return fetch


def fetch_with(session: Session, fetch_id: int) -> AgencyFetch:
    """The fetch of that number.

    Raises:
        NotThere: there is none.
    """
    return row_with(session, AgencyFetch, fetch_id, "This delivery is unknown.")


def latest_fetches(session: Session) -> dict[str, AgencyFetch]:
    """The latest fetch of each offer."""
    return {
        one.offer_key: one for one in session.scalars(select(AgencyFetch).order_by(AgencyFetch.id))
    }


def fetch_picture(studio: Studio, row_id: int) -> None:
    """Has the picture delivered and puts it on the shelf with its rights; the worker calls this.

    Whatever goes wrong is kept as a sentence, and nothing half-made stays.
    """
    work = Work(studio, AgencyFetch, row_id)
    if work.begin():
        with work.scratch() as folder:
            carry_out(work, lambda: _fetch(work, folder), _sentence_for, _OWN_FAULT)


def _sentence_for(error: Exception) -> str | None:
    kinds = (AgencyError, UnreadableFile, Refused, NotThere)
    return str(error) if isinstance(error, kinds) else None


def _fetch(work: Work[AgencyFetch], folder: Path) -> None:
    studio = work.studio
    with studio.session() as session:
        fetch = fetch_with(session, work.row_id)
        key, shelf_id = fetch.offer_key, fetch.shelf_id
    offer = studio.agency.offer(key)
    delivery = studio.agency.deliver(key)
    path = folder / "delivery"
    _receive(work, delivery, path)
    with studio.session() as session, path.open("rb") as file:
        rights = Rights(offer.licence, offer.credit, f"{studio.agency.name}, {offer.key}")
        shelf = shelf_with(session, shelf_id)
        picture = import_picture(studio, session, shelf, delivery.file_name, file, rights)
        fetch = work.row_in(session)
        fetch.picture_id = picture.id
        work.end_in(fetch)


def _receive(work: Work[AgencyFetch], delivery: Delivery, path: Path) -> None:
    """Writes a delivery's blocks into a file and tells how far it is.

    Raises:
        AgencySilent: the delivery takes longer than it may.
        DeliveryBroke: fewer bytes came than promised.
    """
    began = time.monotonic()
    received = 0
    with path.open("wb") as file:
        for block in delivery.blocks:
            file.write(block)
            received += len(block)
            if time.monotonic() - began > PATIENCE_SECONDS:
                raise AgencySilent(
                    f"The agency took longer than {PATIENCE_SECONDS:.0f} seconds. Nothing was"
                    " saved; try again later."
                )
            work.tell(min(99, 100 * received // max(1, delivery.size_bytes)), 100)
    if received != delivery.size_bytes:
        raise DeliveryBroke(
            f"The agency promised {delivery.size_bytes} bytes and sent {received}. Nothing was"
            " saved; fetch it again."
        )


FETCH_PICTURE = Task(name="fetch_picture", queue="copies", run=fetch_picture, model=AgencyFetch)
