"""What happened in the studio, for its owners: a page, and a table to take away."""

from collections.abc import Iterator

from flask import Blueprint, Response, render_template, request, stream_with_context

from harnet.studio.people.activity import PAGE_LENGTH, ActivityQuery, activity_csv, activity_page
from harnet.web.common.shared import studio
from harnet.web.common.values import row_number

blueprint = Blueprint("activity", __name__, url_prefix="/activity")


@blueprint.get("")
def show() -> str:
    """A page of it, the latest first."""
    query = _query()
    with studio().session() as session:
        lines = activity_page(session, query, row_number(request.args.get("before", "")))
    return render_template(
        "people/activity.html",
        lines=lines[:PAGE_LENGTH],
        query=query,
        older=lines[PAGE_LENGTH - 1].id if len(lines) > PAGE_LENGTH else None,
    )


@blueprint.get("/activity.csv")
def as_csv() -> Response:
    """All of it as CSV."""

    def lines() -> Iterator[str]:
        with studio().session() as session:
            yield from activity_csv(session, query)

    query = _query()
    response = Response(stream_with_context(lines()), mimetype="text/csv")
    response.headers["Content-Disposition"] = 'attachment; filename="activity.csv"'
    return response


def _query() -> ActivityQuery:
    fields = request.args
    return ActivityQuery(name=fields.get("name", "")[:120], text=fields.get("text", "")[:120])
