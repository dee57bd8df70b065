"""The Pictures view: the wall of all shelves, taking files in, and watched folders."""

from dataclasses import dataclass

from flask import Blueprint, jsonify, render_template, request
from flask.typing import ResponseReturnValue

from harnet.core.copies.recipe import recipe_from_values
from harnet.core.measure.units import Unit
from harnet.core.measure.wording import counted, px_text
from harnet.core.pictures.picture import Facts
from harnet.core.pictures.rights import UNSTATED
from harnet.core.targets.shipped import SHIPPED
from harnet.core.targets.target import Target
from harnet.media.errors import UnreadableFile
from harnet.store.database import Session
from harnet.store.tables.pictures import Picture
from harnet.studio.common.errors import Refused
from harnet.studio.copies.copies import recipes_behind
from harnet.studio.people.access import own_groups
from harnet.studio.pictures.importing import import_picture
from harnet.studio.pictures.picture import (
    REMOVED_SHELF,
    facts_of_picture,
    latest_picture_number,
    licences_on_shelves,
    names_on_shelves,
    picture_count,
    picture_with,
    state_of,
    times_of_contents,
)
from harnet.studio.pictures.search import COLOURS, KINDS, ORDERS, SHAPES, PictureFilter, found
from harnet.studio.pictures.shelves import (
    DEFAULT_SHELF,
    all_shelves,
    clear_previews,
    counts_of_shelves,
    have_default_shelf,
    shelf_named,
    shelf_with,
)
from harnet.studio.pictures.watching import stop_watching, watch_folder
from harnet.web.common.shared import drawn_box, send_look, studio
from harnet.web.common.values import row_number
from harnet.web.drawing.reach import reach_for
from harnet.web.pictures.wording import asked_target, copy_note

blueprint = Blueprint("shelf", __name__, url_prefix="/pictures")
_TILE_PX = (166.0, 120.0)
_PER_PAGE = 96


@dataclass(frozen=True, slots=True, kw_only=True)
class WallPicture:
    """A picture on the wall; `width` and `height` are its drawing's, in pixels."""

    picture: Picture
    name: str
    """Its file name, with its shelf where another one has a picture of that name."""
    pixels: str
    reach: str
    licence: str
    note: str
    is_alarming: bool
    similar_count: int
    width: float
    height: float


@blueprint.get("")
def wall() -> str:
    """The pictures that are looked for, with their pixels and their reach at a target."""
    target, wanted = asked_target(), _wanted()
    with studio().session() as session:
        shelf_named(studio(), session, DEFAULT_SHELF)
        total = picture_count(session)
        page = row_number(request.args.get("page", "")) or 1
        count, some = found(session, wanted, target, _PER_PAGE * (page - 1), _PER_PAGE)
        shelves = all_shelves(session)
        counts = counts_of_shelves(session)
        return render_template(
            "pictures/shelf.html",
            pictures=_wall_pictures(session, some, target),
            total=total,
            asked=dict(request.args),
            page=page,
            last=max(1, -(-count // _PER_PAGE)),
            target=target,
            wanted=wanted,
            choices={
                "shelf": [shelf.name for shelf in shelves],
                "shape": SHAPES,
                "kind": KINDS,
                "colour": COLOURS,
                "licence": [UNSTATED, *licences_on_shelves(session)],
            },
            orders=ORDERS,
            kept_names=(DEFAULT_SHELF, REMOVED_SHELF),
            own_shelves=[
                one for one in shelves if not one.is_watched and one.name != REMOVED_SHELF
            ],
            default_shelf=DEFAULT_SHELF,
            groups=own_groups(session),
            shelves=[(shelf, counts.get(shelf.id, 0)) for shelf in shelves],
        )


@blueprint.get("/<int:picture_id>/tile")
def tile(picture_id: int) -> str:
    """One tile of the wall: it asks for itself until its preview is made."""
    with studio().session() as session:
        picture = picture_with(session, picture_id)
        (one,) = _wall_pictures(session, [picture], asked_target())
        return render_template("common/_tile.html", one=one, target=asked_target())


@blueprint.post("/look-again")
def look_again() -> str:
    """Has the worker read the shelves' folders for files that came another way."""
    with studio().session() as session:
        for shelf in all_shelves(session):
            shelf.is_being_read = True
    send_look()
    return looking()


@blueprint.get("/looking")
def looking() -> str:
    """How far the look is: the page asks again until every shelf was read."""
    with studio().session() as session:
        shelves = all_shelves(session)
        is_running = any(shelf.is_being_read for shelf in shelves)
        added = sum(shelf.new_count for shelf in shelves)
        sentences = [f"{counted(added, 'new picture')} found on the shelves."]
        sentences += [failure for shelf in shelves for failure in shelf.failures]
        return render_template(
            "common/_looked.html", is_running=is_running, sentences=sentences, added=added
        )


@blueprint.get("/preview-bytes")
def preview_bytes() -> str:
    """How much the cached previews take, counted when somebody wants to know."""
    found = studio().blobs.previews_bytes()
    return render_template("pictures/_preview_bytes.html", preview_bytes=found)


@blueprint.post("/clear-previews")
def clear() -> ResponseReturnValue:
    """Throws the cached previews away; they come back one by one."""
    with studio().session() as session:
        clear_previews(studio(), session)
    send_look()
    return "", 204, {"HX-Refresh": "true"}


@blueprint.post("/watch")
def watch() -> str:
    """Watches a folder of this machine from now on."""
    with studio().session() as session:
        shelf = watch_folder(studio(), session, request.form.get("folder", ""))
        shelf.is_being_read = True
    send_look()
    return looking()


@blueprint.post("/shelves/<int:shelf_id>/leave")
def leave(shelf_id: int) -> ResponseReturnValue:
    """Stops watching a folder; its files stay as they are."""
    with studio().session() as session:
        stop_watching(session, shelf_with(session, shelf_id))
    return "", 204, {"HX-Refresh": "true"}


def _wanted() -> PictureFilter:
    """What the address asks for; a choice that does not exist leaves that open."""
    fields = request.args
    allowed = {"shape": SHAPES, "kind": KINDS, "colour": COLOURS, "order": ORDERS}
    chosen = {name: fields.get(name, "") for name in allowed}
    chosen = {name: value for name, value in chosen.items() if value in allowed[name]}
    texts = {name: fields.get(name, "")[:300] for name in ("words", "shelf", "licence")}
    return PictureFilter(**texts, **chosen)


def _wall_pictures(session: Session, pictures: list[Picture], target: Target) -> list[WallPicture]:
    copies = recipes_behind(session, [picture.id for picture in pictures])
    counts = times_of_contents(session, pictures)
    names = names_on_shelves(session, pictures)
    tiles = []
    for picture in pictures:
        facts = facts_of_picture(picture)
        note, is_alarming = _note(picture)
        if not note and picture.id in copies:
            note, is_alarming = copy_note(recipe_from_values(copies[picture.id].recipe))
        width, height = _tile_box(facts)
        tiles.append(
            WallPicture(
                picture=picture,
                name=names.get(picture.id, picture.file_name),
                pixels=_made_of(facts),
                reach=_reach_line(facts, target),
                licence=picture.licence or UNSTATED,
                note=note,
                is_alarming=is_alarming,
                similar_count=counts[picture.sha256],
                width=width,
                height=height,
            )
        )
    return tiles


def _made_of(facts: Facts) -> str:
    """A picture's pixels, or what a drawing is made of."""
    if not facts.is_vector:
        return f"{px_text(facts.px_w, facts.px_h)} px"
    if facts.image_count:
        return f"vector, {counted(facts.image_count, 'image')} inside"
    return "vector"


def _reach_line(facts: Facts, target: Target) -> str:
    reach = reach_for(facts, target, Unit.MM)
    return f"up to {reach}" if facts.px_w or facts.images else reach


def _tile_box(facts: Facts) -> tuple[float, float]:
    width, height = facts.px_w or facts.width_pt or 1, facts.px_h or facts.height_pt or 1
    return drawn_box(width, height, *_TILE_PX)


def _note(picture: Picture) -> tuple[str, bool]:
    if picture.failure:
        return "cannot be decoded", True
    state = state_of(picture).value
    return ("", False) if state == "in place" else (f"file {state}", True)


@blueprint.post("/upload")
def upload() -> ResponseReturnValue:
    """Takes one file in; the page sends several one after the other."""
    file = request.files.get("file")
    if file is None or not file.filename:
        raise Refused("Choose a picture file first.")
    onto = request.form.get("shelf", None, int)
    have_default_shelf(studio())
    with studio().session() as session:
        shelf = (
            shelf_named(studio(), session, DEFAULT_SHELF)
            if onto is None
            else shelf_with(session, onto)
        )
        if shelf.is_watched:
            raise Refused(f"{shelf.name} is a watched folder, which Harnet never writes to.")
        before = latest_picture_number(session)
        try:
            picture = import_picture(studio(), session, shelf, file.filename, file.stream)
        except UnreadableFile as error:
            return jsonify(failure=str(error)), 422
        is_known = picture.id <= before
        (one,) = _wall_pictures(session, [picture], SHIPPED[0])
        return jsonify(
            id=picture.id,
            name=picture.file_name,
            is_known=is_known,
            total=picture_count(session),
            tile=render_template("common/_tile.html", one=one, target=SHIPPED[0]),
        )
