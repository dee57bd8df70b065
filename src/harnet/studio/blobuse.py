"""Letting bytes go that nothing needs any more: the same bytes may have come in twice."""

from sqlalchemy import select
from sqlalchemy.orm import Session

from harnet.store.models import ColourProfile, Picture
from harnet.store.outputmodels import Output, PackOpening
from harnet.store.pdfmodels import CheckedPdf
from harnet.studio.desk import Desk
from harnet.studio.progress import RUNNING

_HOLDERS = (
    select(Output.id, Output.sha256),
    select(Picture.id, Picture.sha256),
    select(CheckedPdf.id, CheckedPdf.sha256),
    select(ColourProfile.id, ColourProfile.sha256),
    select(PackOpening.id, PackOpening.sha256).where(PackOpening.state.in_(RUNNING)),
)


def let_go(desk: Desk, session: Session, sha256: str) -> None:
    """Deletes the bytes with this hash unless an output, a picture or something else has them."""
    session.flush()
    for holders in _HOLDERS:
        held = holders.where(holders.selected_columns.sha256 == sha256).limit(1)
        if session.execute(held).first() is not None:
            return
    desk.blobs.delete(sha256)
