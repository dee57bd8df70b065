"""Findings as the API gives them, and their acceptance."""

from typing import Annotated, Literal

from pydantic import Field

from harnet.web.api.forms.base import RequestBody, ResponseForm, Title, example


class FindingOut(ResponseForm):
    """A finding of preflight; `accepted_by` and `reason` where someone let it pass."""

    rule: str
    """The id of the rule that found it."""
    severity: str
    """blocking, warning or note."""
    page: int
    """The page's number, from 1."""
    item: int
    """The number of the item it was found on."""
    name: str
    """The name of what it was found on."""
    headline: str
    """The finding in a few words."""
    sentence: str
    """The finding, and what can be done about it."""
    accepted_by: str | None = None
    """Who accepted it."""
    reason: str | None = None
    """Why it was accepted."""


class Findings(ResponseForm):
    """The findings of a job, worst first: open ones, and those that were accepted."""

    gate: Literal["open", "held"]
    """Whether a PDF may be made without a reason."""
    items: list[FindingOut]
    """The open findings."""
    accepted: list[FindingOut]
    """Those that were accepted."""


class AcceptIn(RequestBody):
    """Why a finding may pass, and who says so."""

    model_config = example({"reason": "The client sent nothing better.", "name": "Ines Marram"})

    reason: Title
    """Why it is accepted."""
    name: Annotated[Title, Field(max_length=120)]
    """Who accepts it."""
