"""Whether Harnet says that it is alive and ready, and stops saying so when it is not."""

import shutil

import pytest
from sqlalchemy import text

from harnet.studio.running import health
from harnet.studio.running.health import all_checks


def test_alive_and_ready(client):
    assert client.get("/health/live").get_json() == {"state": "alive"}
    answer = client.get("/health/ready")
    told = answer.get_json()
    assert (answer.status_code, told["state"]) == (200, "ready")
    assert {name: one["is_well"] for name, one in told["checks"].items()} == {
        "database": True,
        "tables": True,
        "store": True,
        # Nobody works in a test; what waits is done later.
        "worker": False,
    }
    assert "harnet worker" in told["checks"]["worker"]["sentence"]


def test_older_tables_are_not_ready(client, studio):
    with studio.engine.begin() as link:
        number = link.execute(text("select version_num from alembic_version")).scalar_one()
        link.execute(text("update alembic_version set version_num = '0001'"))
    try:
        answer = client.get("/health/ready")
        assert (answer.status_code, answer.get_json()["state"]) == (503, "not ready")
        assert "harnet init" in answer.get_json()["checks"]["tables"]["sentence"]
    finally:
        with studio.engine.begin() as link:
            link.execute(text("update alembic_version set version_num = :n"), {"n": number})


def test_a_store_that_cannot_be_written(client, studio, monkeypatch):
    def full(*_arguments):
        raise OSError(28, "No space left on device")

    monkeypatch.setattr(type(studio.blobs), "put_preview", full)
    answer = client.get("/health/ready")
    assert answer.status_code == 503
    told = answer.get_json()["checks"]["store"]
    assert told == {
        "is_well": False,
        "sentence": "Nothing can be written: no space left on device.",
    }


def test_disk_clock_fonts_and_libraries(studio, monkeypatch):
    found = {one.name: one for one in all_checks(studio)}
    assert all(found[one].is_well for one in ("disk", "clock", "fonts", "libraries"))
    usage = shutil.disk_usage(studio.settings.data_folder)
    monkeypatch.setattr(health.shutil, "disk_usage", lambda _path: usage._replace(free=5_000_000))
    monkeypatch.setattr(health, "_MOST_SKEW_SECONDS", -1.0)
    monkeypatch.setattr(health, "_LIBRARIES", ("pikepdf", "not_a_library"))
    found = {one.name: one for one in all_checks(studio)}
    assert found["disk"].sentence.startswith("5.0 MB are free. Outputs need more")
    assert not found["clock"].is_well
    assert found["libraries"].sentence.startswith("not_a_library cannot be loaded")


@pytest.mark.parametrize("address", ["/health/live", "/health/ready"])
def test_they_change_nothing(client, address):
    assert client.post(address).status_code == 405
