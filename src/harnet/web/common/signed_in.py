"""Whoever is signed in, for views and templates."""

from dataclasses import dataclass

from flask import g
from flask_login import AnonymousUserMixin, UserMixin

from harnet.store.acting import Actor
from harnet.studio.people.roles import Role


@dataclass(frozen=True, slots=True, kw_only=True)
class SignedIn(UserMixin):  # type: ignore[misc]
    """Someone who signed in with a browser, as they were when the request began.

    `key` is what the browser holds.
    """

    key: str
    sign_in_id: int
    role: Role
    actor: Actor
    must_change_password: bool

    def get_id(self) -> str:
        """What the session keeps."""
        return self.key


class Anybody(AnonymousUserMixin):  # type: ignore[misc]
    """Whoever has not signed in."""


@dataclass(frozen=True, slots=True)
class Me:
    """Whoever the request is from; without a name where nobody has to sign in."""

    role: Role
    name: str = ""
    person_id: int | None = None
    sign_in_id: int | None = None
    is_inside: bool = True
    """Whether they may see anything of the studio."""

    @property
    def is_designer(self) -> bool:
        """Whether they may change things."""
        return self.role.includes(Role.DESIGNER)

    @property
    def is_owner(self) -> bool:
        """Whether they look after the studio."""
        return self.role.includes(Role.OWNER)


NOBODY = Me(Role.REVIEWER, is_inside=False)
"""Someone outside: they see what needs no sign-in."""


def me() -> Me:
    """Whoever the request is from."""
    found: Me = g.get("me", NOBODY)
    return found
