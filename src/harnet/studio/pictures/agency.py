"""Pictures from the agency: searching, and fetching to a shelf in the worker."""

import tempfile
import time
from pathlib import Path

from sqlalchemy import select
from sqlalchemy.orm import Session

from harnet.core.pictures.rights import Rights
from harnet.media.errors import UnreadableFile
from harnet.standins.agency import AgencySilent, AgencyTrouble, Delivery, DeliveryBroke
from harnet.store.base import now_utc
from harnet.store.tables.pictures_and_jobs import AgencyFetch
from harnet.studio.common.desk import Desk
from harnet.studio.common.errors import NotThere, Refused
from harnet.studio.pictures.shelves import shelf_with
from harnet.studio.pictures.take_in import take_in
from harnet.studio.tasks.states import CANCELLED, DONE, FAILED, RUNNING, WORKING, Cancelled

_TOLD_EVERY_SECONDS = 0.4
PATIENCE_SECONDS = 120.0
"""How long a delivery may take."""


def ask_to_fetch(desk: Desk, session: Session, offer_key: str, shelf_id: int) -> AgencyFetch:
    """Notes down that an offer is wanted on a shelf.

    Raises:
        Refused: no such offer, or a shelf that Harnet does not write to.
    """
    try:
        offer = desk.agency.offer(offer_key)
    except AgencyTrouble as error:
        raise Refused(str(error)) from None
    shelf = shelf_with(session, shelf_id)
    if shelf.is_watched:
        raise Refused(f"{shelf.name} is somebody else's folder; choose a shelf of Harnet's own.")
    fetch = AgencyFetch(offer_key=offer.key, title=offer.title, shelf_id=shelf.id)
    session.add(fetch)
    session.flush()
    return fetch


def fetch_with(session: Session, fetch_id: int) -> AgencyFetch:
    """The fetch of that number.

    Raises:
        NotThere: there is none.
    """
    fetch = session.get(AgencyFetch, fetch_id)
    if fetch is None:
        raise NotThere("This delivery is not known.")
    return fetch


def latest_fetches(session: Session) -> dict[str, AgencyFetch]:
    """The latest fetch of each offer."""
    return {
        one.offer_key: one for one in session.scalars(select(AgencyFetch).order_by(AgencyFetch.id))
    }


def cancel_fetch(fetch: AgencyFetch) -> None:
    """Stops a delivery that is not finished."""
    if fetch.state in RUNNING:
        fetch.state, fetch.finished_at = CANCELLED, now_utc()


def fetch_picture(desk: Desk, fetch_id: int) -> None:
    """Has the picture delivered and puts it on the shelf with its rights; the worker calls this.

    Whatever goes wrong is kept as a sentence, and nothing half-made stays.
    """
    with desk.session() as session:
        fetch = session.get(AgencyFetch, fetch_id)
        if fetch is None or fetch.state not in RUNNING:
            return
        fetch.state = WORKING
        key, shelf_id = fetch.offer_key, fetch.shelf_id
    try:
        offer = desk.agency.offer(key)
        delivery = desk.agency.deliver(key)
        with tempfile.TemporaryDirectory(dir=desk.settings.scratch_folder) as folder:
            path = Path(folder) / "delivery"
            _receive(desk, fetch_id, delivery, path)
            with desk.session() as session, path.open("rb") as file:
                rights = Rights(offer.licence, offer.credit, f"{desk.agency.name}, {offer.key}")
                shelf = shelf_with(session, shelf_id)
                picture = take_in(desk, session, shelf, delivery.file_name, file, rights)
                fetch = fetch_with(session, fetch_id)
                fetch.picture_id, fetch.state, fetch.finished_at = picture.id, DONE, now_utc()
                fetch.done_percent = 100
    except Cancelled:
        return
    except (AgencyTrouble, UnreadableFile, Refused, NotThere) as error:
        _fail(desk, fetch_id, str(error))
    except Exception:
        _fail(desk, fetch_id, "Fetching failed for a reason of Harnet's own. Nothing was kept.")
        raise


def _receive(desk: Desk, fetch_id: int, delivery: Delivery, path: Path) -> None:
    """Writes a delivery's blocks into a file and tells how far it is."""
    began = told_at = time.monotonic()
    received = 0
    with path.open("wb") as file:
        for block in delivery.blocks:
            file.write(block)
            received += len(block)
            now = time.monotonic()
            if now - began > PATIENCE_SECONDS:
                raise AgencySilent(
                    f"The agency took longer than {PATIENCE_SECONDS:.0f} seconds. Nothing was"
                    " kept; try again later."
                )
            if now - told_at > _TOLD_EVERY_SECONDS:
                told_at = now
                _tell(desk, fetch_id, 100 * received // max(1, delivery.size_bytes))
    if received != delivery.size_bytes:
        raise DeliveryBroke(
            f"The agency promised {delivery.size_bytes} bytes and sent {received}. Nothing was"
            " kept; fetch it again."
        )


def _tell(desk: Desk, fetch_id: int, percent: int) -> None:
    with desk.session() as session:
        fetch = fetch_with(session, fetch_id)
        if fetch.state == CANCELLED:
            raise Cancelled
        fetch.done_percent = min(99, percent)


def _fail(desk: Desk, fetch_id: int, sentence: str) -> None:
    with desk.session() as session:
        fetch = fetch_with(session, fetch_id)
        if fetch.state in RUNNING:
            fetch.state, fetch.trouble, fetch.finished_at = FAILED, sentence, now_utc()
