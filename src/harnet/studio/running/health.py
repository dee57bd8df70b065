"""How a studio is doing: each part that it needs, whether it is well, and what to do if not."""

import importlib
import shutil
import tempfile
from collections.abc import Callable
from dataclasses import dataclass
from importlib.resources import files
from pathlib import Path

from sqlalchemy import text
from sqlalchemy.exc import SQLAlchemyError

from harnet.core.measure.wording import bytes_text
from harnet.store.base import now_utc
from harnet.store.database import DATABASE_AWAY, state_of_version, version_by
from harnet.studio.common.studio import Studio
from harnet.studio.tasks.waiting import is_anybody_at_work

LEAST_FREE_BYTES = 1_000_000_000
_MOST_SKEW_SECONDS = 5.0
_LIBRARIES = ("pikepdf", "PIL", "pypdfium2", "pyvips", "reportlab", "lxml.etree", "cv2")
_TABLES = {
    "empty": "There is no studio in this database yet. Make one with harnet init.",
    "older": "The tables are of an older Harnet. Bring them up to date with harnet init.",
    "newer": "The tables are of a newer Harnet. Use that one.",
    "away": "The database does not answer. Start it, or correct HARNET_DATABASE.",
}


@dataclass(frozen=True, slots=True)
class HealthCheck:
    """One part of a running studio: its name, whether it is well, and a sentence on it.

    Without what `is_needed` Harnet answers nobody; the rest may wait.
    """

    name: str
    is_well: bool
    sentence: str
    is_needed: bool = True


def quick_checks(studio: Studio) -> list[HealthCheck]:
    """What a load balancer asks every few seconds: database, tables, store, worker."""
    return [_of("database", _database, studio), *_of_tables(studio), _of("store", _store, studio),
            _of("worker", _worker, studio, is_needed=False)]  # fmt: skip


def all_checks(studio: Studio) -> list[HealthCheck]:
    """What somebody looks at who runs Harnet: also disk, clock, fonts and libraries."""
    return [
        *quick_checks(studio),
        _of("disk", _disk, studio),
        _of("clock", _clock, studio, is_needed=False),
        _of("fonts", _fonts, studio, is_needed=False),
        _of("libraries", _libraries, studio),
    ]


Looked = tuple[bool, str]


def _of(
    name: str, look: Callable[[Studio], Looked], studio: Studio, *, is_needed: bool = True
) -> HealthCheck:
    try:
        is_well, sentence = look(studio)
    except (OSError, SQLAlchemyError, ImportError) as error:
        is_well, sentence = False, f"It cannot be told: {type(error).__name__}."
    return HealthCheck(name, is_well, sentence, is_needed)


def _database(studio: Studio) -> Looked:
    try:
        with studio.engine.connect() as link:
            link.execute(text("select 1"))
    except SQLAlchemyError:
        return False, _TABLES["away"]
    return True, "It answers."


def _of_tables(studio: Studio) -> list[HealthCheck]:
    try:
        with studio.engine.connect() as link:
            state = state_of_version(version_by(link))
    except DATABASE_AWAY:
        state = "away"
    return [HealthCheck("tables", state == "current", _TABLES.get(state, "They are up to date."))]


def _store(studio: Studio) -> Looked:
    """Bytes are written and read back, in the store and beside it."""
    folder = Path(tempfile.mkdtemp(dir=studio.settings.scratch_folder))
    try:
        probe = folder / "probe"
        probe.write_bytes(b"probe")
        studio.blobs.put_preview("health-probe", probe)
        with studio.blobs.open_preview("health-probe") as file:
            is_well = file.read() == b"probe"
    except OSError as error:
        return False, f"Nothing can be written: {(error.strerror or 'it failed').lower()}."
    finally:
        shutil.rmtree(folder, ignore_errors=True)
    return is_well, "It can be written." if is_well else "What was written reads otherwise."


def _worker(studio: Studio) -> Looked:
    with studio.session() as session:
        is_there = is_anybody_at_work(session)
    if is_there:
        return True, "One gave a sign in the last 30 seconds."
    return False, "None gave a sign in the last 30 seconds. Start one with harnet worker."


def _disk(studio: Studio) -> Looked:
    free = shutil.disk_usage(studio.settings.data_folder).free
    sentence = f"{bytes_text(free)} are free."
    if free >= LEAST_FREE_BYTES:
        return True, sentence
    return False, f"{sentence} Outputs need more; clear some, or enlarge the disk."


def _clock(studio: Studio) -> Looked:
    with studio.engine.connect() as link:
        there = link.execute(text("select now()")).scalar_one()
    skew = abs((there - now_utc()).total_seconds())
    if skew <= _MOST_SKEW_SECONDS:
        return True, "It agrees with the database's."
    return False, f"It is {skew:.0f} seconds off the database's. Set both by a time server."


def _fonts(_studio: Studio) -> Looked:
    folder = files("harnet.media") / "fonts"
    count = sum(one.name.endswith(".ttf") for one in folder.iterdir()) if folder.is_dir() else 0
    if count:
        return True, f"{count} are there."
    return False, "None are there. Run script/setup, or install the package again."


def _libraries(_studio: Studio) -> Looked:
    missing = []
    for name in _LIBRARIES:
        try:
            importlib.import_module(name)
        except ImportError:
            missing.append(name)
    if missing:
        return False, f"{', '.join(missing)} cannot be loaded. Install the package again."
    return True, "All can be loaded."
