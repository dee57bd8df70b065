"""Everything the use cases work with: the database, the blobs, the folders."""

import logging
import time
from collections.abc import Callable, Iterator
from contextlib import contextmanager
from typing import TypeVar

from sqlalchemy.exc import IntegrityError, OperationalError
from sqlalchemy.orm import Session, sessionmaker
from sqlalchemy.orm.exc import StaleDataError

from harnet.store.blobs import FILES, StoredFiles
from harnet.store.database import engine_for
from harnet.studio.common.activity import tell_activity
from harnet.studio.common.errors import Conflict
from harnet.studio.common.settings import LIMITS, Settings, store_of
from harnet.studio.outside.agency import Agency
from harnet.studio.outside.print_house import PrintHouse

_Found = TypeVar("_Found")
_PATIENCE_SECONDS = 90.0
_LONGEST_CAUSE = 300
_log = logging.getLogger("harnet")


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
        self.engine = engine_for(settings.database_url, settings.threads)
        self.blobs = store_of(settings)
        self.agency = agency
        self.print_houses = print_houses
        self._settle = settle
        self._sessions = sessionmaker(
            self.engine,
            expire_on_commit=False,
            info={
                LIMITS: settings.limits,
                FILES: StoredFiles(self.blobs, settings.scratch_folder),
            },
        )
        tell_activity(self._sessions)

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
        except (StaleDataError, IntegrityError) as error:
            _log.warning("conflict: %s", " ".join(str(error).split())[:_LONGEST_CAUSE])
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
