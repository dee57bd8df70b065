"""HEIF and AVIF headers, through libvips, which knows the container."""

from pathlib import Path

import pyvips

from harnet.core.pictures.picture import Colour
from harnet.media.errors import UnreadableFile
from harnet.media.facts.header import Header
from harnet.media.facts.tiff import exif_directory

_HEADER_BYTES = 1_000_000


def read_heif(path: Path, name: str) -> Header:
    """Facts of a HEIF or AVIF; libvips opens the header and decodes nothing.

    Raises:
        UnreadableFile: libvips cannot read it.
    """
    try:
        image = pyvips.Image.new_from_file(str(path), access="sequential")
    except pyvips.Error:
        raise UnreadableFile(
            name, "this HEIF or AVIF cannot be read", "Save it as JPEG or TIFF and try again"
        ) from None
    fields = set(image.get_fields())
    exif = None
    if "exif-data" in fields:
        exif = exif_directory(bytes(image.get("exif-data")).removeprefix(b"Exif\0\0"))
    x, y = exif.density_ppi if exif else (None, None)
    is_grey = image.interpretation in ("b-w", "grey16") or _is_monochrome(path)
    stated_bits = image.get("bits-per-sample") if "bits-per-sample" in fields else 8
    return Header(
        format="avif" if _is_av1(path) else "heif",
        stored_w=image.width,
        stored_h=image.height,
        colour=Colour.GREY if is_grey else Colour.RGB,
        bits=stated_bits if isinstance(stated_bits, int) and 1 <= stated_bits <= 16 else 8,
        channels=image.bands - 2 if is_grey and image.bands > 2 else image.bands,
        alpha=bool(image.hasalpha()),
        lossy=True,
        compression="AV1" if _is_av1(path) else "HEVC",
        density_x=x,
        density_y=y,
        icc=bytes(image.get("icc-profile-data")) if "icc-profile-data" in fields else None,
        frames=image.get("n-pages") if "n-pages" in fields else 1,
    )


def _is_av1(path: Path) -> bool:
    with path.open("rb") as file:
        return b"avif" in file.read(64)


def _is_monochrome(path: Path) -> bool:
    """Whether every decoder record in the file says that there is no colour.

    HEVC (ISO/IEC 14496-15, 8.3.3.1) states its chroma format, AV1 (AV1 in ISOBMFF, 2.3) a flag;
    both from memory. An alpha plane has a record of its own, which is monochrome always.
    """
    with path.open("rb") as file:
        start = file.read(_HEADER_BYTES)
    kinds = []
    for mark, place, is_grey in (
        (b"hvcC", 16, lambda byte: byte & 3 == 0),
        (b"av1C", 2, lambda byte: bool(byte & 0x10)),
    ):
        at = start.find(mark)
        while at >= 0:
            record = at + len(mark)
            if record + place < len(start):
                kinds.append(is_grey(start[record + place]))
            at = start.find(mark, record)
    return bool(kinds) and all(kinds)
