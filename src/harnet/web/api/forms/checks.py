"""Checks of documents and reports as the API gives them."""

from datetime import datetime
from typing import Any, Literal

from pydantic import ConfigDict

from harnet.web.api.forms.base import ResponseForm, WorkState
from harnet.web.api.forms.targets import TargetOut

FormatWord = Literal["pdf", "pptx", "docx", "xlsx", "odt", "odp", "odg", "ods", "epub", "svg"]


class CheckOut(ResponseForm):
    """A document that is checked: how far that is, and what was found so far."""

    id: int
    """The check's number."""
    file: str
    """The file's name."""
    sha256: str
    """The SHA-256 of its bytes."""
    size_bytes: int
    """Its size."""
    state: WorkState
    """Its state."""
    pages_read: int
    """How many pages have been read."""
    pages: int
    """How many pages, slides, sheets or sections it has; 0 until known."""
    format: FormatWord | None
    """What it is, told by its content; null until that is known."""
    failure: str | None
    """Why it could not be read, as a sentence."""
    target: TargetOut
    """What its pictures are checked against."""
    verdicts: dict[str, int]
    """How many images have each verdict so far."""
    requested_at: datetime
    """When it was uploaded."""
    finished_at: datetime | None
    """When it was read."""


class Checks(ResponseForm):
    """A part of the checked documents, the latest first."""

    total: int
    """How many there are in total."""
    items: list[CheckOut]
    """The checks of this page of the list."""


class ReportOut(ResponseForm):
    """What reports of both kinds begin with."""

    model_config = ConfigDict(extra="allow")
    format: str
    """What the report is about."""
    version: int
    """The version of its format."""
    findings: list[dict[str, Any]]
    """Every finding."""


class JobReportOut(ReportOut):
    """A report on a job in its published form, docs/schemas/job-report.schema.json."""

    pictures: list[dict[str, Any]]
    """Every placed picture with its figures."""


class CheckReportOut(ReportOut):
    """A report on a check in its published form, docs/schemas/document-report.schema.json."""

    images: list[dict[str, Any]]
    """Every image with its figures."""
