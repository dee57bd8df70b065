"""A studio's database and files at one moment, kept in a folder, and made into a studio again.

The database is dumped first, in one transaction, while the studio works. Bytes are written before
the row that names them is committed, never change, and stay for a day after nothing names them: so
all that the dump names is there when files are copied after it.
"""

import json
import os
import shutil
import subprocess
from collections.abc import Callable, Iterator
from dataclasses import dataclass
from functools import partial
from hashlib import file_digest
from pathlib import Path
from typing import Any
from urllib.parse import unquote, urlsplit, urlunsplit

from sqlalchemy import select, update

from harnet.core.errors import HarnetError
from harnet.core.measure.wording import counted, first_of
from harnet.store.base import now_utc
from harnet.store.database import (
    engine_for,
    migrate,
    state_of_tables,
    state_of_version,
    version_of_tables,
)
from harnet.store.tables.pictures import Shelf
from harnet.studio.common.settings import Settings, store_of

MANIFEST, DUMP, FILES = "manifest.json", "database.dump", "files"
_FORMAT, _VERSION = "harnet backup", 1
SHELVES, _BYTES = "shelves", "blobs"
_LEFT_OUT = ("scratch", "metrics-")
"""How folders begin whose files are made again."""
_MOST_NAMED = 5
Tell = Callable[[str], None]


class BackupRefused(HarnetError):
    """A backup that cannot be made or restored: why, and what to do."""

    code = "backup-refused"


@dataclass(frozen=True, slots=True)
class BackupSummary:
    """What a backup holds: files and bytes, the dump included; when it was made."""

    files: int
    size_bytes: int
    made_at: str


def back_up(settings: Settings, folder: Path, tell: Tell = lambda _what: None) -> BackupSummary:
    """Writes the database and the files into a new folder; what is cut short is no backup.

    Raises:
        BackupRefused: the folder is there and not empty, or something cannot be read or written.
    """
    if folder.exists() and any(folder.iterdir()):
        raise BackupRefused(f"{folder} is not empty. Name a new folder; nothing is written over.")
    try:
        folder.mkdir(parents=True, exist_ok=True)
        tell("the database")
        _dump(settings.database_url, folder / DUMP)
        files: dict[str, list[Any]] = {}
        for name, copy in _sources(settings):
            try:
                copied = _copied(copy, folder / FILES / name)
            except FileNotFoundError:
                # Cleared since it was listed: nothing names it.
                continue
            files[name] = copied
            if len(files) % 1000 == 0:
                tell(counted(len(files), "file"))
        manifest = {
            "format": _FORMAT,
            "version": _VERSION,
            "made_at": now_utc().isoformat(timespec="seconds"),
            "data_folder": str(settings.data_folder.resolve()),
            "shelves_folder": str(settings.shelves_folder.resolve()),
            "tables": version_of_tables(settings.database_url),
            "database": _about(folder / DUMP),
            "files": files,
        }
        part = folder / f"{MANIFEST}.part"
        part.write_text(json.dumps(manifest, indent=1), encoding="utf-8")
        part.replace(folder / MANIFEST)
    except OSError as error:
        reason = (error.strerror or str(error)).lower()
        raise BackupRefused(
            f"{error.filename or folder}: {reason}. The backup is not whole."
        ) from None
    return _summary(manifest)


def restore(settings: Settings, folder: Path, tell: Tell = lambda _what: None) -> BackupSummary:
    """Makes a studio of a backup, in an empty database and a data folder without a studio.

    Every byte is verified before anything is written. Addresses may differ from those of the
    studio that was backed up; its tables are brought up to date.

    Raises:
        BackupRefused: it is no whole backup or one of a newer Harnet, its bytes are not as they
            were, there is a studio already, or something cannot be written. Nothing is left then.
    """
    manifest = _manifest(folder)
    state = state_of_tables(settings.database_url)
    if state == "away":
        raise BackupRefused("The database does not answer. Start it, or correct HARNET_DATABASE.")
    if state != "empty":
        raise BackupRefused(
            "There is a studio in this database. Name an empty one to restore into."
        )
    for folder_to_fill, setting in (
        (settings.data_folder, "HARNET_DATA"),
        (settings.shelves_folder, "HARNET_SHELVES"),
    ):
        if next(_files_below(folder_to_fill), None) is not None:
            raise BackupRefused(
                f"{folder_to_fill} holds files already. Name an empty folder in {setting}."
            )
    tell("verifying every file")
    wrong = [name for name, about in _listed(folder, manifest) if _about_or_none(name) != about]
    if wrong:
        names = first_of([str(one) for one in wrong], _MOST_NAMED)
        raise BackupRefused(
            f"{counted(len(wrong), 'file is', 'files are')} not as backed up: {names}."
            " Nothing was restored."
        )
    try:
        tell("the files")
        for name in manifest["files"]:
            _put_back(settings, name, folder / FILES / name)
        tell("the database")
        _undump(settings.database_url, folder / DUMP)
    except OSError as error:
        _clear(settings)
        reason = (error.strerror or str(error)).lower()
        raise BackupRefused(
            f"{error.filename or folder}: {reason}. Nothing was restored."
        ) from None
    except BackupRefused:
        _clear(settings)
        raise
    migrate(settings.database_url)
    was = Path(manifest["data_folder"])
    _move_shelves(settings, Path(manifest.get("shelves_folder", was / SHELVES)))
    return _summary(manifest)


def _clear(settings: Settings) -> None:
    """Takes out what was restored into folders that held no files before.

    Bytes in a bucket are named by nothing; the sweep takes them.
    """
    for folder in (settings.data_folder, settings.shelves_folder):
        for path in list(_files_below(folder)):
            path.unlink(missing_ok=True)


def _files_below(folder: Path) -> Iterator[Path]:
    """The files of a studio, in order, without what is being made."""
    for root, folders, names in os.walk(folder):
        if Path(root) == folder:
            folders[:] = [one for one in folders if not one.startswith(_LEFT_OUT)]
        folders.sort()
        for name in sorted(names):
            path = Path(root) / name
            if path.is_file() and not path.is_symlink() and not name.endswith(".part"):
                yield path


def _sources(settings: Settings) -> Iterator[tuple[str, Callable[[Path], object]]]:
    """Every file of a studio by its name in a backup, with what copies it to a place."""
    for path in _files_below(settings.data_folder):
        yield path.relative_to(settings.data_folder).as_posix(), partial(shutil.copy2, path)
    shelves = settings.shelves_folder
    if not shelves.resolve().is_relative_to(settings.data_folder.resolve()):
        for path in _files_below(shelves):
            yield f"{SHELVES}/{path.relative_to(shelves).as_posix()}", partial(shutil.copy2, path)
    if settings.store_url:
        blobs = store_of(settings)
        for sha256, _ in blobs.older_than(float("inf")):
            yield f"{_BYTES}/{sha256[:2]}/{sha256}", partial(blobs.copy_to, sha256)


def _put_back(settings: Settings, name: str, path: Path) -> None:
    """Puts a file of a backup where a studio with these settings has it."""
    top, _, inner = name.partition("/")
    if top == _BYTES and settings.store_url:
        if not inner.startswith("previews/"):
            store_of(settings).put_file(path)
        return
    target = settings.shelves_folder / inner if top == SHELVES else settings.data_folder / name
    target.parent.mkdir(parents=True, exist_ok=True)
    shutil.copy2(path, target)


def _copied(copy: Callable[[Path], object], target: Path) -> list[Any]:
    """Copies a file; its size and hash, of the bytes that were copied."""
    target.parent.mkdir(parents=True, exist_ok=True)
    copy(target)
    return _about(target)


def _about(path: Path) -> list[Any]:
    with path.open("rb") as file:
        return [path.stat().st_size, file_digest(file, "sha256").hexdigest()]


def _about_or_none(path: Path) -> list[Any] | None:
    try:
        return _about(path)
    except OSError:
        return None


def _listed(folder: Path, manifest: dict[str, Any]) -> Iterator[tuple[Path, list[Any]]]:
    yield folder / DUMP, manifest["database"]
    for name, about in manifest["files"].items():
        yield folder / FILES / name, about


def _manifest(folder: Path) -> dict[str, Any]:
    try:
        manifest: dict[str, Any] = json.loads((folder / MANIFEST).read_text(encoding="utf-8"))
        is_known = manifest["format"] == _FORMAT and manifest["version"] == _VERSION
        is_known = is_known and state_of_version(manifest["tables"]) in ("current", "older")
        names = [*manifest["files"]]
    except (OSError, ValueError, KeyError, TypeError):
        raise BackupRefused(
            f"{folder} holds no whole backup: its {MANIFEST} is missing or damaged."
        ) from None
    if not is_known:
        raise BackupRefused(f"{folder} holds a backup of a newer Harnet. Use that one.")
    root = (folder / FILES).resolve()
    if not all((root / name).resolve().is_relative_to(root) for name in names):
        raise BackupRefused(f"{folder}: its {MANIFEST} names files outside of the backup.")
    return manifest


def _summary(manifest: dict[str, Any]) -> BackupSummary:
    sizes = [manifest["database"][0], *(one[0] for one in manifest["files"].values())]
    return BackupSummary(len(manifest["files"]), sum(sizes), manifest["made_at"])


def _move_shelves(settings: Settings, was: Path) -> None:
    """Harnet's own shelves lie below a folder of their own, wherever that is now."""
    engine = engine_for(settings.database_url)
    try:
        with engine.begin() as link:
            for shelf_id, text in link.execute(select(Shelf.id, Shelf.folder)).all():
                path = Path(text)
                if path.is_relative_to(was):
                    new = str(settings.shelves_folder.resolve() / path.relative_to(was))
                    link.execute(update(Shelf).where(Shelf.id == shelf_id).values(folder=new))
    finally:
        engine.dispose()


def _dump(url: str, path: Path) -> None:
    _run("pg_dump", url, "--format=custom", "--no-owner", "--no-privileges", f"--file={path}")


def _undump(url: str, path: Path) -> None:
    words = ("--no-owner", "--no-privileges", "--exit-on-error", "--single-transaction")
    _run("pg_restore", url, *words, str(path))


def _run(program: str, url: str, *words: str) -> None:
    """A program of PostgreSQL's; a password reaches it by its surroundings, where nobody sees it.

    Raises:
        BackupRefused: it is not installed, or failed.
    """
    parts = urlsplit(url.replace("+psycopg", "", 1))
    password = {"PGPASSWORD": unquote(parts.password)} if parts.password else {}
    place = parts.netloc.replace(f":{parts.password}@", "@") if parts.password else parts.netloc
    address = urlunsplit(parts._replace(netloc=place))
    try:
        done = subprocess.run(
            [program, f"--dbname={address}", *words],
            env=os.environ | password,
            capture_output=True,
            text=True,
            check=False,
        )
    except FileNotFoundError:
        raise BackupRefused(
            f"{program} is not installed. Install PostgreSQL's client programs."
        ) from None
    if done.returncode:
        last = (done.stderr.strip().splitlines() or ["it said nothing"])[-1]
        raise BackupRefused(f"{program} failed: {last}.")
