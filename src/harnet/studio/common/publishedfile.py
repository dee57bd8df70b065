"""Reading files of ours that come back: lists of targets, of presets."""

from typing import Any, TypeVar

from pydantic import BaseModel, ValidationError

from harnet.studio.common.errors import Refused, place_and_fault

_LONGEST_FILE = 1_000_000
_File = TypeVar("_File", bound=BaseModel)


def file_in(form: type[_File], text: str, what: str) -> _File:
    """The file that a text holds, in a published form; `what` it lists is for the sentences.

    Raises:
        Refused: the text is too long, or does not keep to the form.
    """
    if len(text) > _LONGEST_FILE:
        raise Refused(f"This file is too large to be a list of {what}.")
    try:
        return form.model_validate_json(text)
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
