"""People who are signed in, for tests."""

from itertools import count

from harnet.store.tables.people import SignIn
from harnet.studio.people.people import add_person, person_named, set_groups
from harnet.studio.people.roles import Role
from harnet.studio.people.signing_in import _hash

PASSWORD = "seven gulls over the quay"
_keys = count(1)


def people_of(studio):
    """An owner, a designer and a reviewer, with passwords of their own; their names by role."""
    names = {Role.OWNER: "Ada Lind", Role.DESIGNER: "Bo Quill", Role.REVIEWER: "Cleo Marsh"}
    with studio.session() as session:
        for role, name in names.items():
            add_person(session, name, role, PASSWORD).must_change_password = False
    return names


def put_in(studio, name, *groups):
    """Puts somebody into groups."""
    with studio.session() as session:
        set_groups(session, person_named(session, name), [group.id for group in groups])


def let_in(studio, client, name):
    """Signs somebody in without the form; the client is theirs from now on."""
    key = f"key {next(_keys)}"
    with studio.session() as session:
        person = person_named(session, name)
        session.add(SignIn(person_id=person.id, sha256=_hash(key), address="", browser="a test"))
    with client.session_transaction() as kept:
        kept.clear()
        kept["_user_id"] = key
    return client
