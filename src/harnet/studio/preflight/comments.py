"""Comments on a job or a checked document, made by anyone inside and settled once dealt with."""

from sqlalchemy import func, select
from sqlalchemy.orm import Session

from harnet.store.acting import LONGEST_NAME, actor_name
from harnet.store.base import now_utc
from harnet.store.tables.documents import Document
from harnet.store.tables.jobs import Job
from harnet.store.tables.reviews import Comment
from harnet.studio.common.activity import add_detail
from harnet.studio.common.errors import NotThere, Refused

_LONGEST_TEXT = 4_000
_SHOWN = 80


def add_comment(session: Session, of: Job | Document, text: str, name: str) -> Comment:
    """Says something of a job or a document; whoever signed in does so by their own name.

    Raises:
        Refused: no text, or nobody's name.
    """
    text = text.strip()
    name = actor_name() or " ".join(name.split())[:LONGEST_NAME]
    if not text:
        raise Refused("Write the comment first.")
    if len(text) > _LONGEST_TEXT:
        raise Refused(f"A comment has at most {_LONGEST_TEXT} characters; this has {len(text)}.")
    if not name:
        raise Refused("Give your name.")
    comment = Comment(
        job_id=of.id if isinstance(of, Job) else None,
        document_id=of.id if isinstance(of, Document) else None,
        name=name,
        text=text,
    )
    session.add(comment)
    session.flush()
    add_detail(session, " ".join(text.split())[:_SHOWN])
    return comment


def comments_on(session: Session, of: Job | Document) -> list[Comment]:
    """The comments on a job or a document, open ones first, then the latest first."""
    column = Comment.job_id if isinstance(of, Job) else Comment.document_id
    wanted = select(Comment).where(column == of.id)
    return list(
        session.scalars(wanted.order_by(Comment.settled_at.is_not(None), Comment.id.desc()))
    )


def settle_comment(session: Session, of: Job | Document, comment_id: int, name: str) -> None:
    """Marks a comment as dealt with, or opens it again where it was.

    Raises:
        NotThere: there is no such comment on this.
    """
    comment = session.get(Comment, comment_id)
    own = comment is not None and comment.id in {one.id for one in comments_on(session, of)}
    if comment is None or not own:
        raise NotThere("This comment no longer exists.")
    is_open = comment.settled_at is None
    comment.settled_at = now_utc() if is_open else None
    comment.settled_by = (actor_name() or name)[:LONGEST_NAME] if is_open else ""
    add_detail(session, " ".join(comment.text.split())[:_SHOWN])


def open_comments(session: Session, of: Job | Document) -> int:
    """How many comments wait to be dealt with."""
    column = Comment.job_id if isinstance(of, Job) else Comment.document_id
    wanted = select(func.count()).where(column == of.id, Comment.settled_at.is_(None))
    return session.scalar(wanted) or 0
