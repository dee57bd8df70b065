"""Signing in and out: each browser has a key of its own, which can be revoked from any other."""

from datetime import timedelta
from hashlib import sha256
from secrets import token_urlsafe

from sqlalchemy import delete, or_, select
from sqlalchemy.orm import Session

from harnet.core.errors import HarnetError
from harnet.store.base import now_utc
from harnet.store.tables.people import Person, SignIn
from harnet.studio.common.activity import add_detail
from harnet.studio.common.errors import NotThere
from harnet.studio.common.settings import Expiry
from harnet.studio.people.passwords import hash_of, is_outdated, is_right
from harnet.studio.people.people import person_named

_KEY_BYTES = 32
_NOTED_EVERY = timedelta(minutes=1)
_KEPT = timedelta(days=90)


class WrongSignIn(HarnetError):
    """No such name, or another password: which of them is not told. Try again."""

    code = "wrong-sign-in"


def sign_in(
    session: Session, name: str, password: str, *, address: str = "", browser: str = ""
) -> tuple[SignIn, str]:
    """Signs someone in: the row, and the key for their browser, which nobody can read later.

    A wrong name takes as long as a wrong password.

    Raises:
        WrongSignIn: no such person, a disabled one, or another password.
    """
    person = person_named(session, name)
    able = person if person is not None and person.disabled_at is None else None
    if not is_right(password, able.password_hash if able else None) or able is None:
        raise WrongSignIn("This name and password do not belong together. Check both.")
    if is_outdated(able.password_hash):
        able.password_hash = hash_of(password)
    key = token_urlsafe(_KEY_BYTES)
    row = SignIn(person_id=able.id, sha256=_hash(key), address=address[:60], browser=browser[:200])
    session.add(row)
    session.flush()
    return row, key


def signed_in(session: Session, key: str, expiry: Expiry) -> SignIn | None:
    """The sign-in that a browser's key is good for, noted as seen; None for any other key."""
    row = session.scalars(select(SignIn).where(SignIn.sha256 == _hash(key))).first()
    if row is None or not is_good(row, expiry):
        return None
    now = now_utc()
    if now - row.seen_at > _NOTED_EVERY:
        row.seen_at = now
    return row


def is_good(row: SignIn, expiry: Expiry) -> bool:
    """Whether a sign-in still holds."""
    now = now_utc()
    is_over = now - row.seen_at > expiry.idle or now - row.made_at > expiry.whole
    return not is_over and row.revoked_at is None and row.person.disabled_at is None


def sign_ins_of(session: Session, person: Person, expiry: Expiry) -> list[SignIn]:
    """Where a person is signed in, the latest first."""
    wanted = select(SignIn).where(SignIn.person_id == person.id, SignIn.revoked_at.is_(None))
    rows = session.scalars(wanted.order_by(SignIn.seen_at.desc()))
    return [row for row in rows if is_good(row, expiry)]


def revoke_sign_in(session: Session, person: Person, sign_in_id: int) -> None:
    """Ends one sign-in of a person.

    Raises:
        NotThere: they have none of that number.
    """
    row = session.get(SignIn, sign_in_id)
    if row is None or row.person_id != person.id:
        raise NotThere("This sign-in has ended already.")
    row.revoked_at = row.revoked_at or now_utc()
    add_detail(session, person.name)


def revoke_all(session: Session, person: Person, but: int | None = None) -> None:
    """Ends every sign-in of a person, but for that of one number."""
    for row in session.scalars(
        select(SignIn).where(SignIn.person_id == person.id, SignIn.revoked_at.is_(None))
    ):
        if row.id != but:
            row.revoked_at = now_utc()


def forget_old(session: Session, expiry: Expiry) -> None:
    """Removes sign-ins that ended long ago."""
    before = now_utc() - _KEPT - expiry.whole
    session.execute(delete(SignIn).where(or_(SignIn.made_at < before, SignIn.revoked_at < before)))


def _hash(key: str) -> str:
    return sha256(key.encode("utf-8", "surrogatepass")).hexdigest()
