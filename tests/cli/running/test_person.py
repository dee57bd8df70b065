"""`harnet person`, `harnet token --person`, and serving beyond loopback."""

import json
import os
import socket
import subprocess
import time
import urllib.error
import urllib.request

import pytest

from harnet.studio.people.people import person_named
from harnet.studio.people.roles import Role
from harnet.studio.people.signing_in import sign_in
from harnet.studio.people.tokens import token_behind
from tests.support.command import HARNET


@pytest.fixture
def harnet(settings, studio):
    """Runs the command on the test's studio."""

    def run(*words, given="", **more):
        named = {
            "HARNET_DATABASE": settings.database_url,
            "HARNET_DATA": str(settings.data_folder),
        }
        return subprocess.run(
            [HARNET, *words],
            input=given,
            capture_output=True,
            text=True,
            env=os.environ | named | more,
            check=False,
            timeout=60,
        )

    return run


def test_from_the_first_owner_to_a_reviewer_that_is_disabled(harnet, studio):
    refused = harnet("person", "add", "Bo Quill")
    assert refused.returncode == 2 and "first person must be an owner" in refused.stderr
    made = harnet("person", "add", "Ada Lind", "--owner")
    assert made.returncode == 0, made.stderr
    with studio.session() as session:
        person = sign_in(session, "Ada Lind", made.stdout.strip())[0].person
        assert person.role == Role.OWNER.value and person.must_change_password
    assert harnet("person", "add", "Cleo Marsh", "--role", "reviewer").returncode == 0
    listed = json.loads(harnet("person", "list", "--format", "json").stdout)
    assert [(one["name"], one["role"]) for one in listed] == [
        ("Ada Lind", "owner"),
        ("Cleo Marsh", "reviewer"),
    ]
    assert harnet("person", "role", "cleo marsh", "designer").returncode == 0
    assert harnet("person", "disable", "Cleo Marsh").returncode == 0
    assert "disabled" in harnet("person", "list").stdout
    assert harnet("person", "enable", "Cleo Marsh").returncode == 0
    last = harnet("person", "disable", "Ada Lind")
    assert last.returncode == 2 and "only owner" in last.stderr
    unknown = harnet("person", "role", "Nobody", "owner")
    assert unknown.returncode == 2 and "Nobody is called Nobody" in unknown.stderr


def test_a_password_is_given_in_silence(harnet, studio):
    harnet("person", "add", "Ada Lind", "--owner")
    new = "nine lamps under the stair"
    run = harnet("person", "password", "Ada Lind", "--password-stdin", given=f"{new}\n")
    assert (run.returncode, run.stdout) == (0, "")
    with studio.session() as session:
        assert sign_in(session, "Ada Lind", new)
    short = harnet("person", "password", "Ada Lind", "--password-stdin", given="short\n")
    assert short.returncode == 2 and "12 to 200 characters" in short.stderr


def test_a_token_belongs_to_somebody(harnet, studio):
    assert harnet("token", "nightly check").returncode == 0
    harnet("person", "add", "Ada Lind", "--owner")
    refused = harnet("token", "nightly check")
    assert refused.returncode == 2 and "--person NAME" in refused.stderr
    made = harnet("token", "nightly check", "--person", "ada lind")
    with studio.session() as session:
        row = token_behind(session, made.stdout.strip())
        assert row.person is person_named(session, "Ada Lind")


@pytest.mark.parametrize(
    ("words", "more"), [(("--host", "0.0.0.0"), {}), ((), {"HARNET_TRUSTED_PROXIES": "1"})]
)
def test_others_reach_it_once_there_is_an_owner(harnet, words, more):
    refused = harnet("serve", *words, **more)
    assert refused.returncode == 2
    assert "harnet person add NAME --owner" in refused.stderr


def test_served_beyond_loopback_everyone_signs_in(harnet, settings, tmp_path):
    harnet("person", "add", "Ada Lind", "--owner")
    with socket.socket() as probe:
        probe.bind(("127.0.0.1", 0))
        port = probe.getsockname()[1]
    named = {"HARNET_DATABASE": settings.database_url, "HARNET_DATA": str(settings.data_folder)}
    server = subprocess.Popen(
        [HARNET, "serve", "--host", "0.0.0.0", "--port", str(port), "--processes", "2"],
        env=os.environ | named,
    )
    try:
        assert "/sign-in" in answer_of(f"http://127.0.0.1:{port}/jobs").geturl()
        # The figures of both processes, added up.
        metrics = answer_of(f"http://127.0.0.1:{port}/metrics").read().decode()
        assert 'harnet_requests_total{area="jobs",method="GET",status="302"}' in metrics
        assert "harnet_workers 0.0" in metrics
    finally:
        server.terminate()
        server.wait(20)


def answer_of(address):
    """What a server that is starting answers in the end."""
    for _ in range(300):
        try:
            return urllib.request.urlopen(address, timeout=10)
        except urllib.error.HTTPError:
            raise
        except OSError:
            time.sleep(0.1)
    raise AssertionError("it never answered")
