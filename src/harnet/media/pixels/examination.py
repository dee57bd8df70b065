"""Facts and previews of an untrusted file, read in a process of its own."""

from dataclasses import asdict, dataclass
from pathlib import Path

from harnet.core.pictures.detail import Detail
from harnet.core.pictures.picture import Colour, Facts, facts_as_values, facts_from_values
from harnet.core.pictures.rights import Rights
from harnet.media.bounded import Order, Tell, work_apart
from harnet.media.facts.read import facts_of
from harnet.media.facts.rights import rights_in
from harnet.media.limits import EXAMINE_MEMORY_BYTES, EXAMINE_SECONDS
from harnet.media.pixels.previews import looks_drawn, write_previews


@dataclass(frozen=True, slots=True, kw_only=True)
class ExaminedPicture:
    """What reading a picture whole tells: facts, rights, looks, and the previews made of it.

    `likeness` is a perceptual hash as hexadecimal, alike for pictures that look alike; it is
    taken of the preview, which is Harnet's own, by whoever keeps that.
    """

    facts: Facts
    rights: Rights
    looks_drawn: bool
    detail: Detail | None
    previews: dict[str, Path]
    likeness: str = ""


def examine(path: Path, name: str, folder: Path) -> ExaminedPicture:
    """Facts and previews of a file; the previews are written into `folder`.

    Raises:
        UnreadableFile: the file cannot be used, or its decoder ran out of its bounds.
    """
    answer = work_apart(
        "harnet.media.pixels.examination",
        {"path": str(path), "name": name, "folder": str(folder)},
        name=name,
        seconds=EXAMINE_SECONDS,
        memory_bytes=EXAMINE_MEMORY_BYTES,
    )
    previews = {size: Path(made) for size, made in answer["previews"].items()}
    facts, rights = facts_from_values(answer["facts"]), Rights(**answer["rights"])
    detail = Detail(**answer["detail"]) if answer["detail"] else None
    return ExaminedPicture(
        facts=facts,
        rights=rights,
        looks_drawn=answer["looks_drawn"],
        detail=detail,
        previews=previews,
    )


def work(order: Order, tell: Tell) -> Order:
    """What happens in the process: see `harnet.media.bounded`."""
    path, name, folder = Path(order["path"]), order["name"], Path(order["folder"])
    facts = facts_of(path, name)
    rights = rights_in(path, facts)
    previews, detail = write_previews(path, facts, name, folder)
    return {
        "facts": facts_as_values(facts),
        "rights": asdict(rights),
        # Told by the larger preview: greys between ink and paper melt into the smaller one.
        "looks_drawn": not facts.is_vector
        and (facts.colour is Colour.BILEVEL or looks_drawn(previews["light"])),
        "detail": asdict(detail) if detail else None,
        "previews": {size: str(made) for size, made in previews.items()},
    }
