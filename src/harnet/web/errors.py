"""What goes wrong, as a sentence: a problem for a program, a notice in the page, or a page."""

from flask import Flask, Response, current_app, g, make_response, render_template, request
from flask_wtf.csrf import CSRFError, generate_csrf
from werkzeug.exceptions import HTTPException, SecurityError

from harnet.core.errors import HarnetError, ValueOutOfRange
from harnet.store.blobs import StoreAway
from harnet.store.database import DATABASE_AWAY
from harnet.studio.common.errors import Conflict, NotAllowed, NotSignedIn, NotThere, sentence_of
from harnet.web.api.problems import is_api_request, problem


def add_errors(app: Flask, page: str = "common/error.html") -> None:
    """Has every error answered; `page` is the template of a sentence that stands alone."""
    app.config["ERROR_PAGE"] = page
    app.register_error_handler(HarnetError, _known)
    app.register_error_handler(CSRFError, _too_old)
    app.register_error_handler(
        HTTPException, lambda error: _told(_HTTP.get(error.code, str(error.name)), error.code)
    )

    app.register_error_handler(
        RecursionError, lambda error: _told("This is nested too deep to be read.", 400)
    )

    for kind in (*DATABASE_AWAY, StoreAway):
        app.register_error_handler(kind, _away)

    @app.errorhandler(Exception)
    def unexpected(error: Exception) -> Response:
        app.logger.exception("request %s failed", g.get("request_id"))
        return _told(
            "Something went wrong inside Harnet; nothing was changed. If it happens again,"
            f" give whoever runs Harnet the number {g.get('request_id')}.",
            500,
        )


_DATABASE_AWAY = (
    "The database does not answer, or takes no changes at the moment. Nothing was changed; try"
    " again in a while."
)
_STORE_AWAY = (
    "The store of pictures and documents does not answer at the moment. Nothing was changed; try"
    " again in a while."
)


def _away(error: Exception) -> Response:
    """What Harnet needs is away: not this request's fault, and over soon."""
    cause = getattr(error, "orig", None) or error
    current_app.logger.warning(
        "request %s: %s: %s",
        g.get("request_id"),
        type(cause).__name__,
        " ".join(str(cause).split()),
    )
    is_store = isinstance(error, StoreAway)
    response = _told(_STORE_AWAY if is_store else _DATABASE_AWAY, 503, "unavailable")
    response.headers["Retry-After"] = "5"
    return response


def _known(error: HarnetError) -> Response:
    """An error that has a sentence of its own; one of the core is only a part of a sentence."""
    status = next((one for kind, one in _STATUSES.items() if isinstance(error, kind)), 422)
    sentence = sentence_of(error) if isinstance(error, ValueOutOfRange) else str(error)
    return _told(sentence, status, error.code)


def _too_old(error: CSRFError) -> Response:
    """A page whose session is gone gets a new one; what was typed stays, and is sent once more."""
    response = _told(
        "This page was open too long, so nothing was changed. What you typed is still here:"
        " try again.",
        400,
    )
    response.headers["X-CSRFToken"] = generate_csrf()
    return response


_STATUSES = {NotSignedIn: 401, NotAllowed: 403, NotThere: 404, Conflict: 409}
_HTTP = {
    400: "The request could not be understood; nothing was changed.",
    404: "There is nothing at this address.",
    405: "This method is not allowed here.",
    429: "Too many attempts failed. Wait a quarter of an hour, or ask an owner for a new password.",
    413: "The file is larger than the limit; none of it was saved.",
}


_STRANGE = (
    "Harnet does not answer to this host name. Add it to HARNET_HOSTS, or open 127.0.0.1 instead.\n"
)


def _error_page() -> str:
    """The page for an error: with the application's menu inside, without it behind a link."""
    is_outside = request.path.startswith("/review/")
    return "common/error_review.html" if is_outside else str(current_app.config["ERROR_PAGE"])


def _told(sentence: str, status: int, code: str | None = None) -> Response:
    """The sentence as a problem for a program, a notice inside the page, or a page of its own."""
    if isinstance(request.routing_exception, SecurityError):
        # Called by an untrusted name, there are no addresses that a page could hold.
        return Response(_STRANGE, 400, mimetype="text/plain")
    if is_api_request():
        return problem(status, sentence, code)
    if "HX-Request" in request.headers:
        response = make_response(
            render_template("common/_notice.html", sentence=sentence, status=status), status
        )
        response.headers["HX-Retarget"] = "#notice"
        response.headers["HX-Reswap"] = "innerHTML"
        return response
    if request.accept_mimetypes.best == "application/json":
        return make_response({"failure": sentence, "code": code}, status)
    return make_response(render_template(_error_page(), sentence=sentence, status=status), status)
