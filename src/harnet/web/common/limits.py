"""Limits on how often a sign-in may fail, by address and by name, shared by all processes."""

from flask import Response, request
from flask_limiter import Limiter
from limits.storage import Storage

from harnet.studio.people.attempts import attempts_of, count_attempt, forget_attempts
from harnet.web.common.shared import studio

FAILED = 401
_BY_BOTH, _BY_ADDRESS, _BY_NAME = "10 per 15 minutes", "50 per 15 minutes", "100 per hour"
"""NIST SP 800-63B allows 100 failures in a row for one account (from memory)."""


class StudioStorage(Storage):
    """Counts in the studio's own database."""

    STORAGE_SCHEME = ["studio"]

    @property
    def base_exceptions(self) -> type[Exception]:
        """What may go wrong."""
        return OSError

    def incr(self, key: str, expiry: int, amount: int = 1) -> int:
        """Counts one more; how many there are now."""
        with studio().session() as session:
            return count_attempt(session, key, expiry, amount)

    def get(self, key: str) -> int:
        """How many there are."""
        with studio().session() as session:
            return attempts_of(session, key)[0]

    def get_expiry(self, key: str) -> float:
        """When they are forgotten, in seconds of the epoch."""
        with studio().session() as session:
            return attempts_of(session, key)[1].timestamp()

    def check(self) -> bool:
        """Whether it can be used; the database is asked elsewhere."""
        return True

    def reset(self) -> int | None:
        """Forgets what is over."""
        with studio().session() as session:
            return forget_attempts(session)

    def clear(self, key: str) -> None:
        """Forgets the attempts of a key."""
        with studio().session() as session:
            forget_attempts(session, key)


def address() -> str:
    """The address that a request is from."""
    return request.remote_addr or "nowhere"


def name_given() -> str:
    """The name that is signed in with, whatever its capitals."""
    return " ".join(request.form.get("name", "").split()).lower()[:120]


limiter = Limiter(address, storage_uri="studio://", strategy="fixed-window")


def has_failed(response: Response) -> bool:
    """Only what failed counts."""
    return response.status_code == FAILED


by_address_and_name = limiter.limit(
    _BY_BOTH, key_func=lambda: f"{address()} {name_given()}", deduct_when=has_failed
)
by_address = limiter.limit(_BY_ADDRESS, deduct_when=has_failed)
by_name = limiter.limit(_BY_NAME, key_func=name_given, deduct_when=has_failed)
