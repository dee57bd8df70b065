"""`harnet person`: the people who may sign in, for whoever runs Harnet."""

import sys
from collections.abc import Iterator
from contextlib import contextmanager
from dataclasses import replace

import click

from harnet.cli.running.serving import require_settings
from harnet.cli.tables import Row, format_option, print_rows
from harnet.core.errors import HarnetError
from harnet.standins.studio import open_studio
from harnet.store.acting import acting, named
from harnet.store.database import Session
from harnet.store.tables.people import Person
from harnet.studio.common.errors import NotThere
from harnet.studio.common.settings import Settings
from harnet.studio.people.people import (
    add_person,
    all_people,
    disable,
    enable,
    made_password,
    person_named,
    set_password,
    set_role,
)
from harnet.studio.people.roles import Role
from harnet.studio.people.signing_in import revoke_all

_REFUSED = 2
_WHO = "the command line"


@contextmanager
def _session(doing: str = "") -> Iterator[Session]:
    """A transaction of the command line; what is refused in it ends the command."""
    require_settings()
    studio = open_studio(Settings.from_environment())
    try:
        with acting(replace(named(_WHO), doing=doing)), studio.session() as session:
            yield session
    except HarnetError as error:
        click.echo(str(error), err=True)
        sys.exit(_REFUSED)


def _person(session: Session, name: str) -> Person:
    found = person_named(session, name)
    if found is None:
        raise NotThere(f"Nobody is called {name}. harnet person list names them all.")
    return found


def _password(is_given: bool) -> str:
    """A password from standard input, or one that Harnet makes."""
    return sys.stdin.readline().rstrip("\n") if is_given else made_password()


_roles = click.Choice([one.value for one in Role])


@click.group()
def person() -> None:
    """Add, list and change the people who may sign in.

    Nobody has to sign in as long as there is no one; Harnet then answers on loopback alone.
    """


@person.command()
@click.argument("name")
@click.option("--role", type=_roles, default=Role.DESIGNER.value, show_default=True)
@click.option("--owner", is_flag=True, help="The same as --role owner.")
@click.option("--password-stdin", is_flag=True, help="Read the password from standard input.")
def add(name: str, role: str, owner: bool, password_stdin: bool) -> None:
    """Add NAME and print a password for the first sign-in, this once."""
    password = _password(password_stdin)
    wanted = Role.OWNER if owner else Role(role)
    with _session("added a person") as session:
        add_person(session, name, wanted, password)
    if not password_stdin:
        click.echo(password)


@person.command("list")
@format_option
def list_people(form: str) -> None:
    """List everybody, with role and groups."""
    with _session() as session:
        rows: list[Row] = [
            {
                "name": one.name,
                "role": one.role,
                "groups": ", ".join(group.name for group in one.groups),
                "is_disabled": one.disabled_at is not None,
            }
            for one in all_people(session)
        ]
    print_rows(
        form,
        rows,
        {
            "name": lambda row: str(row["name"]),
            "role": lambda row: str(row["role"]),
            "groups": lambda row: str(row["groups"]),
            "": lambda row: "disabled" if row["is_disabled"] else "",
        },
    )


@person.command()
@click.argument("name")
@click.option("--password-stdin", is_flag=True, help="Read the password from standard input.")
def password(name: str, password_stdin: bool) -> None:
    """Give NAME another password, print it, this once, and sign them out everywhere."""
    made = _password(password_stdin)
    with _session("reset a person’s password") as session:
        found = _person(session, name)
        set_password(session, found, made, is_own=False)
        revoke_all(session, found)
    if not password_stdin:
        click.echo(made)


@person.command()
@click.argument("name")
@click.argument("to", metavar="ROLE", type=_roles)
def role(name: str, to: str) -> None:
    """Give NAME another ROLE."""
    with _session("changed a person") as session:
        set_role(session, _person(session, name), Role(to))


@person.command("disable")
@click.argument("name")
def disable_person(name: str) -> None:
    """Let NAME in no longer; their name stays in the history."""
    with _session("disabled a person") as session:
        found = _person(session, name)
        disable(session, found)
        revoke_all(session, found)


@person.command("enable")
@click.argument("name")
def enable_person(name: str) -> None:
    """Let NAME in again."""
    with _session("let a person in again") as session:
        enable(session, _person(session, name))
