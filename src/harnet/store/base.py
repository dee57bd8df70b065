"""What all tables share: the registry, how values become columns, the clock."""

from datetime import UTC, datetime
from typing import Any

from sqlalchemy import DateTime
from sqlalchemy.dialects.postgresql import JSONB
from sqlalchemy.orm import DeclarativeBase


def now_utc() -> datetime:
    """This moment."""
    return datetime.now(UTC)


class Base(DeclarativeBase):
    """The registry of tables."""

    type_annotation_map = {
        dict[str, Any]: JSONB(none_as_null=True),
        list[Any]: JSONB,
        datetime: DateTime(True),
    }
