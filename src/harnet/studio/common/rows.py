"""A row by its number, or a sentence that it is gone."""

from typing import TypeVar

from sqlalchemy.orm import Session

from harnet.store.base import Base
from harnet.studio.common.errors import NotThere

_Row = TypeVar("_Row", bound=Base)


def row_with(session: Session, model: type[_Row], number: int, sentence: str) -> _Row:
    """The row of that number.

    Raises:
        NotThere: there is none; `sentence` says so.
    """
    row = session.get(model, number)
    if row is None:
        raise NotThere(sentence)
    return row
