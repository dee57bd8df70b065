"""API tokens: made for a program, told once, revoked."""

from hashlib import sha256
from secrets import token_urlsafe

from sqlalchemy import select
from sqlalchemy.orm import Session

from harnet.store.acting import actor
from harnet.store.base import now_utc
from harnet.store.tables.tokens import ApiToken
from harnet.studio.common.activity import add_detail
from harnet.studio.common.errors import NotThere

_TOKEN_BYTES = 32
"""256 bits: a plain hash is enough, as there is nothing to guess."""


def make_token(session: Session, label: str) -> tuple[ApiToken, str]:
    """A new token: its row, and the token itself, which nobody can read again later.

    It may what whoever is at work may, as long as they may.
    """
    token = token_urlsafe(_TOKEN_BYTES)
    row = ApiToken(
        label=" ".join(label.split())[:120] or "a program",
        sha256=_hash(token),
        person_id=actor().person_id,
    )
    session.add(row)
    session.flush()
    add_detail(session, row.label)
    return row, token


def shown_tokens(session: Session) -> list[ApiToken]:
    """The tokens, the latest first, revoked ones included: one's own, and for an owner all."""
    wanted = select(ApiToken).order_by(ApiToken.id.desc())
    who = actor()
    if who.groups is not None:
        wanted = wanted.where(ApiToken.person_id == who.person_id)
    return list(session.scalars(wanted))


def token_behind(session: Session, token: str) -> ApiToken | None:
    """The token that is good for this text, noted as used; None for any other."""
    row = session.scalars(select(ApiToken).where(ApiToken.sha256 == _hash(token))).first()
    if row is None or row.revoked_at is not None:
        return None
    if row.person is not None and row.person.disabled_at is not None:
        return None
    row.last_used_at = now_utc()
    return row


def revoke_token(session: Session, token_id: int) -> None:
    """Revokes a token; whoever has it is refused from now on.

    Raises:
        NotThere: there is no such token, or it is somebody else's.
    """
    row = session.get(ApiToken, token_id)
    who = actor()
    if row is None or (who.groups is not None and row.person_id != who.person_id):
        raise NotThere("This token no longer exists.")
    row.revoked_at = row.revoked_at or now_utc()
    add_detail(session, row.label)


def _hash(token: str) -> str:
    return sha256(token.encode("utf-8", "surrogatepass")).hexdigest()
