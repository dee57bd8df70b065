"""API tokens: made for a program, told once, withdrawn."""

from hashlib import sha256
from secrets import token_urlsafe

from sqlalchemy import select
from sqlalchemy.orm import Session

from harnet.store.base import now_utc
from harnet.store.tables.tokens import ApiToken
from harnet.studio.common.errors import NotThere

_TOKEN_BYTES = 32
"""256 bits: a plain hash is enough, as there is nothing to guess."""


def make_token(session: Session, label: str) -> tuple[ApiToken, str]:
    """A new token: its row, and the token itself, which nobody can read again later."""
    token = token_urlsafe(_TOKEN_BYTES)
    row = ApiToken(label=" ".join(label.split())[:120] or "a program", sha256=_hash(token))
    session.add(row)
    session.flush()
    return row, token


def all_tokens(session: Session) -> list[ApiToken]:
    """The tokens, the latest first, withdrawn ones included."""
    return list(session.scalars(select(ApiToken).order_by(ApiToken.id.desc())))


def token_behind(session: Session, token: str) -> ApiToken | None:
    """The token that is good for this text, noted as used; None for any other."""
    row = session.scalars(select(ApiToken).where(ApiToken.sha256 == _hash(token))).first()
    if row is None or row.revoked_at is not None:
        return None
    row.last_used_at = now_utc()
    return row


def revoke_token(session: Session, token_id: int) -> None:
    """Withdraws a token; whoever has it is turned away from now on.

    Raises:
        NotThere: there is no such token.
    """
    row = session.get(ApiToken, token_id)
    if row is None:
        raise NotThere("This token no longer exists.")
    row.revoked_at = row.revoked_at or now_utc()


def _hash(token: str) -> str:
    return sha256(token.encode("utf-8", "surrogatepass")).hexdigest()
