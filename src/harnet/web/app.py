"""Puts the application together: blueprints, safety headers, errors, words for templates."""

import json
import time
import uuid
from http import HTTPStatus

from apiflask import APIFlask
from flask import Flask, Response, g, request
from flask.sessions import SecureCookieSessionInterface
from flask_compress import Compress
from flask_wtf.csrf import CSRFProtect
from markupsafe import Markup
from werkzeug.local import LocalProxy
from werkzeug.middleware.proxy_fix import ProxyFix
from werkzeug.routing import IntegerConverter

from harnet.core.documents.places import found_where, where_text
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
from harnet.studio.common.logs import log_request
from harnet.studio.common.settings import Settings, secret_of
from harnet.web import files, glossary, guide_pages, schemas
from harnet.web.access.guard import add_guard
from harnet.web.api.door import ADDRESS, CONFIG, open_door
from harnet.web.areas import blueprints, resources
from harnet.web.common.filters import FILTERS
from harnet.web.common.limits import limiter
from harnet.web.common.shared import idle_sentence, listed_targets
from harnet.web.common.signed_in import me
from harnet.web.common.static import (
    FOREVER_SECONDS,
    packed_for_good,
    script_names,
    static_version,
)
from harnet.web.common.static import blueprint as anystatic
from harnet.web.common.units import UNIT_WORDS, own_unit_name
from harnet.web.drawing.marks import sprite
from harnet.web.drawing.pages import crop_of
from harnet.web.errors import add_errors
from harnet.web.pictures.sizes import UNITS
from harnet.web.preflight import review
from harnet.web.running.metrics import count_requests
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


class BrowserSession(SecureCookieSessionInterface):
    """The session in a cookie, which goes back by TLS alone where it came by TLS."""

    def get_cookie_secure(self, app: Flask) -> bool:
        """Whether the cookie is for TLS alone."""
        return request.is_secure or super().get_cookie_secure(app)


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
        static_url_path=f"/static/{static_version()}",
    )
    app.session_interface = BrowserSession()
    app.url_map.converters["int"] = RowNumber
    app.config.update(
        SECRET_KEY=secret_key or secret_of(settings),
        TRUSTED_HOSTS=list(settings.hosts),
        MAX_CONTENT_LENGTH=MAX_FILE_BYTES + 1_000_000,
        MAX_FORM_MEMORY_SIZE=2_000_000,
        SESSION_COOKIE_SAMESITE="Lax",
        PERMANENT_SESSION_LIFETIME=settings.expiry.whole,
        WTF_CSRF_TIME_LIMIT=None,
        **CONFIG,
    )
    app.extensions["studio"] = open_studio(settings)
    queue = queue_on(settings)
    queue.open()
    app.extensions["queue"] = queue
    if settings.proxies:
        proxies = settings.proxies
        app.wsgi_app = ProxyFix(app.wsgi_app, x_for=proxies, x_proto=proxies, x_host=proxies)  # type: ignore[method-assign]
    csrf = CSRFProtect(app)
    limiter.init_app(app)
    _pack(app)
    shared = (
        anystatic,
        files.blueprint,
        glossary.blueprint,
        guide_pages.blueprint,
        schemas.blueprint,
    )
    for blueprint in (*shared, *blueprints()):
        app.register_blueprint(blueprint)
    open_door(app, csrf, resources())
    _add_words(app)
    _add_safety(app)
    add_guard(app)
    count_requests(app)
    add_errors(app)
    return app


def create_review_app(settings: Settings) -> Flask:
    """An application that answers review links and nothing else, for a port of its own.

    Whoever reaches that port may call it by any name.
    """
    app = Flask(__name__, static_url_path=f"/static/{static_version()}")
    app.url_map.converters["int"] = RowNumber
    app.config.update(SECRET_KEY=secret_of(settings), MAX_CONTENT_LENGTH=1_000)
    _pack(app)
    app.extensions["studio"] = open_studio(settings)
    app.register_blueprint(anystatic)
    app.register_blueprint(review.readers)
    _add_words(app)
    _add_safety(app)
    add_errors(app, "common/error_review.html")
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
        found_where=found_where,
        where_text=where_text,
        calculator_units=UNITS,
        key_list=_KEYS,
        unit_words=UNIT_WORDS,
        guide_of_area=guide_pages.GUIDE_OF_AREA,
        own_unit_name=own_unit_name,
        script_names=script_names,
        me=LocalProxy(me),
    )
    app.jinja_env.trim_blocks = app.jinja_env.lstrip_blocks = True


def _pack(app: Flask) -> None:
    """Has texts go over the wire compressed; pictures are already."""
    app.config.update(COMPRESS_ALGORITHM=["br", "gzip", "deflate"], COMPRESS_REGISTER=False)
    compress = Compress(app)

    @app.after_request
    def packed(response: Response) -> Response:
        # A range counts the bytes of the file as it is.
        if response.status_code == HTTPStatus.PARTIAL_CONTENT:
            return response
        if request.endpoint == "static" and packed_for_good(response):
            return response
        return compress.after_request(response)


def _add_safety(app: Flask) -> None:
    @app.before_request
    def name_request() -> None:
        g.request_id, g.begun = uuid.uuid4().hex[:8], time.perf_counter()

    @app.after_request
    def add_headers(response: Response) -> Response:
        response.headers.setdefault("Content-Security-Policy", _POLICY)
        response.headers["X-Content-Type-Options"] = "nosniff"
        response.headers["Referrer-Policy"] = "same-origin"
        if request.endpoint == "static" and response.status_code < 400:
            response.headers["Cache-Control"] = f"public, max-age={FOREVER_SECONDS}, immutable"
        response.headers.setdefault("Cache-Control", "no-store")
        _keep_cookies_private(response)
        response.headers["X-Request-ID"] = g.get("request_id", "")
        area = request.blueprint or "-"
        what = f"{request.method} {request.path}"
        who = me().name
        log_request(
            g.get("request_id", "-"), who, area, what, response.status_code, g.get("begun", 0.0)
        )
        return response


def _keep_cookies_private(response: Response) -> None:
    """Cookies that came by TLS go back by TLS alone."""
    if request.is_secure:
        cookies = response.headers.getlist("Set-Cookie")
        response.headers.setlist(
            "Set-Cookie", [one if "; Secure" in one else f"{one}; Secure" for one in cookies]
        )
