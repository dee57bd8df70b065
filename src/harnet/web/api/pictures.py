"""Pictures: uploaded once, listed, their reach, their bytes."""

from typing import Any

from apiflask.fields import UploadFile
from flask import Response

from harnet.core.layout.figures import reach_at_pt
from harnet.store.tables.pictures import Picture
from harnet.studio.common.errors import NotThere, Refused
from harnet.studio.pictures.importing import import_picture
from harnet.studio.pictures.picture import facts_of_picture, path_of, picture_with, pictures_between
from harnet.studio.pictures.shelves import DEFAULT_SHELF, have_default_shelf, shelf_named
from harnet.web.api.door import file_answer, resource, same_answer
from harnet.web.api.forms.base import RequestForm
from harnet.web.api.forms.pictures import (
    DensityQuery,
    FactsOut,
    PictureOut,
    PictureQuery,
    Pictures,
    ReachOut,
)
from harnet.web.common.files import file_blocks
from harnet.web.common.shared import studio

blueprint = resource("pictures", "Pictures")


class PictureIn(RequestForm):
    """A picture file."""

    file: UploadFile
    """The file, with its name."""


def picture_out(picture: Picture) -> PictureOut:
    """A picture in the API's form."""
    return PictureOut(
        id=picture.id,
        name=picture.file_name,
        shelf=picture.shelf.name if picture.shelf else None,
        sha256=picture.sha256,
        size_bytes=picture.size_bytes,
        file_state=picture.file_state,
        facts=FactsOut.model_validate(picture.facts),
        licence=picture.licence,
        credit=picture.credit,
        added_at=picture.added_at,
    )


@blueprint.get("/pictures")
@blueprint.input(PictureQuery, location="query")
@blueprint.output(Pictures)
def pictures(query_data: PictureQuery) -> Pictures:
    """The pictures on the shelves, the latest first."""
    wanted = query_data
    with studio().session() as session:
        total, some = pictures_between(session, wanted.find, wanted.offset, wanted.limit)
        return Pictures(total=total, items=[picture_out(one) for one in some])


@blueprint.post("/pictures")
@blueprint.input(PictureIn, location="files")
@blueprint.output(PictureOut, status_code=201)
@blueprint.doc(responses=same_answer("This file is already on the shelf.", "PictureOut"))
def upload(files_data: PictureIn) -> Any:
    """Hands a picture in, onto Harnet's own shelf.

    The same bytes are one picture: sending them again answers 200 with the one that is there.
    """
    file = files_data.file
    if not file.filename:
        raise Refused("The file needs a name.")
    have_default_shelf(studio())
    with studio().session() as session:
        shelf = shelf_named(studio(), session, DEFAULT_SHELF)
        before = {picture.id for picture in shelf.pictures}
        picture = import_picture(studio(), session, shelf, file.filename, file.stream)
        return picture_out(picture), 200 if picture.id in before else 201


@blueprint.get("/pictures/<int:picture_id>")
@blueprint.output(PictureOut)
def picture(picture_id: int) -> PictureOut:
    """One picture."""
    with studio().session() as session:
        return picture_out(picture_with(session, picture_id))


@blueprint.get("/pictures/<int:picture_id>/reach")
@blueprint.input(DensityQuery, location="query")
@blueprint.output(ReachOut)
def reach(picture_id: int, query_data: DensityQuery) -> ReachOut:
    """The largest size at which it has a density."""
    ppi = query_data.ppi
    with studio().session() as session:
        facts = facts_of_picture(picture_with(session, picture_id))
    width_pt, height_pt = reach_at_pt(facts, ppi) or (None, None)
    return ReachOut(ppi=ppi, width_pt=width_pt, height_pt=height_pt)


@blueprint.get("/pictures/<int:picture_id>/file")
@blueprint.doc(responses=file_answer("Its bytes."))
def file(picture_id: int) -> Response:
    """Its bytes as they lie on the shelf."""
    with studio().session() as session:
        picture = picture_with(session, picture_id)
        if picture.shelf is None or not path_of(picture).is_file():
            raise NotThere(f"The file of {picture.file_name} is no longer on its shelf.")
        return file_blocks(path_of(picture), picture.file_name)
