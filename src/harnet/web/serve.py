"""What gunicorn serves: `gunicorn harnet.web.serve:app`, or `:reviews` for review links alone."""

from threading import Lock
from typing import Any

from harnet.studio.common.logs import configure_logging
from harnet.studio.common.settings import Settings
from harnet.web.app import create_app, create_review_app

_making = Lock()
_apps: dict[bool, Any] = {}


def _made(reviews_only: bool) -> Any:
    """The application, made by the first request of this process; the others wait for it.

    Made twice at once, each would open connections of its own.
    """
    with _making:
        if reviews_only not in _apps:
            configure_logging()
            make = create_review_app if reviews_only else create_app
            _apps[reviews_only] = make(Settings.from_environment())
        return _apps[reviews_only]


def app(environ: Any, start_response: Any) -> Any:
    """The whole application."""
    return _made(False)(environ, start_response)


def reviews(environ: Any, start_response: Any) -> Any:
    """Review links and nothing else."""
    return _made(True)(environ, start_response)
