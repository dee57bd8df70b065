"""What gunicorn serves: `gunicorn harnet.web.serve:app`, or `:reviews` for review links alone."""

from functools import cache
from typing import Any

from harnet.studio.common.logs import configure_logging
from harnet.studio.common.studio import Settings
from harnet.web.app import create_app, create_review_app


@cache
def _made(reviews_only: bool) -> Any:
    configure_logging()
    make = create_review_app if reviews_only else create_app
    return make(Settings.from_environment())


def app(environ: Any, start_response: Any) -> Any:
    """The whole application."""
    return _made(False)(environ, start_response)


def reviews(environ: Any, start_response: Any) -> Any:
    """Review links and nothing else."""
    return _made(True)(environ, start_response)
