"""Files of targets, as they are exported and read in; no database stands behind them."""

from typing import Annotated, Literal

from pydantic import BaseModel, ConfigDict, Field

from harnet.core.errors import ValueOutOfRange
from harnet.core.preflight.rules import all_rules
from harnet.core.targets.target import OWN, Target, checked_target
from harnet.core.targets.values import target_as_values, target_from_values
from harnet.studio.common.errors import Refused
from harnet.studio.common.published_file import file_in
from harnet.studio.targets.fields import TargetFields


class TargetEntry(TargetFields):
    """One target of a file; densities in ppi, the tolerance as a share of the density."""

    model_config = ConfigDict(use_attribute_docstrings=True, extra="forbid")

    key: Annotated[str, Field(pattern=r"^[a-z0-9][a-z0-9-]{0,39}$")]
    """Its key, for commands and addresses; each is unique."""


class TargetFile(BaseModel):
    """A file of targets, as it is exported and read in."""

    model_config = ConfigDict(use_attribute_docstrings=True, extra="forbid", title="Harnet targets")

    format: Literal["harnet targets"]
    """What this file is."""
    version: Literal[1]
    """The version of this format."""
    targets: Annotated[list[TargetEntry], Field(min_length=1, max_length=500)]
    """The targets."""


def targets_as_file(targets: list[Target]) -> str:
    """Targets as the text of a file."""
    entries = [TargetEntry.model_validate(target_as_values(target)) for target in targets]
    file = TargetFile(format="harnet targets", version=1, targets=entries)
    return file.model_dump_json(indent=2) + "\n"


def targets_in(text: str) -> list[Target]:
    """The targets in the text of a file, once each of them makes sense.

    Raises:
        Refused: the file is none, or one of its targets is not valid.
    """
    file = file_in(TargetFile, text, "targets")
    known_rules = {rule.id for rule in all_rules()}
    found = []
    for entry in file.targets:
        unknown = set(entry.severities) - known_rules
        if unknown:
            raise Refused(
                f"Nothing was imported. {entry.name} names a rule “{min(unknown)}”, which"
                " Harnet does not have."
            )
        if entry.key == OWN:
            raise Refused(
                f"Nothing was imported. {entry.name} has the key “own”, which is reserved for"
                " custom figures."
            )
        try:
            found.append(checked_target(target_from_values(entry.model_dump())))
        except ValueOutOfRange as error:
            raise Refused(f"Nothing was imported. {entry.name}: {error}.") from None
    return found
