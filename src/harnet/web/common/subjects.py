"""What review links and comments are about: a job or a checked document, by kind and number."""

from typing import Any

from flask import render_template, url_for

from harnet.store.database import Session
from harnet.store.tables.documents import Document
from harnet.store.tables.jobs import Job
from harnet.studio.common.errors import NotThere
from harnet.studio.documents.uploads import document_with
from harnet.studio.jobs.jobs import job_with
from harnet.web.common.signed_in import me


def subject_of(session: Session, kind: str, number: int) -> Job | Document:
    """The job or the document of that number.

    Raises:
        NotThere: there is none, or the kind is neither.
    """
    if kind == "job":
        return job_with(session, number)
    if kind == "document":
        return document_with(session, number)
    raise NotThere("There is nothing at this address.")


def may_accept_on(of: Job | Document) -> bool:
    """Whether whoever the request is from may accept findings on it."""
    return me().is_designer or of.reviewers_accept


def page_about(template: str, kind: str, number: int, of: Job | Document, **more: Any) -> str:
    """A page about a job or a document: what it is called, and the way back to its findings."""
    title = of.title if isinstance(of, Job) else of.file_name
    back = address_of(of)
    return render_template(template, kind=kind, number=number, title=title, back=back, **more)


def address_of(of: Job | Document) -> str:
    """Where its findings are shown."""
    if isinstance(of, Job):
        return url_for("preflight.show", job_id=of.id)
    return url_for("documents.show", document_id=of.id)
