"""Handoff packs as the API gives them."""

from datetime import datetime

from harnet.web.api.forms.base import ResponseForm, WorkState


class PackOut(ResponseForm):
    """A handoff pack that is being opened; `job` is what it became."""

    id: int
    """The opening's number."""
    file: str
    """The pack's file name."""
    title: str
    """The title of the job in it."""
    state: WorkState
    """Its state."""
    steps_done: int
    """Steps done so far: one per picture, two per page."""
    steps_total: int
    """Steps in total; 0 until known."""
    failure: str | None
    """Why it could not be opened, as a sentence."""
    job: int | None
    """The number of the job that it became."""
    requested_at: datetime
    """When it was uploaded."""
    finished_at: datetime | None
    """When it finished."""
