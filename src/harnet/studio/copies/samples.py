"""A sample of a print copy before it is made, beside the same place of its original."""

import tempfile
from dataclasses import replace
from pathlib import Path

from harnet.core.copies.recipe import Recipe, checked
from harnet.core.errors import ValueOutOfRange
from harnet.media.bounded import work_apart
from harnet.media.limits import COPY_MEMORY_BYTES
from harnet.store.tables.pictures import Picture
from harnet.studio.common.errors import Refused, sentence_of
from harnet.studio.common.studio import Studio
from harnet.studio.copies.copies import order_of, require_original
from harnet.studio.pictures.picture import facts_of_picture, path_of
from harnet.studio.pictures.profiles import profile_file

_SECONDS = 60


def spots_of(
    studio: Studio, picture: Picture, recipe: Recipe, at: tuple[float, float]
) -> tuple[bytes, bytes]:
    """A square of the copy at 100 % and the same place of the original, as PNG; nothing is kept.

    `at` are shares of the cropped part's width and height.

    Raises:
        UnreadableFile: the original cannot be read.
        Refused: no such copy can be made.
    """
    try:
        checked(replace(recipe, may_interpolate=True), facts_of_picture(picture))
    except ValueOutOfRange as error:
        raise Refused(sentence_of(error)) from None
    require_original(picture)
    with tempfile.TemporaryDirectory(dir=studio.settings.scratch_folder) as name:
        folder = Path(name)
        copy_spot, original_spot = folder / "copy.png", folder / "original.png"
        profile = profile_file(studio, recipe.profile, folder)
        order = order_of(
            path_of(picture), facts_of_picture(picture), recipe, profile, picture.file_name
        )
        work_apart(
            "harnet.media.pixels.print_copy",
            order | {"spot": at, "copy_spot": str(copy_spot), "original_spot": str(original_spot)},
            name=picture.file_name,
            seconds=_SECONDS,
            memory_bytes=COPY_MEMORY_BYTES,
        )
        return original_spot.read_bytes(), copy_spot.read_bytes()
