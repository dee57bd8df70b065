"""A studio that is lost and comes back from its backup, with other addresses."""

import json
import os
import subprocess
from dataclasses import replace

import pytest

from harnet.standins.studio import open_studio
from harnet.store.database import migrate
from harnet.store.tables.documents import Document
from harnet.store.tables.pictures import Picture
from harnet.studio.common.settings import Settings, secret_of
from harnet.studio.documents.keeping import read_pdf
from harnet.studio.documents.uploads import add_document
from harnet.studio.pictures.importing import import_picture
from harnet.studio.pictures.picture import path_of
from harnet.studio.pictures.shelves import shelf_named
from harnet.studio.running import backup
from harnet.studio.running.backup import BackupRefused, back_up, restore
from harnet.studio.targets.targets import target_with
from tests.support.buckets import bucket_server, new_bucket
from tests.support.command import HARNET, flyer
from tests.support.databases import new_database
from tests.support.packages import picture


@pytest.fixture
def busy(tmp_path):
    """A studio with a picture and a checked document, and its settings."""
    with new_database("busy") as url:
        migrate(url)
        settings = Settings(url, tmp_path / "data")
        studio = open_studio(settings)
        secret_of(settings)
        (tmp_path / "gull.jpg").write_bytes(picture(300, 200))
        flyer(tmp_path / "flyer.pdf", 100)
        with studio.session() as session:
            shelf = shelf_named(studio, session, "Harbour")
            with (tmp_path / "gull.jpg").open("rb") as file:
                import_picture(studio, session, shelf, "gull.jpg", file)
            with (tmp_path / "flyer.pdf").open("rb") as file:
                target = target_with(session, "coated")
                document = add_document(studio, session, "flyer.pdf", file, target)
                number = document.id
        read_pdf(studio, number)
        yield studio
        studio.engine.dispose()


@pytest.fixture
def elsewhere(tmp_path):
    """Settings of another machine: an empty database and another folder."""
    with new_database("elsewhere") as url:
        yield Settings(url, tmp_path / "another machine" / "data")


def test_a_studio_comes_back_whole(busy, elsewhere, tmp_path):
    made = back_up(busy.settings, tmp_path / "backup")
    assert made.files >= 4
    restored = restore(elsewhere, tmp_path / "backup")
    assert restored == made
    studio = open_studio(elsewhere)
    with studio.session() as session:
        document = session.query(Document).one()
        assert (document.file_name, document.state) == ("flyer.pdf", "done")
        assert studio.blobs.open(document.sha256).read() == (tmp_path / "flyer.pdf").read_bytes()
        gull = session.query(Picture).one()
        # Its shelf lies where the data lie now.
        assert path_of(gull).is_relative_to(elsewhere.data_folder)
        assert path_of(gull).read_bytes() == (tmp_path / "gull.jpg").read_bytes()
    studio.engine.dispose()
    assert secret_of(elsewhere) == secret_of(busy.settings)


def test_what_is_written_meanwhile_does_no_harm(busy, elsewhere, tmp_path, monkeypatch):
    """The dump is of one moment; a file that arrives after it comes along unnamed."""
    (tmp_path / "late.pdf").write_bytes((tmp_path / "flyer.pdf").read_bytes() + b"\n")
    dump = backup._dump

    def dump_then_upload(*where):
        dump(*where)
        with busy.session() as session, (tmp_path / "late.pdf").open("rb") as file:
            add_document(busy, session, "late.pdf", file, target_with(session, "coated"))

    monkeypatch.setattr(backup, "_dump", dump_then_upload)
    back_up(busy.settings, tmp_path / "backup")
    restore(elsewhere, tmp_path / "backup")
    studio = open_studio(elsewhere)
    with studio.session() as session:
        assert [one.file_name for one in session.query(Document)] == ["flyer.pdf"]
    studio.engine.dispose()


@pytest.mark.parametrize("change", ["spoilt", "gone", "manifest", "outside", "newer"])
def test_a_backup_that_is_not_as_it_was_restores_nothing(busy, elsewhere, tmp_path, change):
    folder = tmp_path / "backup"
    back_up(busy.settings, folder)
    some = next(one for one in (folder / "files" / "blobs").rglob("*") if one.is_file())
    manifest = json.loads((folder / "manifest.json").read_text())
    if change == "spoilt":
        some.write_bytes(b"x" + some.read_bytes()[1:])
    elif change == "gone":
        some.unlink()
    elif change == "manifest":
        (folder / "manifest.json").unlink()
    elif change == "newer":
        (folder / "manifest.json").write_text(json.dumps(manifest | {"tables": "9999"}))
    else:
        manifest["files"]["../../outside"] = [1, "0" * 64]
        (folder / "manifest.json").write_text(json.dumps(manifest))
    with pytest.raises(BackupRefused):
        restore(elsewhere, folder)
    assert not elsewhere.data_folder.exists()
    # Nothing stands in the way of the right one.
    with pytest.raises(BackupRefused, match="no whole backup"):
        restore(elsewhere, tmp_path / "nowhere")


def test_a_restore_that_fails_leaves_nothing_in_the_way(busy, elsewhere, tmp_path, monkeypatch):
    made = back_up(busy.settings, tmp_path / "backup")
    with monkeypatch.context() as without:
        without.setenv("PATH", str(tmp_path / "no programs"))
        with pytest.raises(BackupRefused, match="pg_restore is not installed"):
            restore(elsewhere, tmp_path / "backup")
    assert restore(elsewhere, tmp_path / "backup") == made


def test_nothing_is_written_over(busy, tmp_path):
    back_up(busy.settings, tmp_path / "backup")
    with pytest.raises(BackupRefused, match="is not empty"):
        back_up(busy.settings, tmp_path / "backup")
    with pytest.raises(BackupRefused, match="There is a studio in this database"):
        restore(busy.settings, tmp_path / "backup")


def test_a_full_or_missing_disk_is_told(busy, tmp_path):
    with pytest.raises(BackupRefused, match="The backup is not whole"):
        back_up(busy.settings, tmp_path / "flyer.pdf" / "backup")
    away = replace(busy.settings, database_url="postgresql+psycopg://nobody@127.0.0.1:1/none")
    with pytest.raises(BackupRefused, match="pg_dump failed"):
        back_up(away, tmp_path / "other")


def test_the_commands(busy, elsewhere, tmp_path):
    def run(settings, *words):
        own = {
            "HARNET_DATABASE": settings.database_url,
            "HARNET_DATA": str(settings.data_folder),
        }
        return subprocess.run(
            [HARNET, *words], env=os.environ | own, capture_output=True, text=True, check=False
        )

    folder = str(tmp_path / "backup")
    made = run(busy.settings, "backup", folder)
    assert (made.returncode, "backed up" in made.stdout) == (0, True), made.stderr
    again = run(busy.settings, "backup", folder)
    assert (again.returncode, "is not empty" in again.stderr) == (2, True)
    back = run(elsewhere, "restore", folder)
    assert (back.returncode, "restored" in back.stdout) == (0, True), back.stderr
    well = run(elsewhere, "doctor", "--format", "json")
    told = {one["part"]: one["is_well"] for one in json.loads(well.stdout)}
    assert told["tables"] and told["store"]


class TestWithABucket:
    @pytest.fixture(scope="class")
    def server(self):
        with bucket_server() as address:
            yield address

    @pytest.fixture
    def bucketed(self, server, tmp_path):
        """A studio whose bytes and shelves lie in a bucket, with a picture; its settings."""
        with new_database("bucketed") as url:
            migrate(url)
            settings = in_bucket(Settings(url, tmp_path / "data"), server)
            studio = open_studio(settings)
            (tmp_path / "gull.jpg").write_bytes(picture(300, 200))
            with studio.session() as session, (tmp_path / "gull.jpg").open("rb") as file:
                shelf = shelf_named(studio, session, "Harbour")
                import_picture(studio, session, shelf, "gull.jpg", file)
            studio.engine.dispose()
            yield settings

    def test_it_comes_back_in_another_bucket(self, bucketed, elsewhere, server, tmp_path):
        back_up(bucketed, tmp_path / "backup")
        settings = in_bucket(elsewhere, server)
        restore(settings, tmp_path / "backup")
        studio = open_studio(settings)
        with studio.session() as session:
            gull = session.query(Picture).one()
            assert path_of(gull).read_bytes() == (tmp_path / "gull.jpg").read_bytes()
        studio.engine.dispose()

    def test_it_comes_back_with_its_bytes_in_a_folder(self, bucketed, elsewhere, tmp_path):
        back_up(bucketed, tmp_path / "backup")
        restore(elsewhere, tmp_path / "backup")
        studio = open_studio(elsewhere)
        with studio.session() as session:
            gull = session.query(Picture).one()
            # The shelf still says that its files lie in the store, which is a folder now.
            assert path_of(gull).read_bytes() == (tmp_path / "gull.jpg").read_bytes()
            assert path_of(gull).is_relative_to(elsewhere.data_folder)
        studio.engine.dispose()


def in_bucket(settings, server):
    url = f"{new_bucket(server)}/harnet"
    return replace(settings, store_url=url, store_endpoint=server, shelves="store")
