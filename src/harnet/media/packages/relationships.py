"""Relationships between parts, and their content types (ISO/IEC 29500-2, clauses 8 and 10)."""

import posixpath
from dataclasses import dataclass, field

from harnet.media.packages.archive import Package, UnreadablePart
from harnet.media.packages.gathering import Refused
from harnet.media.packages.xml import Element, local, parsed

_USUAL_MAIN = ("ppt/presentation.xml", "word/document.xml", "xl/workbook.xml")


@dataclass(frozen=True, slots=True)
class Relationship:
    """What a part refers to: a part, or an address outside; `kind` is the type's last word."""

    id: str
    kind: str
    part: str | None
    address: str

    @property
    def is_outside(self) -> bool:
        """Whether it leads out of the package, or to a part that is not there."""
        return self.part is None


def relationships_of(package: Package, part: str) -> dict[str, Relationship]:
    """What a part refers to, by id; nothing where that cannot be read. "" is the whole package."""
    folder, name = posixpath.split(part)
    where = package.found(posixpath.join(folder, "_rels", f"{name}.rels"))
    if where is None:
        return {}
    try:
        root = parsed(package.read(where), where)
    except UnreadablePart:
        return {}
    found = {}
    for one in root:
        if local(one) != "Relationship":
            continue
        target, id_ = one.get("Target", ""), one.get("Id", "")
        is_outside = one.get("TargetMode") == "External"
        found[id_] = Relationship(
            id_,
            one.get("Type", "").rpartition("/")[2],
            None if is_outside else package.resolved(part, target),
            target,
        )
    return found


@dataclass(slots=True)
class Parts:
    """The parts of a package as they are needed: each parsed once, what fails is remembered."""

    package: Package
    faults: dict[str, str] = field(default_factory=dict)
    _roots: dict[str, Element | None] = field(default_factory=dict)
    _relations: dict[str, dict[str, Relationship]] = field(default_factory=dict)

    def root(self, part: str | None) -> Element | None:
        """The root of a part; None where it cannot be read, and why in `faults`."""
        if part is None:
            return None
        if part not in self._roots:
            try:
                self._roots[part] = parsed(self.package.read(part), part)
            except UnreadablePart as error:
                self.faults[part] = str(error)
                self._roots[part] = None
        return self._roots[part]

    def require_root(self, part: str, what: str) -> Element:
        """The root of a part without which there is no document; `what` names that.

        Raises:
            Refused: it cannot be read.
        """
        root = self.root(part)
        if root is None:
            raise Refused(f"the {what} is damaged: {self.faults[part]}")
        return root

    def forget(self, part: str) -> None:
        """Lets go of a part that is not needed again."""
        self._roots.pop(part, None)

    def relations(self, part: str) -> dict[str, Relationship]:
        """What a part refers to, by id."""
        if part not in self._relations:
            self._relations[part] = relationships_of(self.package, part)
        return self._relations[part]

    def of_kind(self, part: str, kind: str) -> list[Relationship]:
        """What a part refers to in one way."""
        return [one for one in self.relations(part).values() if one.kind == kind]

    def first(self, part: str, kind: str) -> str | None:
        """The part that is referred to in one way, if there is one."""
        return next((one.part for one in self.of_kind(part, kind) if one.part), None)


def main_part(parts: Parts) -> str | None:
    """The part that a package is about; None where it is none of a document."""
    part = parts.first("", "officeDocument")
    if part is not None:
        return part
    # Some packages have lost the list that says so.
    usual = (parts.package.found(one) for one in _USUAL_MAIN)
    return next((one for one in usual if one is not None), None)
