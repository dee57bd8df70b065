"""Everything the use cases work with: the database, the blobs, the folders."""

import os
import time
from collections.abc import Callable, Iterator
from contextlib import contextmanager, suppress
from dataclasses import dataclass
from pathlib import Path
from secrets import token_hex
from typing import TypeVar
from uuid import uuid4

from sqlalchemy.exc import IntegrityError, OperationalError
from sqlalchemy.orm import Session, sessionmaker
from sqlalchemy.orm.exc import StaleDataError

from harnet.store.blobs import BlobStore
from harnet.store.database import engine_for
from harnet.studio.common.errors import Conflict
from harnet.studio.outside.agency import Agency
from harnet.studio.outside.print_house import PrintHouse

_Found = TypeVar("_Found")
_PATIENCE_SECONDS = 90.0


LOOPBACK = ("localhost", "127.0.0.1")


@dataclass(frozen=True, slots=True)
class Settings:
    """Where things are kept."""

    database_url: str
    data_folder: Path
    hosts: tuple[str, ...] = LOOPBACK
    """The names that the web application answers to; any other is an untrusted."""

    @classmethod
    def from_environment(cls) -> "Settings":
        """Settings from HARNET_DATABASE and HARNET_DATA, and HARNET_HOSTS where there are more.

        Raises:
            KeyError: one of the first two is not set.
        """
        more = tuple(one.strip() for one in os.environ.get("HARNET_HOSTS", "").split(","))
        hosts = LOOPBACK + tuple(one for one in more if one)
        return cls(os.environ["HARNET_DATABASE"], Path(os.environ["HARNET_DATA"]), hosts)

    @property
    def shelves_folder(self) -> Path:
        """The folder of the shelves that Harnet keeps itself."""
        return self.data_folder / "shelves"

    @property
    def agency_folder(self) -> Path:
        """What the simulated picture agency keeps."""
        return self.data_folder / "agency"

    @property
    def scratch_folder(self) -> Path:
        """For files that are being made."""
        return self.data_folder / "scratch"


def secret_of(settings: Settings) -> str:
    """The key that signs sessions: one for all processes of a studio, and for every start.

    It lies beside the data, for nobody else to read.
    """
    path = settings.data_folder / "secret"
    settings.data_folder.mkdir(parents=True, exist_ok=True)
    part = path.with_name(f".secret-{uuid4().hex}")
    if not path.exists():
        part.touch(mode=0o600)
        part.write_text(token_hex(32))
        with suppress(FileExistsError):
            # A link never overwrites: of two processes that start at once, one makes the key.
            os.link(part, path)
        part.unlink()
    return path.read_text().strip()


class Studio:
    """The open studio: one for each process."""

    def __init__(
        self,
        settings: Settings,
        agency: Agency,
        print_houses: tuple[PrintHouse, ...],
        settle: Callable[[Session], None],
    ) -> None:
        self.settings = settings
        for folder in (settings.shelves_folder, settings.scratch_folder):
            folder.mkdir(parents=True, exist_ok=True)
        self.engine = engine_for(settings.database_url)
        self.blobs = BlobStore((settings.data_folder / "blobs").as_uri())
        self.agency = agency
        self.print_houses = print_houses
        self._settle = settle
        self._sessions = sessionmaker(self.engine, expire_on_commit=False)

    @contextmanager
    def session(self) -> Iterator[Session]:
        """One transaction: kept whole on leaving, or not at all.

        Raises:
            Conflict: a row was changed by another transaction in the meantime.
        """
        try:
            with self._sessions.begin() as session:
                yield session
                self._settle(session)
        except (StaleDataError, IntegrityError):
            raise Conflict(
                "Someone else changed this in the meantime. Your change was not made; reload"
                " to see theirs."
            ) from None

    def patiently(self, work: Callable[[Session], _Found]) -> _Found:
        """Does work in a transaction; while the database is away it waits and tries again.

        For long work in the background, which a restart of the database should not undo.

        Raises:
            OperationalError: the database stayed away.
        """
        until = time.monotonic() + _PATIENCE_SECONDS
        while True:
            try:
                with self.session() as session:
                    return work(session)
            except OperationalError:
                if time.monotonic() > until:
                    raise
                time.sleep(0.5)
