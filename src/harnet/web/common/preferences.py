"""What a person prefers in this browser, kept in cookies: preview, fit on placing, their name."""

from urllib.parse import quote, unquote

from flask import Response, after_this_request, g, request

from harnet.core.layout.placing import Adjusts, Fit
from harnet.web.common.signed_in import me

QUALITIES = ("placeholder", "light", "exact")
REACH = "reach"
FITS = {
    "native": None,
    REACH: None,
    "whole": Fit.CONTAIN,
    "cover": Fit.COVER,
    "stretch": Fit.STRETCH,
}
FIT_WORDS = {
    "native": "at native size",
    REACH: "at their reach",
    "whole": "whole, half the page wide",
    "cover": "to cover the frame",
    "stretch": "stretched to the frame",
}
_QUALITY, _FIT, _NAME = "harnet-quality", "harnet-fit", "harnet-name"
_ADJUSTS, _PROPORTION = "harnet-adjusts", "harnet-proportion"
_ADJUSTABLE = tuple(one.value for one in Adjusts)
_YEAR_SECONDS = 365 * 24 * 3600


def own_quality() -> str:
    """This person's preview quality."""
    value = request.cookies.get(_QUALITY, "")
    return value if value in QUALITIES else "light"


def preferred_fit_name() -> str:
    """How this person wants new placements to be fitted, by its plain name."""
    value = request.cookies.get(_FIT, "")
    return value if value in FITS else "native"


def remember(response: Response, quality: str = "", fit: str = "") -> Response:
    """Keeps what was chosen; anything unknown is left alone."""
    for name, value, known in ((_QUALITY, quality, QUALITIES), (_FIT, fit, tuple(FITS))):
        if value in known:
            response.set_cookie(name, value, max_age=_YEAR_SECONDS, samesite="Lax", httponly=True)
    return response


def own_adjusts() -> str:
    """What gave way the last time that this person scaled: the frame, or the crop."""
    value = request.cookies.get(_ADJUSTS, "")
    return value if value in _ADJUSTABLE else Adjusts.FRAME.value


def remember_adjusts(value: str) -> None:
    """Offers this choice the next time; anything unknown is left alone."""
    if value in _ADJUSTABLE:
        _keep(_ADJUSTS, value)


def keeps_proportion() -> bool:
    """Whether this person sets sizes by figures with the proportion kept."""
    return request.cookies.get(_PROPORTION) == "yes"


def remember_proportion(is_kept: bool) -> None:
    """Offers this choice the next time."""
    _keep(_PROPORTION, "yes" if is_kept else "no")


def _keep(name: str, value: str) -> None:
    if request.cookies.get(name) == value:
        return

    @after_this_request
    def keep(response: Response) -> Response:
        response.set_cookie(name, value, max_age=_YEAR_SECONDS, samesite="Lax", httponly=True)
        return response


def own_name() -> str:
    """The name that this person signed in with, or else accepted a finding with last."""
    just_given: str | None = g.get("own_name")
    return me().name or just_given or unquote(request.cookies.get(_NAME, ""))[:120]


def remember_name(name: str) -> None:
    """Offers this name the next time that someone is asked for one."""
    g.own_name = name.strip()[:120]

    @after_this_request
    def keep(response: Response) -> Response:
        kept = quote(name.strip()[:120])
        response.set_cookie(_NAME, kept, max_age=_YEAR_SECONDS, samesite="Lax", httponly=True)
        return response
