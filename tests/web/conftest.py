"""Clients of the web application on a test's studio."""

import pytest

from harnet.web.app import create_app


@pytest.fixture
def client(settings):
    app = create_app(settings)
    yield app.test_client()
    app.extensions["queue"].close()
    app.extensions["desk"].engine.dispose()


@pytest.fixture
def open_client(settings):
    """A client whose changes need no token, to get at what lies behind."""
    app = create_app(settings)
    app.config["WTF_CSRF_ENABLED"] = False
    yield app.test_client()
    app.extensions["queue"].close()
    app.extensions["desk"].engine.dispose()
