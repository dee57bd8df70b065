"""One field that finds jobs, pictures, documents, text on pages and findings."""

from dataclasses import dataclass
from itertools import groupby

from flask import Blueprint, render_template, request, url_for

from harnet.studio.jobs.find import FoundThing, found_by
from harnet.web.common.shared import studio

blueprint = Blueprint("finding", __name__, url_prefix="/find")
_HEADINGS = {
    "job": "Jobs",
    "picture": "Pictures",
    "document": "Documents",
    "text": "Text on pages",
    "finding": "Findings",
}


@dataclass(frozen=True, slots=True)
class FoundLine:
    """What was found, with the address that leads there."""

    name: str
    where: str
    address: str


@blueprint.get("")
def show() -> str:
    """What has the text, by kind."""
    text = request.args.get("text", "")[:200].strip()
    with studio().session() as session:
        things = found_by(session, text)
    groups = [
        (_HEADINGS[kind], [FoundLine(one.name, one.where, _address_of(one)) for one in some])
        for kind, some in groupby(things, key=lambda one: one.kind)
    ]
    return render_template("jobs/found.html", text=text, groups=groups, total=len(things))


def _address_of(one: FoundThing) -> str:
    if one.kind == "job":
        return url_for("pages.show", job_id=one.number)
    if one.kind == "picture":
        return url_for("picture.show", picture_id=one.number)
    if one.kind == "document":
        return url_for("documents.show", document_id=one.number)
    return url_for("pages.show", job_id=one.job_id, page=one.page, select=one.number)
