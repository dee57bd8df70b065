"""Passwords: what is good enough, and how they are kept; Argon2id does the work."""

from argon2 import PasswordHasher
from argon2.exceptions import InvalidHashError, VerificationError

from harnet.studio.common.errors import Refused

FEWEST, MOST = 12, 200
"""Characters. NIST SP 800-63B asks for 8 at least and for 64 at most or more (from memory)."""
_FEWEST_DIFFERENT = 5
_hasher = PasswordHasher()
"""With the costs of RFC 9106, section 4, second choice, which are the library's own."""


def hash_of(password: str) -> str:
    """How a password is kept."""
    return _hasher.hash(password)


_NOBODYS = hash_of("nobody has this password")
"""Checked where there is no such person, so that the answer takes as long."""


def is_right(password: str, kept: str | None) -> bool:
    """Whether a password is the one that is kept; without one it takes as long, and is not."""
    try:
        is_same = _hasher.verify(kept or _NOBODYS, password)
    except (VerificationError, InvalidHashError):
        return False
    return is_same and kept is not None


def is_outdated(kept: str) -> bool:
    """Whether it was kept at a lower cost than today's."""
    return _hasher.check_needs_rehash(kept)


def require_good(password: str, name: str) -> None:
    """Takes any password that is long enough and is not easy to guess.

    Raises:
        Refused: it is not; the text says why.
    """
    if not FEWEST <= len(password) <= MOST:
        raise Refused(
            f"A password needs {FEWEST} to {MOST} characters; this one has {len(password)}."
            " A few words in a row are easy to remember."
        )
    if len(set(password)) < _FEWEST_DIFFERENT:
        raise Refused("This password repeats a few characters; choose one that varies more.")
    if name.casefold() in password.casefold():
        raise Refused("A password must not contain the name that it belongs to.")
