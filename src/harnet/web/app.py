"""Puts the application together: blueprints, safety headers, errors, words for templates."""

import json
import time
import uuid

from apiflask import APIFlask
from flask import Flask, Response, current_app, g, make_response, render_template, request
from flask_wtf.csrf import CSRFError, CSRFProtect, generate_csrf
from markupsafe import Markup
from werkzeug.exceptions import HTTPException, SecurityError
from werkzeug.routing import IntegerConverter

from harnet.core.errors import HarnetError, ValueOutOfRange
from harnet.core.measure.verdict import Verdict
from harnet.core.measure.wording import (
    bytes_text,
    counted,
    grouped,
    memory_text,
    ppi_text,
    px_text,
    share_text,
)
from harnet.core.pictures.colour_words import colour_text, colour_word
from harnet.media.limits import MAX_FILE_BYTES
from harnet.standins.studio import open_studio
from harnet.studio.common.errors import Conflict, NotThere, sentence_of
from harnet.studio.common.logs import log_request
from harnet.studio.common.studio import Settings, secret_of
from harnet.web import files, glossary, guide_pages, schemas
from harnet.web.api.door import ADDRESS, CONFIG, open_door
from harnet.web.api.problems import is_api_request, problem
from harnet.web.areas import blueprints, resources
from harnet.web.common.drawing import crop_of
from harnet.web.common.filters import FILTERS
from harnet.web.common.marks import sprite
from harnet.web.common.shared import idle_sentence, listed_targets
from harnet.web.common.units import UNIT_WORDS, own_unit_name
from harnet.web.pictures.sizes import UNITS
from harnet.web.preflight import review
from harnet.worker.tasks import queue_on

_POLICY = (
    "default-src 'none'; script-src 'self'; style-src 'self'; img-src 'self' data: blob:;"
    " font-src 'self'; connect-src 'self'; form-action 'self'; base-uri 'none';"
    " frame-ancestors 'none'"
)
_HTMX = {
    "includeIndicatorStyles": False,
    "allowEval": False,
    # Without a pause, so that a key pressed right after a swap finds its button at work.
    "defaultSettleDelay": 0,
    "responseHandling": [
        {"code": "204", "swap": False},
        {"code": "[23]..", "swap": True},
        {"code": "[45]..", "swap": True, "error": True},
    ],
}


class RowNumber(IntegerConverter):
    """A number in an address that a row can have; a larger one leads nowhere."""

    regex = r"\d{1,9}"


def create_app(settings: Settings, secret_key: str | None = None) -> Flask:
    """The application on a studio; without a key it takes the one kept beside the studio's data."""
    app = APIFlask(
        __name__,
        title="Harnet",
        version="1",
        docs_path=None,
        spec_path=f"{ADDRESS}/openapi.json",
        json_errors=False,
    )
    app.url_map.converters["int"] = RowNumber
    app.config.update(
        SECRET_KEY=secret_key or secret_of(settings),
        TRUSTED_HOSTS=list(settings.hosts),
        MAX_CONTENT_LENGTH=MAX_FILE_BYTES + 1_000_000,
        MAX_FORM_MEMORY_SIZE=2_000_000,
        SESSION_COOKIE_SAMESITE="Lax",
        WTF_CSRF_TIME_LIMIT=None,
        **CONFIG,
    )
    app.extensions["studio"] = open_studio(settings)
    queue = queue_on(settings)
    queue.open()
    app.extensions["queue"] = queue
    csrf = CSRFProtect(app)
    shared = (files.blueprint, glossary.blueprint, guide_pages.blueprint, schemas.blueprint)
    for blueprint in (*shared, *blueprints()):
        app.register_blueprint(blueprint)
    open_door(app, csrf, resources())
    _add_words(app)
    _add_safety(app)
    _add_errors(app)
    return app


def create_review_app(settings: Settings) -> Flask:
    """An application that answers review links and nothing else, for a port of its own.

    Whoever reaches that port may call it by any name.
    """
    app = Flask(__name__)
    app.url_map.converters["int"] = RowNumber
    app.config.update(SECRET_KEY=secret_of(settings), MAX_CONTENT_LENGTH=1_000)
    app.extensions["studio"] = open_studio(settings)
    app.register_blueprint(review.readers)
    _add_words(app)
    _add_safety(app)
    _add_errors(app, "common/error_review.html")
    return app


_KEYS = {
    "Everywhere": (
        ("?", "keys and actions of this page"),
        ("/", "find jobs, pictures, documents, text and findings"),
        ("Ctrl+Z Ctrl+Y", "undo and redo in a job"),
    ),
    "Pages": (
        (", .", "page back and forward"),
        ("Alt+PageUp Alt+PageDown", "move the page, or those picked in the strip"),
        ("n p", "next and previous finding"),
        ("q", "preview quality: placeholder, light, exact"),
        ("t", "true size"),
        ("b", "hide and show the badges"),
        ("l", "press loupe; arrows move it, a click holds it"),
        ("r", "scale to reach"),
        ("e", "scale to native"),
        ("Space", "hold: move the picture inside its frame"),
        ("Enter Escape", "enter and leave the frame; Escape also gives up a drag"),
        ("← ↑ → ↓", "nudge; with Shift ten times as far"),
        ("Shift", "hold: select several; rotate and draw lines in steps of 15°"),
        ("Alt", "hold: move and size without snapping"),
        ("Ctrl+C Ctrl+V Ctrl+D", "copy, paste on any page of any job, duplicate"),
        ("Delete", "remove from page"),
    ),
    "Preflight": (("n p", "next and previous finding"),),
    "Ledger": ((", .", "page of the list back and forward"),),
}
"""Keys by area, as the list under ? has them."""


def _add_words(app: Flask) -> None:
    app.jinja_env.filters.update(
        FILTERS,
        bytes=bytes_text,
        colour_text=colour_text,
        colour_word=colour_word,
        grouped=grouped,
        memory=memory_text,
        ppi=ppi_text,
        share=share_text,
        signed_share=lambda share: share_text(share, signed=True),
        counted=counted,
    )
    app.jinja_env.globals.update(
        px_text=px_text,
        sprite=Markup(sprite()),
        verdicts=list(Verdict),
        listed_targets=listed_targets,
        idle_sentence=idle_sentence,
        htmx_config=json.dumps(_HTMX),
        crop_of=crop_of,
        calculator_units=UNITS,
        key_list=_KEYS,
        unit_words=UNIT_WORDS,
        guide_of_area=guide_pages.GUIDE_OF_AREA,
        own_unit_name=own_unit_name,
    )
    app.jinja_env.trim_blocks = app.jinja_env.lstrip_blocks = True


def _add_safety(app: Flask) -> None:
    @app.before_request
    def name_request() -> None:
        g.request_id, g.begun = uuid.uuid4().hex[:8], time.perf_counter()

    @app.after_request
    def add_headers(response: Response) -> Response:
        response.headers.setdefault("Content-Security-Policy", _POLICY)
        response.headers["X-Content-Type-Options"] = "nosniff"
        response.headers["Referrer-Policy"] = "same-origin"
        response.headers.setdefault("Cache-Control", "no-store")
        response.headers["X-Request-ID"] = g.get("request_id", "")
        area = request.blueprint or "-"
        what = f"{request.method} {request.path}"
        log_request(g.get("request_id", "-"), area, what, response.status_code, g.get("begun", 0.0))
        return response


def _add_errors(app: Flask, page: str = "common/error.html") -> None:
    """`page` is the template of a sentence that stands alone."""
    app.config["ERROR_PAGE"] = page
    app.register_error_handler(HarnetError, _known)
    app.register_error_handler(CSRFError, _too_old)
    app.register_error_handler(
        HTTPException, lambda error: _told(_HTTP.get(error.code, str(error.name)), error.code)
    )

    app.register_error_handler(
        RecursionError, lambda error: _told("This is nested too deep to be read.", 400)
    )

    @app.errorhandler(Exception)
    def unexpected(error: Exception) -> Response:
        app.logger.exception("request %s failed", g.get("request_id"))
        return _told(
            "Something went wrong inside Harnet; nothing was changed. If it happens again,"
            f" give whoever runs Harnet the number {g.get('request_id')}.",
            500,
        )


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


_STATUSES = {NotThere: 404, Conflict: 409}
_HTTP = {
    400: "The request could not be understood; nothing was changed.",
    404: "There is nothing at this address.",
    405: "This method is not allowed here.",
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
