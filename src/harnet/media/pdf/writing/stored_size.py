"""What a picture will take up in a PDF, from bands of it: fast, and close enough to plan by.

Small pictures are stored for a trial; of large ones a few bands are, spread over their height.
"""

import time
import zlib
from dataclasses import asdict, replace
from pathlib import Path
from typing import Any

import pikepdf
import pyvips

from harnet.core.copies.recipe import PixelBox
from harnet.core.output.treatment import Treatment, TreatmentKind
from harnet.core.pictures.picture import facts_as_values, facts_from_values
from harnet.media.bounded import Order, Tell
from harnet.media.errors import UnreadableFile
from harnet.media.pagedrawing.plan import AnyPicture, PictureFile
from harnet.media.pdf.writing.streams import Samples, samples_for, stored_as
from harnet.media.pdf.writing.vector import vector_form

_WHOLE_UP_TO_PX = 1_000_000
_BANDS = 8
_BAND_SHARE = 32
"""A band is this part of the height, so that a quarter of the picture is stored for a trial."""
_PROFILE_WORDS_BYTES = 200
_START_OF_SCAN = b"\xff\xda"
_WORDS_BYTES = 900
"""An image's dictionary and operators, its place in the table of objects, a JPEG's tables."""


def stored_size_of(part: AnyPicture, treatment: Treatment, intent: Path | None) -> int:
    """Bytes that the picture adds to a PDF, by estimate; profiles are not counted.

    Raises:
        UnreadableFile: its file cannot be read.
    """
    assert part.path is not None
    if treatment.action is TreatmentKind.VECTOR:
        return _vector_bytes(part)
    if treatment.action is TreatmentKind.PASSES:
        return part.path.stat().st_size + _WORDS_BYTES
    samples = samples_for(part, treatment, intent)
    try:
        return _bytes_by_bands(samples, treatment) + _WORDS_BYTES
    except pyvips.Error:
        raise UnreadableFile(part.name, "its pixels cannot be decoded") from None


def _vector_bytes(part: AnyPicture) -> int:
    assert part.path is not None
    with pikepdf.new() as pdf:
        vector_form(pdf, part.path, part.name)
        things = [thing for thing in pdf.objects if isinstance(thing, pikepdf.Stream)]
        return sum(len(thing.read_raw_bytes()) + _WORDS_BYTES for thing in things)


def _bytes_by_bands(samples: Samples, treatment: Treatment) -> int:
    image = samples.image
    if image.width * image.height <= _WHOLE_UP_TO_PX:
        return _stored_bytes(samples, treatment)
    # Whole blocks of JPEG, which holds colours for sixteen rows at a time.
    height = min(max(3, round(image.height / _BAND_SHARE / 16)) * 16, image.height // _BANDS)
    step = image.height / _BANDS
    region = pyvips.Region.new(image)
    taken = 0
    for index in range(_BANDS):
        # From top to bottom, as the file is read.
        top = int(index * step + (step - height) / 2)
        content = region.fetch(0, top, image.width, height)
        band = pyvips.Image.new_from_memory(
            content, image.width, height, image.bands, image.format
        ).copy(interpretation=image.interpretation)
        taken += _stored_bytes(replace(samples, image=band), treatment)
    return int(taken * image.height / (_BANDS * height))


def _stored_bytes(samples: Samples, treatment: Treatment) -> int:
    """Bytes of the samples alone: a JPEG's tables do not grow with it."""
    with pikepdf.new() as pdf:
        stream = stored_as(pdf, samples, treatment)
        mask = stream.get("/SMask")
        data: bytes = stream.read_raw_bytes()
        tables = data.find(_START_OF_SCAN) if treatment.quality is not None else 0
        return len(data) - tables + (len(mask.read_raw_bytes()) if mask is not None else 0)


def profile_size(part: AnyPicture) -> int:
    """Bytes that the profile in a picture's file adds to a PDF; 0 where it has none.

    Raises:
        UnreadableFile: its file cannot be read.
    """
    try:
        image = pyvips.Image.new_from_file(str(part.path))
        if "icc-profile-data" not in image.get_fields():
            return 0
        return len(zlib.compress(image.get("icc-profile-data"))) + _PROFILE_WORDS_BYTES
    except pyvips.Error:
        raise UnreadableFile(part.name, "its profile cannot be read") from None


def order_of(part: AnyPicture, treatment: Treatment | None, intent: Path | None) -> Order:
    """The work on one picture as plain values; without a fate its profile is measured."""
    return {
        "name": part.name,
        "path": str(part.path),
        "facts": facts_as_values(part.facts),
        "treatment": asdict(treatment) | {"action": treatment.action.value} if treatment else None,
        "intent": str(intent) if intent else None,
    }


def _treatment_from(values: dict[str, Any]) -> Treatment:
    box = values["part"]
    treatment = Treatment(**{**values, "action": TreatmentKind(values["action"]), "part": None})
    return replace(treatment, part=PixelBox(**box)) if box else treatment


def work(order: Order, tell: Tell) -> Order:
    """What happens in the process: see `harnet.media.bounded`.

    Measures one picture after the other until the time is up; the answer has those it came to, each
    as a figure or as what is wrong with its file.
    """
    until = time.monotonic() + order["seconds"]
    found: list[int | str] = []
    for one in order["pictures"]:
        picture = PictureFile(one["name"], Path(one["path"]), facts_from_values(one["facts"]))
        intent = Path(one["intent"]) if one["intent"] else None
        try:
            if one["treatment"] is None:
                found.append(profile_size(picture))
            else:
                found.append(stored_size_of(picture, _treatment_from(one["treatment"]), intent))
        except UnreadableFile as error:
            found.append(str(error))
        if time.monotonic() > until:
            break
    return {"found": found}
