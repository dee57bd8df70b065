"""The people of a studio and their groups, for its owners."""

from flask import Blueprint, Response, make_response, redirect, render_template, request, url_for

from harnet.studio.common.errors import Refused
from harnet.studio.people.people import (
    add_group,
    add_person,
    all_groups,
    all_people,
    asks_for_names,
    disable,
    enable,
    made_password,
    person_with,
    remove_group,
    set_groups,
    set_password,
    set_role,
)
from harnet.studio.people.roles import Role
from harnet.studio.people.signing_in import revoke_all
from harnet.web.common.shared import studio
from harnet.web.common.values import choice

blueprint = Blueprint("people", __name__, url_prefix="/people")


@blueprint.get("")
def show() -> str:
    """Everybody, and the forms for one more person or group."""
    return _page()


@blueprint.post("")
def add() -> tuple[str, int]:
    """Adds a person with a password that Harnet makes, and tells it, this once."""
    form = request.form
    password = made_password()
    try:
        with studio().session() as session:
            role = choice(Role, form.get("role", ""))
            person = add_person(session, form.get("name", ""), role, password)
            groups = form.getlist("group", int)
            if groups:
                set_groups(session, person, groups)
            name = person.name
    except Refused as error:
        return _page(failure=str(error), typed=form.get("name", "")), 422
    return _page(made=name, password=password), 201


@blueprint.post("/<int:person_id>")
def change(person_id: int) -> Response:
    """Gives a person another role and other groups."""
    with studio().session() as session:
        person = person_with(session, person_id)
        role = choice(Role, request.form.get("role", ""))
        if role is not Role(person.role):
            set_role(session, person, role)
        groups = request.form.getlist("group", int)
        if set(groups) != {group.id for group in person.groups}:
            set_groups(session, person, groups)
    return _back()


@blueprint.post("/<int:person_id>/reset")
def reset(person_id: int) -> str:
    """Gives a person another password, told this once, and signs them out everywhere."""
    password = made_password()
    with studio().session() as session:
        person = person_with(session, person_id)
        set_password(session, person, password, is_own=False)
        revoke_all(session, person)
        name = person.name
    return _page(made=name, password=password)


@blueprint.post("/<int:person_id>/end")
def end_all(person_id: int) -> Response:
    """Signs a person out everywhere."""
    with studio().session() as session:
        revoke_all(session, person_with(session, person_id))
    return _back()


@blueprint.post("/<int:person_id>/disable")
def disable_person(person_id: int) -> Response:
    """Lets a person in no longer, and signs them out everywhere."""
    with studio().session() as session:
        person = person_with(session, person_id)
        disable(session, person)
        revoke_all(session, person)
    return _back()


@blueprint.post("/<int:person_id>/enable")
def enable_person(person_id: int) -> Response:
    """Lets a person in again."""
    with studio().session() as session:
        enable(session, person_with(session, person_id))
    return _back()


@blueprint.post("/groups")
def make_group() -> Response:
    """Makes a group."""
    with studio().session() as session:
        add_group(session, request.form.get("name", ""))
    return _back()


@blueprint.post("/groups/<int:group_id>/remove")
def drop_group(group_id: int) -> Response:
    """Removes a group that nothing belongs to."""
    with studio().session() as session:
        remove_group(session, group_id)
    return _back()


def _back() -> Response:
    return make_response(redirect(url_for("people.show")))


def _page(made: str = "", password: str = "", failure: str = "", typed: str = "") -> str:
    with studio().session() as session:
        return render_template(
            "people/people.html",
            people=all_people(session),
            groups=all_groups(session),
            roles=list(Role),
            is_asking=asks_for_names(session),
            made=made,
            password=password,
            failure=failure,
            typed=typed,
        )
