"""Commands that need a studio say how it stands, and what to do."""

import os
import subprocess

import psycopg
import pytest

from tests.support.command import HARNET
from tests.support.databases import new_database


@pytest.fixture
def empty_database():
    """The address of a database without tables."""
    with new_database("empty") as url:
        yield url


def harnet_on(url, folder, *words):
    settings = {"HARNET_DATABASE": url, "HARNET_DATA": str(folder)}
    return subprocess.run(
        [HARNET, *words],
        capture_output=True,
        text=True,
        env=os.environ | settings,
        check=False,
        timeout=60,
    )


def test_a_studio_is_made_once(empty_database, tmp_path):
    for command in (("serve",), ("worker",), ("token", "a program")):
        run = harnet_on(empty_database, tmp_path, *command)
        assert run.returncode == 2 and "harnet init" in run.stderr
        assert "Traceback" not in run.stderr
    made = harnet_on(empty_database, tmp_path, "init")
    assert made.returncode == 0 and "is made" in made.stdout, made.stderr
    again = harnet_on(empty_database, tmp_path, "init")
    assert again.returncode == 0 and "was already up to date" in again.stdout
    assert harnet_on(empty_database, tmp_path, "token", "a program").returncode == 0


@pytest.mark.parametrize("revision, words", [("0013", "older"), ("9999", "newer")])
def test_one_of_another_version(empty_database, tmp_path, revision, words):
    assert harnet_on(empty_database, tmp_path, "init").returncode == 0
    address = empty_database.replace("+psycopg", "")
    with psycopg.connect(address, autocommit=True) as link:
        link.execute("update alembic_version set version_num = %s", (revision,))
    run = harnet_on(empty_database, tmp_path, "worker")
    assert run.returncode == 2 and words in run.stderr


def test_a_newer_one_is_not_touched(empty_database, tmp_path):
    assert harnet_on(empty_database, tmp_path, "init").returncode == 0
    address = empty_database.replace("+psycopg", "")
    with psycopg.connect(address, autocommit=True) as link:
        link.execute("update alembic_version set version_num = '9999'")
        run = harnet_on(empty_database, tmp_path, "init")
        assert run.returncode == 2 and "newer" in run.stderr
        assert link.execute("select version_num from alembic_version").fetchone() == ("9999",)


def test_a_database_that_does_not_answer(tmp_path):
    run = harnet_on("postgresql+psycopg://harnet@127.0.0.1:9/harnet", tmp_path, "serve")
    assert run.returncode == 2 and "does not answer" in run.stderr


def test_nothing_but_loopback_until_people_sign_in(empty_database, tmp_path):
    assert harnet_on(empty_database, tmp_path, "init").returncode == 0
    run = harnet_on(empty_database, tmp_path, "serve", "--host", "0.0.0.0")
    assert run.returncode == 2 and "--reviews-only" in run.stderr
