"""Placements of a job: pictures placed, framed, scaled, taken off; every change one edit."""

from harnet.core.layout.by_figures import FrameFigures
from harnet.core.layout.placing import Adjusts, EvenBy, Fit
from harnet.core.ledger.lines import LineFilter
from harnet.store.database import Session
from harnet.store.tables.jobs import Item, Job
from harnet.studio.jobs.jobs import job_with, page_of, target_of
from harnet.studio.judging.judging import catch_up
from harnet.studio.layout.arranging import place_in_frame
from harnet.studio.layout.matching import swap
from harnet.studio.layout.placed import PICTURE, Placed, placed_from
from harnet.studio.layout.placing import (
    even_out,
    place_picture,
    scale_to_figure,
    scale_to_native,
    scale_to_reach,
    set_figures,
)
from harnet.studio.ledger.lines import placed_of
from harnet.studio.pictures.pdf_pages import page_as_picture
from harnet.studio.pictures.picture import picture_with
from harnet.web.api.door import EDIT, resource
from harnet.web.api.forms.placements import (
    FrameValues,
    PlacementChange,
    PlacementIn,
    PlacementOut,
    Placements,
    SwapIn,
)
from harnet.web.api.items import as_it_stands, item_of, removed
from harnet.web.common.shared import studio

blueprint = resource("placements", "Placements")


def placement_out(placed: Placed) -> PlacementOut:
    """A placement in the API's form."""
    figures = placed.figures
    density = figures.density
    return PlacementOut(
        id=placed.item.id,
        version=placed.item.version,
        page=placed.page_number,
        picture=placed.item.picture_id or 0,
        name=placed.name,
        frame=FrameValues.of(placed.placement.frame),
        ppi_x=density.x if density else None,
        ppi_y=density.y if density else None,
        ppi_judged=figures.judged_ppi,
        target_ppi=figures.target.density_ppi,
        verdict=figures.verdict.value,
        headroom=figures.headroom,
        evenness=figures.evenness,
        file_state=placed.file_state.value,
    )


@blueprint.get("/jobs/<int:job_id>/placements")
@blueprint.output(Placements)
def placements(job_id: int) -> Placements:
    """Every placed picture with its effective ppi and verdict, page by page."""
    with studio().session() as session:
        job = job_with(session, job_id)
        catch_up(session, job)
        placed = placed_of(session, job, LineFilter(sort="page"))
        return Placements(items=[placement_out(one) for one in placed])


@blueprint.post("/jobs/<int:job_id>/placements")
@blueprint.input(PlacementIn)
@blueprint.output(PlacementOut, status_code=201)
@blueprint.doc(extensions=EDIT)
def place(job_id: int, json_data: PlacementIn) -> PlacementOut:
    """Places a picture: at native size in the page's middle, or in a frame."""
    with studio().session() as session:
        job = job_with(session, job_id)
        page, picture = page_of(job, json_data.page), picture_with(session, json_data.picture)
        if json_data.pdf_page is not None:
            picture = page_as_picture(studio(), session, picture, json_data.pdf_page)
        if json_data.frame is None:
            item = place_picture(session, job, page, picture)
        else:
            frame, fit = json_data.frame.box, Fit(json_data.fit)
            item = place_in_frame(session, job, page, picture, frame, fit)
        return _out(session, job, item)


@blueprint.get("/jobs/<int:job_id>/placements/<int:item_id>")
@blueprint.output(PlacementOut)
def placement(job_id: int, item_id: int) -> PlacementOut:
    """One placed picture."""
    with studio().session() as session:
        job = job_with(session, job_id)
        return _out(session, job, item_of(job, item_id, PICTURE))


@blueprint.patch("/jobs/<int:job_id>/placements/<int:item_id>")
@blueprint.input(PlacementChange)
@blueprint.output(PlacementOut)
@blueprint.doc(extensions=EDIT)
def change(job_id: int, item_id: int, json_data: PlacementChange) -> PlacementOut:
    """Changes a placed picture's frame or scale."""
    with studio().session() as session:
        job = job_with(session, job_id)
        item = item_of(job, item_id, PICTURE, json_data.version)
        if json_data.frame is not None:
            set_figures(session, job, item, FrameFigures.of_box(json_data.frame.box))
        adjusts = Adjusts(json_data.adjusts)
        if json_data.scale_to == "native":
            scale_to_native(session, job, [item], adjusts)
        elif json_data.scale_to == "reach":
            scale_to_reach(session, job, [item], adjusts)
        elif json_data.scale_to == "even":
            even_out(session, job, [item], EvenBy.MEAN, adjusts)
        if json_data.scale_to_ppi is not None:
            scale_to_figure(session, job, [item], json_data.scale_to_ppi, adjusts)
        return _out(session, job, item)


@blueprint.put("/jobs/<int:job_id>/placements/<int:item_id>/picture")
@blueprint.input(SwapIn)
@blueprint.output(PlacementOut)
@blueprint.doc(extensions=EDIT)
def swap_picture(job_id: int, item_id: int, json_data: SwapIn) -> PlacementOut:
    """Puts another picture in a placement's frame, as one edit."""
    with studio().session() as session:
        job = job_with(session, job_id)
        item = item_of(job, item_id, PICTURE, json_data.version)
        swap(session, job, item, picture_with(session, json_data.picture))
        return _out(session, job, item)


@blueprint.delete("/jobs/<int:job_id>/placements/<int:item_id>")
@blueprint.output({}, status_code=204)
@blueprint.doc(extensions=EDIT)
def remove_from_page(job_id: int, item_id: int) -> str:
    """Removes a picture from its page."""
    return removed(job_id, item_id, PICTURE)


def _out(session: Session, job: Job, item: Item) -> PlacementOut:
    page_number = as_it_stands(session, item).page.position + 1
    return placement_out(placed_from(item, page_number, target_of(job)))
