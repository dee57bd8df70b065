"""A clock that jumps: nobody is let in for longer by it, and nothing is done twice."""

from datetime import timedelta

import pytest

from harnet.store import base
from harnet.studio.people import attempts, signing_in
from harnet.studio.people.attempts import attempts_of, count_attempt
from harnet.studio.people.signing_in import sign_in, signed_in
from tests.support.people import PASSWORD, people_of


@pytest.fixture
def jump(monkeypatch):
    """Sets the clock forward or back, for what looks at it from now on."""

    def to(by):
        for module in (signing_in, attempts):
            monkeypatch.setattr(module, "now_utc", lambda: base.now_utc() + by)

    return to


@pytest.fixture
def key(studio):
    people_of(studio)
    with studio.session() as session:
        return sign_in(session, "Bo Quill", PASSWORD)[1]


def is_in(studio, key):
    with studio.session() as session:
        return signed_in(session, key, studio.settings.expiry) is not None


def test_forward_and_back_a_sign_in_lasts_as_long_as_it_may(studio, key, jump):
    assert is_in(studio, key)
    # Back by an hour: it was made in the future, and holds.
    jump(timedelta(hours=-1))
    assert is_in(studio, key)
    jump(timedelta(hours=11))
    assert is_in(studio, key)
    # It was seen then; coming back does not end it, and does not let it last for ever.
    jump(timedelta())
    assert is_in(studio, key)
    jump(timedelta(days=15))
    assert not is_in(studio, key)


def test_what_is_counted_is_forgotten_in_time(studio, jump):
    with studio.session() as session:
        assert [count_attempt(session, "quay", 900) for _ in range(3)] == [1, 2, 3]
    jump(timedelta(hours=-2))
    with studio.session() as session:
        assert count_attempt(session, "quay", 900) == 4
    jump(timedelta(hours=1))
    with studio.session() as session:
        assert attempts_of(session, "quay")[0] == 0
        assert count_attempt(session, "quay", 900) == 1
