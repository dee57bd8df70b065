"""The unit that a person reads and types lengths in: their own, or else that of the job."""

from flask import Response, request

from harnet.core.measure.units import CSS_PX_PER_INCH, Unit
from harnet.store.tables.jobs import Job
from harnet.studio.layout.placed import unit_of

UNIT_WORDS = {
    "": "unit of each job",
    Unit.MM.value: "millimetres",
    Unit.CM.value: "centimetres",
    Unit.INCH.value: "inches",
    Unit.POINT.value: "points",
    Unit.PX.value: "pixels",
}
"""What one can choose, with its name on screen."""
_COOKIE = "harnet-unit"
_YEAR_SECONDS = 365 * 24 * 3600


def own_unit() -> Unit | None:
    """The unit that this person has chosen; None while each job keeps its own."""
    chosen = request.cookies.get(_COOKIE, "")
    return Unit(chosen) if chosen in UNIT_WORDS and chosen else None


def own_unit_name() -> str:
    """The name of the unit that this person has chosen, empty without."""
    own = own_unit()
    return own.value if own is not None else ""


def shown_unit(job: Job) -> tuple[Unit, float]:
    """The unit to show a job's lengths in, and the pixels per inch that px means there."""
    own = own_unit()
    return unit_of(job) if own is None else (own, job.px_per_inch or CSS_PX_PER_INCH)


def paper_unit(job: Job | None = None) -> Unit:
    """The unit of sizes on paper, of which pixels say nothing; without a job millimetres."""
    unit = own_unit() or (unit_of(job)[0] if job is not None else Unit.MM)
    return Unit.MM if unit is Unit.PX else unit


def remember_unit(response: Response, unit: str) -> Response:
    """Keeps a unit as this person's; anything unknown is left alone."""
    if unit in UNIT_WORDS:
        response.set_cookie(_COOKIE, unit, max_age=_YEAR_SECONDS, samesite="Lax", httponly=True)
    return response
