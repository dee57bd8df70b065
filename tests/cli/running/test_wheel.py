"""The wheel holds everything that Harnet needs, and starts in an environment of its own."""

import os
import socket
import subprocess
import sysconfig
import time
import urllib.error
import urllib.request
import venv
import zipfile
from pathlib import Path

import pytest

from tests.support.databases import new_database

ROOT = Path(__file__).parents[3]
LONG = 120
INSIDE = (
    "harnet/media/fonts/sans-400.ttf",
    "harnet/schemas/document-check.schema.json",
    "harnet/store/migrations/env.py",
    "harnet/store/migrations/versions/0021_any_document.py",
    "harnet/studio/templates/document_report.html",
    "harnet/web/guide/2-check.md",
    "harnet/web/guide/screenshots/check-a-document.png",
    "harnet/web/static/harnet.css",
    "harnet/web/static/vendor/htmx.min.js",
    "harnet/web/static/vendor/fonts/ui.woff2",
    "harnet/web/templates/documents/_check.html",
)


def test_everything_is_inside(wheel):
    with zipfile.ZipFile(wheel) as file:
        names = set(file.namelist())
    assert [one for one in INSIDE if one not in names] == []
    assert not any(one.startswith(("tests/", "var/", "docs/")) for one in names)


@pytest.fixture(scope="module")
def installed(wheel, tmp_path_factory):
    """The commands of an environment with the wheel in it; what it depends on comes from here."""
    folder = tmp_path_factory.mktemp("environment")
    venv.create(folder, with_pip=True)
    python = folder / "bin" / "python"
    command = [python, "-m", "pip", "install", "--quiet", "--no-deps", wheel]
    subprocess.run(command, check=True, timeout=LONG)
    own = subprocess.run(
        [python, "-c", "import sysconfig; print(sysconfig.get_paths()['purelib'])"],
        capture_output=True,
        text=True,
        check=True,
    ).stdout.strip()
    # Behind its own packages, so that Harnet itself is the one of the wheel.
    Path(own, "dependencies.pth").write_text(sysconfig.get_paths()["purelib"] + "\n")
    return folder / "bin"


def run(command, environment, cwd):
    return subprocess.run(
        command, env=environment, cwd=cwd, capture_output=True, text=True, check=False, timeout=LONG
    )


def fetched(address):
    with urllib.request.urlopen(address, timeout=10) as answer:
        return answer.status, answer.read()


def test_a_studio_is_made_and_served(installed, tmp_path):
    clean = {name: value for name, value in os.environ.items() if not name.startswith("HARNET")}
    clean.pop("PYTHONPATH", None)
    where = run([installed / "python", "-c", "import harnet; print(harnet.__file__)"], clean, "/")
    assert str(installed.parent) in where.stdout, where.stderr
    with new_database("wheel") as url, socket.socket() as free:
        settings = clean | {"HARNET_DATABASE": url, "HARNET_DATA": str(tmp_path / "data")}
        made = run([installed / "harnet", "init"], settings, tmp_path)
        assert made.returncode == 0, made.stderr
        free.bind(("127.0.0.1", 0))
        port = free.getsockname()[1]
        free.close()
        log = (tmp_path / "log").open("wb")
        command = [installed / "harnet", "serve", "--port", str(port), "--processes", "2"]
        server = subprocess.Popen(command, env=settings, cwd=tmp_path, stdout=log, stderr=log)
        try:
            address = f"http://127.0.0.1:{port}"
            status, body = _once_up(f"{address}/health/ready", server)
            assert (status, b'"ready"' in body) == (200, True)
            assert b"Check a document" in fetched(f"{address}/documents")[1]
            assert fetched(f"{address}/static/any/vendor/htmx.min.js")[0] == 200
            assert fetched(f"{address}/schemas/document-check.schema.json")[0] == 200
        finally:
            server.terminate()
            server.wait(30)
            log.close()


def _once_up(address, server):
    """The answer of a server that may still be starting."""
    until = time.monotonic() + LONG
    while time.monotonic() < until:
        assert server.poll() is None, "the server has ended"
        try:
            return fetched(address)
        except (urllib.error.URLError, ConnectionError):
            time.sleep(0.2)
    raise AssertionError("the server does not answer")
