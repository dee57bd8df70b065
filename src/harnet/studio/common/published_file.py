"""Reading files of ours that come back: lists of targets, of presets."""

import re
from typing import Any, TypeVar

from pydantic import BaseModel, ValidationError

from harnet.studio.common.errors import Refused, place_and_fault

_LONGEST_FILE = 1_000_000
_File = TypeVar("_File", bound=BaseModel)
_RENAMED_KEYS = {"packing": "compression", "may_invent": "may_interpolate"}
_OLD_KEY = re.compile(rf'"({"|".join(_RENAMED_KEYS)})"(?=\s*:)')


def parsed(form: type[_File], text: str) -> _File:
    """A JSON text as a published form; names that the form had in older versions are read, too.

    Raises:
        ValidationError: the text does not keep to the form.
    """
    try:
        return form.model_validate_json(text)
    except ValidationError:
        # Within a JSON string a quotation mark is escaped, so this matches keys and nothing else.
        renamed, count = _OLD_KEY.subn(lambda key: f'"{_RENAMED_KEYS[key[1]]}"', text)
        if not count:
            raise
        return form.model_validate_json(renamed)


def file_in(form: type[_File], text: str, what: str) -> _File:
    """The file that a text holds, in a published form; `what` it lists is for the sentences.

    Raises:
        Refused: the text is too long, or does not keep to the form.
    """
    if len(text) > _LONGEST_FILE:
        raise Refused(f"This file is too large to be a list of {what}.")
    try:
        return parsed(form, text)
    except ValidationError as error:
        raise Refused(
            f"Nothing was imported: {place_and_fault(error)}. Choose a file of {what} written"
            " by “Export”."
        ) from None


def schema_of(form: type[BaseModel], name: str) -> dict[str, Any]:
    """The JSON Schema of a form as it is published under a name of `harnet.schemas`.

    Its `$id` is where every Harnet serves it, so that references between schemas resolve there and
    beside each other in a folder alike.
    """
    draft = "https://json-schema.org/draft/2020-12/schema"
    return {"$schema": draft, "$id": f"/schemas/{name}", **form.model_json_schema()}
