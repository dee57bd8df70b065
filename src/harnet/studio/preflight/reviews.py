"""Review links: made for someone outside, read until they expire or are withdrawn."""

from datetime import timedelta
from secrets import token_urlsafe

from sqlalchemy import select
from sqlalchemy.orm import Session

from harnet.store.base import now_utc
from harnet.store.tables.documents import Document
from harnet.store.tables.jobs import Job
from harnet.store.tables.reviews import ReviewLink
from harnet.studio.common.activity import add_detail
from harnet.studio.common.errors import NotThere, Refused

_TOKEN_BYTES = 24
"""192 bits: nobody guesses one."""
LONGEST_DAYS = 365
_NO_LINK = "There is nothing at this address. Ask the sender for a new link."


def make_link(
    session: Session, of: Job | Document, label: str, days: int, with_reasons: bool = False
) -> ReviewLink:
    """A new link to the findings of a job or of a checked PDF.

    With reasons it shows who accepted what, and why; else only that it was accepted.

    Raises:
        Refused: a number of days that is not valid.
    """
    if not 1 <= days <= LONGEST_DAYS:
        raise Refused(f"A link lasts 1 to {LONGEST_DAYS} days, not {days}.")
    link = ReviewLink(
        token=token_urlsafe(_TOKEN_BYTES),
        job_id=of.id if isinstance(of, Job) else None,
        document_id=of.id if isinstance(of, Document) else None,
        label=" ".join(label.split())[:120] or "somebody",
        with_reasons=with_reasons,
        expires_at=now_utc() + timedelta(days=days),
    )
    session.add(link)
    session.flush()
    add_detail(session, link.label)
    return link


def links_to(session: Session, of: Job | Document) -> list[ReviewLink]:
    """The links to a job or a checked PDF, the latest first."""
    column = ReviewLink.job_id if isinstance(of, Job) else ReviewLink.document_id
    wanted = select(ReviewLink).where(column == of.id).order_by(ReviewLink.id.desc())
    return list(session.scalars(wanted))


def is_open(link: ReviewLink) -> bool:
    """Whether a link still leads somewhere."""
    return link.revoked_at is None and link.expires_at > now_utc()


def withdraw(session: Session, of: Job | Document, link_id: int) -> None:
    """Withdraws a link; whoever has it sees nothing any longer.

    Raises:
        NotThere: there is no such link to this.
    """
    link = next((one for one in links_to(session, of) if one.id == link_id), None)
    if link is None:
        raise NotThere("This link no longer exists.")
    link.revoked_at = link.revoked_at or now_utc()


def link_behind(session: Session, token: str) -> ReviewLink:
    """The open link of a token; that it was read is noted.

    Raises:
        NotThere: none, or one that expired or was withdrawn. It is not said which.
    """
    link = session.scalars(select(ReviewLink).where(ReviewLink.token == token)).first()
    if link is None or not is_open(link):
        raise NotThere(_NO_LINK)
    link.last_read_at = now_utc()
    return link
