"""Clients of the web application, and what must be closed behind them."""

from collections.abc import Iterator
from contextlib import contextmanager

from flask import Flask
from flask.testing import FlaskClient


@contextmanager
def client_of(app: Flask, needs_token: bool = True) -> Iterator[FlaskClient]:
    """A client of an application; without a token's need it gets at what lies behind changes."""
    app.config["WTF_CSRF_ENABLED"] = needs_token
    yield app.test_client()
    if "queue" in app.extensions:
        app.extensions["queue"].close()
    app.extensions["studio"].engine.dispose()
