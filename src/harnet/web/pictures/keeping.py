"""Keeping order on the shelves: making, renaming, removing them; moving pictures between them."""

from flask import Blueprint, Response, make_response, redirect, render_template, request, url_for
from flask.typing import ResponseReturnValue

from harnet.studio.people.access import group_given
from harnet.studio.pictures.keeping import (
    move_picture,
    new_shelf,
    remove_picture,
    remove_shelf,
    rename_shelf,
)
from harnet.studio.pictures.picture import picture_with
from harnet.studio.pictures.shelves import shelf_with
from harnet.web.common.shared import studio
from harnet.web.common.values import row_number

blueprint = Blueprint("keeping", __name__)


@blueprint.post("/shelves")
def make() -> ResponseReturnValue:
    """Makes a shelf."""
    with studio().session() as session:
        new_shelf(studio(), session, request.form.get("name", ""))
    return _refreshed()


@blueprint.post("/shelves/<int:shelf_id>/rename")
def rename(shelf_id: int) -> ResponseReturnValue:
    """Gives a shelf another name."""
    with studio().session() as session:
        rename_shelf(session, shelf_with(session, shelf_id), request.form.get("name", ""))
    return _refreshed()


@blueprint.post("/shelves/<int:shelf_id>/remove")
def remove(shelf_id: int) -> ResponseReturnValue:
    """Removes an empty shelf."""
    with studio().session() as session:
        remove_shelf(session, shelf_with(session, shelf_id))
    return _refreshed()


@blueprint.post("/shelves/<int:shelf_id>/share")
def share(shelf_id: int) -> ResponseReturnValue:
    """Gives a shelf and its pictures to a group, or to everyone."""
    with studio().session() as session:
        group_id = group_given(session, row_number(request.form.get("group", "")))
        shelf_with(session, shelf_id).group_id = group_id
    return _refreshed()


@blueprint.post("/pictures/<int:picture_id>/move")
def move(picture_id: int) -> Response:
    """Moves a picture to another shelf; placements stay linked to it."""
    with studio().session() as session:
        shelf = shelf_with(session, request.form.get("shelf", 0, int))
        move_picture(session, picture_with(session, picture_id), shelf)
    return make_response(redirect(url_for("picture.show", picture_id=picture_id)))


@blueprint.post("/pictures/<int:picture_id>/remove")
def take_off(picture_id: int) -> str:
    """Removes a picture from its shelf, and offers to undo that."""
    with studio().session() as session:
        picture = picture_with(session, picture_id)
        before = remove_picture(studio(), session, picture)
        return render_template(
            "pictures/removed.html", name=picture.file_name, picture_id=picture_id, shelf=before
        )


def _refreshed() -> ResponseReturnValue:
    return "", 204, {"HX-Refresh": "true"}
