"""Every setting of Harnet in one place: from the environment, else from one file, else its default.

The file is the one that HARNET_SETTINGS names: lines such as HARNET_THREADS=8; what begins with #
is a remark.
"""

import logging
import os
import re
from collections.abc import Callable, Mapping
from dataclasses import dataclass
from pathlib import Path
from urllib.parse import urlsplit

from harnet.core.errors import HarnetError

FILE_NAME = "HARNET_SETTINGS"
_MOST_PROCESSES, _MOST_THREADS = 64, 64
_MOST_HOURS, _MOST_DAYS, _MOST_PROXIES = 720, 365, 10
_MOST_GB, _MOST_TASKS = 1_000_000, 100_000
_SHORTEST_SECRET = 32
_ADDRESS = "postgresql+psycopg://"


class SettingsRefused(HarnetError):
    """A setting that Harnet cannot start with: which one, what is wrong, what is expected."""

    code = "wrong-setting"


@dataclass(frozen=True, slots=True, kw_only=True)
class Setting:
    """One setting: its name, its default as text, what it means, and what is wrong with a value.

    `fault` answers with the end of a sentence, empty where the value is right. A setting without a
    default must be given.
    """

    name: str
    meaning: str
    default: str | None
    fault: Callable[[str], str]
    is_secret: bool = False


@dataclass(frozen=True, slots=True)
class Configured:
    """A setting as it is in force, and where its value is from: environment, file or default."""

    setting: Setting
    value: str | None
    source: str

    @property
    def shown(self) -> str:
        """Its value as it may be shown: an address without its password."""
        if self.value is None:
            return "not set"
        if not self.setting.is_secret:
            return self.value
        if not self.value.startswith(_ADDRESS):
            return "given" if self.value else ""
        parts = urlsplit(self.value)
        return self.value.replace(f":{parts.password}@", ":…@") if parts.password else self.value


def _any(_value: str) -> str:
    return ""


def _database(value: str) -> str:
    return "" if value.startswith(_ADDRESS) else f"must begin with {_ADDRESS}"


def _folder(value: str) -> str:
    path = Path(value)
    return "is a file, not a folder" if path.exists() and not path.is_dir() else ""


def folders_in(value: str) -> list[str]:
    """The folders of a list with colons between, of this machine and of buckets."""
    return [one for one in re.split(r":(?!//)", value) if one]


def _folders(value: str) -> str:
    here = [one for one in folders_in(value) if not one.startswith("s3://")]
    missing = [one for one in here if not Path(one).is_dir()]
    return f"{missing[0]} is no folder" if missing else ""


def _shelves(value: str) -> str:
    return "" if value in ("", "store") else _folder(value)


def _store(value: str) -> str:
    if "://" not in value:
        return _folder(value)
    return "" if value.startswith(("s3://", "file://")) else "must be a folder or begin with s3://"


def _endpoint(value: str) -> str:
    is_right = not value or value.startswith(("http://", "https://"))
    return "" if is_right else "must begin with http:// or https://"


def _secret(value: str) -> str:
    is_right = not value or len(value) >= _SHORTEST_SECRET
    return "" if is_right else f"must have {_SHORTEST_SECRET} characters or more"


def _level(value: str) -> str:
    known = [name.lower() for name in logging.getLevelNamesMapping()]
    return "" if value.lower() in known else "must be debug, info, warning or error"


def _count(most: int, least: int = 1) -> Callable[[str], str]:
    def fault(value: str) -> str:
        is_right = value.isascii() and value.isdigit() and least <= int(value) <= most
        return "" if is_right else f"must be a whole number from {least} to {most}"

    return fault


SETTINGS = (
    Setting(
        name="HARNET_DATABASE",
        meaning="the PostgreSQL database",
        default=None,
        fault=_database,
        is_secret=True,
    ),
    Setting(
        name="HARNET_DATA",
        meaning="the folder of shelves, stored bytes, scratch files and the secret key",
        default=None,
        fault=_folder,
    ),
    Setting(
        name="HARNET_HOSTS",
        meaning="host names that are answered to, beside loopback's, with commas between",
        default="",
        fault=_any,
    ),
    Setting(
        name="HARNET_IDLE_HOURS",
        meaning="hours without a request after which people sign in again",
        default="12",
        fault=_count(_MOST_HOURS),
    ),
    Setting(
        name="HARNET_LOG",
        meaning="the least level that is logged: debug, info, warning or error",
        default="info",
        fault=_level,
    ),
    Setting(
        name="HARNET_PERSON_GB",
        meaning="gigabytes that one person may store, 0 for as much as there is room",
        default="0",
        fault=_count(_MOST_GB, least=0),
    ),
    Setting(
        name="HARNET_PERSON_TASKS",
        meaning="things that may be waiting to be made for one person at once",
        default="100",
        fault=_count(_MOST_TASKS),
    ),
    Setting(
        name="HARNET_PROCESSES",
        meaning="web processes that `harnet serve` starts",
        default="1",
        fault=_count(_MOST_PROCESSES),
    ),
    Setting(
        name="HARNET_SECRET",
        meaning="the key that signs sessions, the same on every machine; else one beside the data",
        default="",
        fault=_secret,
        is_secret=True,
    ),
    Setting(
        name="HARNET_SHELF_ROOTS",
        meaning="folders, also of buckets, below which folders may be watched once people sign in,"
        " with : between",
        default="",
        fault=_folders,
    ),
    Setting(
        name="HARNET_SHELVES",
        meaning="Harnet's own shelves: a folder that all machines mount, or the word store for"
        " the store; else a folder in HARNET_DATA",
        default="",
        fault=_shelves,
    ),
    Setting(
        name="HARNET_SIGN_IN_DAYS",
        meaning="days after which people sign in again in any case",
        default="14",
        fault=_count(_MOST_DAYS),
    ),
    Setting(
        name="HARNET_STORE",
        meaning="where bytes are kept: a folder, or a bucket such as s3://studio/harnet; else a"
        " folder in HARNET_DATA",
        default="",
        fault=_store,
    ),
    Setting(
        name="HARNET_STORE_ENDPOINT",
        meaning="the address that serves the bucket, where that is not the usual service",
        default="",
        fault=_endpoint,
    ),
    Setting(
        name="HARNET_STUDIO_GB",
        meaning="gigabytes that the whole studio may store, 0 for as much as there is room",
        default="0",
        fault=_count(_MOST_GB, least=0),
    ),
    Setting(
        name="HARNET_THREADS",
        meaning="requests that a web process answers at once; its database pool is as large",
        default="8",
        fault=_count(_MOST_THREADS),
    ),
    Setting(
        name="HARNET_TRUSTED_PROXIES",
        meaning="reverse proxies in front whose word on the visitor's address and TLS is taken",
        default="0",
        fault=_count(_MOST_PROXIES, least=0),
    ),
)


def configured(environment: Mapping[str, str] | None = None) -> list[Configured]:
    """Every setting with the value in force, in the order of `SETTINGS`.

    Raises:
        SettingsRefused: the file cannot be read, or names a setting that there is not.
    """
    surroundings = os.environ if environment is None else environment
    filed = _in_file(surroundings.get(FILE_NAME, ""))
    found = []
    for one in SETTINGS:
        if surroundings.get(one.name):
            found.append(Configured(one, surroundings[one.name].strip(), "environment"))
        elif filed.get(one.name):
            found.append(Configured(one, filed[one.name], "file"))
        else:
            found.append(Configured(one, one.default, "default"))
    return found


def faults_of(found: list[Configured]) -> list[str]:
    """What is wrong with settings, a sentence each."""
    faults = []
    for one in found:
        if one.value is None:
            faults.append(f"{one.setting.name} must be set: {one.setting.meaning}.")
        elif fault := one.setting.fault(one.value):
            faults.append(f"{one.setting.name} is {one.shown!r}, but {fault}.")
    return faults


def values_in_force(environment: Mapping[str, str] | None = None) -> dict[str, str]:
    """The settings by name, all of them right.

    Raises:
        SettingsRefused: one is wrong or missing; all that are wrong are told.
    """
    found = configured(environment)
    faults = faults_of(found)
    if faults:
        raise SettingsRefused(" ".join(faults))
    return {one.setting.name: one.value or "" for one in found}


def log_level() -> str:
    """The least level that is logged, whatever else is wrong or missing."""
    try:
        found = next(one for one in configured() if one.setting.name == "HARNET_LOG")
    except SettingsRefused:
        return "INFO"
    value = found.value or ""
    return "INFO" if found.setting.fault(value) else value.upper()


def _in_file(name: str) -> dict[str, str]:
    if not name:
        return {}
    try:
        lines = Path(name).read_text(encoding="utf-8").splitlines()
    except (OSError, UnicodeError) as error:
        reason = getattr(error, "strerror", None) or "it is not text"
        raise SettingsRefused(
            f"{FILE_NAME} names {name}, which cannot be read: {reason}."
        ) from None
    known = {one.name for one in SETTINGS}
    found = {}
    for number, line in enumerate(lines, 1):
        text = line.strip()
        if not text or text.startswith("#"):
            continue
        key, equals, value = text.partition("=")
        key = key.strip()
        if not equals or key not in known:
            raise SettingsRefused(
                f"{name}, line {number}: {key[:60]!r} is no setting. harnet config lists them all."
            )
        found[key] = value.strip().strip("\"'")
    return found
