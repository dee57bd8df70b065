"""Texts of a job: added, changed, removed; every change one edit."""

from harnet.core.layout.by_figures import FrameFigures
from harnet.media.pagedrawing.text_lines import TextStyle, lines_lost, lines_of, missing_glyphs
from harnet.store.tables.jobs import Item
from harnet.studio.jobs.jobs import job_with, page_of
from harnet.studio.layout.arranging import add_item, set_style
from harnet.studio.layout.placed import TEXT, frame_of
from harnet.studio.layout.placing import set_figures, texts_of
from harnet.web.api.door import EDIT, resource
from harnet.web.api.forms.placements import FrameValues
from harnet.web.api.forms.texts import TextChange, TextIn, TextOut, Texts, TypeValues
from harnet.web.api.items import as_it_stands, item_of, removed
from harnet.web.common.shared import studio

blueprint = resource("texts", "Texts")


def text_out(item: Item) -> TextOut:
    """A text in the API's form."""
    style, text = TextStyle(**item.style), item.text or ""
    lines = lines_of(text, style, item.width_pt)
    return TextOut(
        id=item.id,
        version=item.version,
        page=item.page.position + 1,
        text=text,
        frame=FrameValues.of(frame_of(item)),
        type=TypeValues.model_construct(
            font=style.font,
            size_pt=style.size_pt,
            leading_pt=style.leading_pt,
            colour=style.colour,
            align=style.align,
            space_pt=style.space_pt,
            link=style.link,
        ),
        lines=len(lines),
        lines_lost=lines_lost(lines, style, item.height_pt),
        missing_glyphs=list(missing_glyphs(text, style)),
    )


@blueprint.get("/jobs/<int:job_id>/texts")
@blueprint.output(Texts)
def texts(job_id: int) -> Texts:
    """Every text of a job, page by page."""
    with studio().session() as session:
        job = job_with(session, job_id)
        return Texts(items=[text_out(item) for item in texts_of(session, job)])


@blueprint.post("/jobs/<int:job_id>/texts")
@blueprint.input(TextIn)
@blueprint.output(TextOut, status_code=201)
@blueprint.doc(extensions=EDIT)
def add(job_id: int, json_data: TextIn) -> TextOut:
    """Adds a text frame to a page."""
    with studio().session() as session:
        job = job_with(session, job_id)
        item = add_item(session, job, page_of(job, json_data.page), TEXT, json_data.frame.box)
        set_style(session, job, item, json_data.type.model_dump(), json_data.text)
        return text_out(as_it_stands(session, item))


@blueprint.get("/jobs/<int:job_id>/texts/<int:item_id>")
@blueprint.output(TextOut)
def text(job_id: int, item_id: int) -> TextOut:
    """One text."""
    with studio().session() as session:
        return text_out(item_of(job_with(session, job_id), item_id, TEXT))


@blueprint.patch("/jobs/<int:job_id>/texts/<int:item_id>")
@blueprint.input(TextChange)
@blueprint.output(TextOut)
@blueprint.doc(extensions=EDIT)
def change(job_id: int, item_id: int, json_data: TextChange) -> TextOut:
    """Changes a text's words, its type or its frame, one edit each for frame and words."""
    with studio().session() as session:
        job = job_with(session, job_id)
        item = item_of(job, item_id, TEXT, json_data.version)
        if json_data.frame is not None:
            set_figures(session, job, item, FrameFigures.of_box(json_data.frame.box))
        if json_data.text is not None or json_data.type is not None:
            style = json_data.type.model_dump() if json_data.type else {}
            set_style(session, job, item, style, json_data.text)
        return text_out(as_it_stands(session, item))


@blueprint.delete("/jobs/<int:job_id>/texts/<int:item_id>")
@blueprint.output({}, status_code=204)
@blueprint.doc(extensions=EDIT)
def remove(job_id: int, item_id: int) -> str:
    """Removes a text from its page."""
    return removed(job_id, item_id, TEXT)
