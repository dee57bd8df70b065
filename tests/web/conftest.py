"""Clients of the web application on a test's studio."""

import pytest

from harnet.web.app import create_app
from tests.support.clients import client_of


@pytest.fixture
def client(settings):
    with client_of(create_app(settings)) as client:
        yield client


@pytest.fixture
def open_client(settings):
    """A client whose changes need no token, to get at what lies behind."""
    with client_of(create_app(settings), needs_token=False) as client:
        yield client
