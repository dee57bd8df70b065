"""The people of a studio and their groups: added, changed, disabled, let in again."""

from collections.abc import Collection
from secrets import token_urlsafe

from sqlalchemy import Connection, func, select
from sqlalchemy.orm import Session, selectinload

from harnet.core.measure.wording import counted
from harnet.store.acting import LONGEST_NAME, Actor, named
from harnet.store.base import now_utc
from harnet.store.tables.jobs import Job
from harnet.store.tables.people import Group, Person
from harnet.store.tables.pictures import Shelf
from harnet.studio.common.activity import add_detail
from harnet.studio.common.errors import Refused
from harnet.studio.common.rows import row_with
from harnet.studio.people.passwords import hash_of, require_good
from harnet.studio.people.roles import Role

_LONGEST_GROUP = 80
_PASSWORD_BYTES = 12
"""A password that Harnet makes has 96 bits, written in 16 characters."""


def asks_for_names(link: Session | Connection) -> bool:
    """Whether people sign in: they do as soon as there is one who can."""
    able = select(Person.id).where(Person.disabled_at.is_(None)).limit(1)
    return link.scalar(able) is not None


def all_people(session: Session) -> list[Person]:
    """Everybody, those who are disabled last."""
    wanted = select(Person).options(selectinload(Person.groups))
    return list(session.scalars(wanted.order_by(Person.disabled_at.is_not(None), Person.name)))


def person_with(session: Session, person_id: int) -> Person:
    """The person of that number.

    Raises:
        NotThere: there is none.
    """
    return row_with(session, Person, person_id, "There is no such person.")


def person_named(session: Session, name: str) -> Person | None:
    """The person of that name, whatever its capitals; None where there is none."""
    wanted = select(Person).where(func.lower(Person.name) == _plain(name).lower())
    return session.scalars(wanted).first()


def actor_named(session: Session, name: str) -> Actor:
    """Whoever has this name as someone at work: they see what their groups see."""
    person = person_named(session, name) if name else None
    return named(name) if person is None else actor_of(person)


def actor_of(person: Person) -> Actor:
    """A person as someone at work."""
    sees_all = Role(person.role) is Role.OWNER
    groups = None if sees_all else frozenset(group.id for group in person.groups)
    return Actor(name=person.name, person_id=person.id, groups=groups)


def add_person(session: Session, name: str, role: Role, password: str) -> Person:
    """A new person, who is asked for a password of their own at the first sign-in.

    Raises:
        Refused: no name, one that somebody has, or a password that is too easy.
    """
    name = _plain(name)
    if not name:
        raise Refused("Give the name that this person signs in with.")
    if person_named(session, name) is not None:
        raise Refused(f"Somebody is called {name} already; people need different names.")
    if role is not Role.OWNER and not asks_for_names(session):
        raise Refused("The first person must be an owner: somebody has to look after the others.")
    require_good(password, name)
    person = Person(
        name=name, role=role.value, password_hash=hash_of(password), must_change_password=True
    )
    session.add(person)
    session.flush()
    add_detail(session, f"{name}, {role.value}")
    return person


def made_password() -> str:
    """A password to give to somebody, who replaces it at the first sign-in."""
    return token_urlsafe(_PASSWORD_BYTES)


def set_password(session: Session, person: Person, password: str, *, is_own: bool) -> None:
    """Gives a person another password; one that is not their own is replaced at the next sign-in.

    Raises:
        Refused: it is too easy.
    """
    require_good(password, person.name)
    person.password_hash = hash_of(password)
    person.must_change_password = not is_own
    add_detail(session, person.name)


def set_role(session: Session, person: Person, role: Role) -> None:
    """Gives a person another role.

    Raises:
        Refused: they are the last owner.
    """
    if role is not Role.OWNER:
        _require_another_owner(session, person)
    person.role = role.value
    add_detail(session, f"{person.name}, {role.value}")


def disable(session: Session, person: Person) -> None:
    """Lets a person in no longer; their name stays in the history.

    Raises:
        Refused: they are the last owner.
    """
    _require_another_owner(session, person)
    person.disabled_at = person.disabled_at or now_utc()
    add_detail(session, person.name)


def enable(session: Session, person: Person) -> None:
    """Lets a person in again."""
    person.disabled_at = None
    add_detail(session, person.name)


def _require_another_owner(session: Session, person: Person) -> None:
    others = select(Person.id).where(
        Person.role == Role.OWNER.value, Person.disabled_at.is_(None), Person.id != person.id
    )
    # Locked, so that two owners cannot each take away the other.
    if session.scalars(others.with_for_update()).first() is None:
        raise Refused(
            f"{person.name} is the only owner. Make someone else an owner first, or nobody could"
            " look after the studio."
        )


def all_groups(session: Session) -> list[Group]:
    """The groups by name, with their people."""
    wanted = select(Group).options(selectinload(Group.people))
    return list(session.scalars(wanted.order_by(Group.name)))


def add_group(session: Session, name: str) -> Group:
    """A new group without anybody in it.

    Raises:
        Refused: no name, or one that a group has.
    """
    name = _plain(name)[:_LONGEST_GROUP]
    if not name:
        raise Refused("Give the group a name.")
    if session.scalars(select(Group).where(func.lower(Group.name) == name.lower())).first():
        raise Refused(f"A group is called {name} already.")
    group = Group(name=name)
    session.add(group)
    session.flush()
    add_detail(session, name)
    return group


def remove_group(session: Session, group_id: int) -> None:
    """Removes a group that nothing belongs to.

    Raises:
        NotThere: there is no such group.
        Refused: jobs or shelves belong to it.
    """
    group = row_with(session, Group, group_id, "This group is gone already.")
    jobs = session.scalar(select(func.count()).where(Job.group_id == group_id)) or 0
    shelves = session.scalar(select(func.count()).where(Shelf.group_id == group_id)) or 0
    if jobs or shelves:
        raise Refused(
            f"{group.name} still has {counted(jobs, 'job')} and"
            f" {counted(shelves, 'shelf', 'shelves')}."
            " Give them to another group or to everyone first, or they would be seen by all."
        )
    add_detail(session, group.name)
    session.delete(group)


def set_groups(session: Session, person: Person, group_ids: Collection[int]) -> None:
    """Puts a person into these groups and no others."""
    wanted = select(Group).where(Group.id.in_(group_ids)).order_by(Group.name)
    person.groups = list(session.scalars(wanted))
    listed = ", ".join(group.name for group in person.groups)
    add_detail(session, f"{person.name}: {listed or 'no group'}")


def _plain(name: str) -> str:
    return " ".join(name.split())[:LONGEST_NAME]
