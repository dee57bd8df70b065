"""The settings of a studio as values: where things are kept, and how much of what may be."""

import os
from contextlib import suppress
from dataclasses import dataclass
from datetime import timedelta
from pathlib import Path
from secrets import token_hex
from uuid import uuid4

from harnet.store.blobs import BlobStore
from harnet.studio.common.configuration import folders_in, values_in_force

_GB = 10**9
STORE = "store"


LOOPBACK = ("localhost", "127.0.0.1")


@dataclass(frozen=True, slots=True)
class Expiry:
    """How long a sign-in lasts: without a request, and all in all."""

    idle: timedelta = timedelta(hours=12)
    whole: timedelta = timedelta(days=14)


LIMITS = "limits"
"""Where a session has its limits."""


@dataclass(frozen=True, slots=True)
class Limits:
    """How much may be stored, 0 for as much as there is room, and waits to be made for a person."""

    studio_bytes: int = 0
    person_bytes: int = 0
    person_tasks: int = 100


@dataclass(frozen=True, slots=True)
class Settings:
    """Where things are kept."""

    database_url: str
    data_folder: Path
    hosts: tuple[str, ...] = LOOPBACK
    """The names that the web application answers to; any other is untrusted."""
    processes: int = 1
    """Web processes that are started."""
    threads: int = 8
    """Requests that a process answers at the same time, and its connections to the database."""

    proxies: int = 0
    """Reverse proxies in front, whose word is taken on who asks and whether by TLS."""
    expiry: Expiry = Expiry()
    shelf_roots: tuple[str, ...] = ()
    """Folders, also of buckets, below which folders may be watched once people sign in."""
    limits: Limits = Limits()
    store_url: str = ""
    """Where bytes are kept: a folder, or a bucket; empty for a folder in the data folder."""
    store_endpoint: str = ""
    """Where a bucket is served, if not by the usual service."""
    shelves: str = ""
    """Where Harnet's own shelves lie: a folder, `store`, or empty for one in the data folder."""
    secret: str = ""
    """The key that signs sessions; empty for the one beside the data."""

    @classmethod
    def from_environment(cls) -> "Settings":
        """Settings from the environment and from the file that it names.

        Raises:
            SettingsRefused: one is wrong or missing.
        """
        values = values_in_force()
        more = tuple(one.strip() for one in values["HARNET_HOSTS"].split(","))
        return cls(
            database_url=values["HARNET_DATABASE"],
            data_folder=Path(values["HARNET_DATA"]),
            hosts=LOOPBACK + tuple(one for one in more if one),
            processes=int(values["HARNET_PROCESSES"]),
            threads=int(values["HARNET_THREADS"]),
            proxies=int(values["HARNET_TRUSTED_PROXIES"]),
            expiry=Expiry(
                idle=timedelta(hours=int(values["HARNET_IDLE_HOURS"])),
                whole=timedelta(days=int(values["HARNET_SIGN_IN_DAYS"])),
            ),
            shelf_roots=tuple(folders_in(values["HARNET_SHELF_ROOTS"])),
            limits=Limits(
                studio_bytes=int(values["HARNET_STUDIO_GB"]) * _GB,
                person_bytes=int(values["HARNET_PERSON_GB"]) * _GB,
                person_tasks=int(values["HARNET_PERSON_TASKS"]),
            ),
            store_url=values["HARNET_STORE"],
            store_endpoint=values["HARNET_STORE_ENDPOINT"],
            shelves=values["HARNET_SHELVES"],
            secret=values["HARNET_SECRET"],
        )

    @property
    def shelves_folder(self) -> Path:
        """The folder of the shelves that Harnet keeps itself."""
        is_named = self.shelves and not self.shelves_in_store
        return Path(self.shelves) if is_named else self.data_folder / "shelves"

    @property
    def shelves_in_store(self) -> bool:
        """Whether the files of Harnet's own shelves lie in the store."""
        return self.shelves == STORE

    @property
    def agency_folder(self) -> Path:
        """What the simulated picture agency keeps."""
        return self.data_folder / "agency"

    @property
    def scratch_folder(self) -> Path:
        """For files that are being made."""
        return self.data_folder / "scratch"


def store_of(settings: Settings) -> BlobStore:
    """The store that settings name: a folder in the data folder, another one, or a bucket."""
    # Not `as_uri`: a space would be written as %20, and nobody reads it back.
    url = settings.store_url or str(settings.data_folder.resolve() / "blobs")
    return BlobStore(url if "://" in url else f"file://{url}", settings.store_endpoint)


def secret_of(settings: Settings) -> str:
    """The key that signs sessions: one for all processes of a studio, and for every start.

    Unless it is given it lies beside the data, for nobody else to read.
    """
    if settings.secret:
        return settings.secret
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
