"""The facts of any picture file: one door to the readers of each format."""

import tempfile
from pathlib import Path

from harnet.core.measure.wording import grouped
from harnet.core.pictures.picture import Colour, Facts, Kind, oriented_size
from harnet.media.errors import UnreadableFile
from harnet.media.facts.gif_bmp_webp import read_bmp, read_gif, read_webp
from harnet.media.facts.header import Header
from harnet.media.facts.heif import read_heif
from harnet.media.facts.icc import profile_name
from harnet.media.facts.jpeg import read_jpeg
from harnet.media.facts.pdf_page import read_pdf
from harnet.media.facts.png import read_png
from harnet.media.facts.source import Beginning, HeaderSource, NeedsMore
from harnet.media.facts.svg import read_svg
from harnet.media.facts.tiff import read_tiff
from harnet.media.limits import MAX_PIXELS

_SNIFFED_BYTES = 1024
_MOST_BITS, _MOST_FRAMES, _HIGHEST_PPI, _LONGEST_TEXT = 64, 100_000, 1e6, 200
_STILL_BRANDS = frozenset(
    {b"mif1", b"mif2", b"miaf", b"msf1", b"heic", b"heix", b"heim", b"heis", b"hevc", b"hevx"}
    | {b"avif", b"avis", b"mif3", b"jpeg", b"1pic"}
)
"""ISO/IEC 23008-12 and the AVIF specification, from memory."""
_KNOWN = "JPEG, PNG, TIFF, WebP, GIF, BMP, HEIF, AVIF, SVG or PDF"


def facts_of(path: Path, name: str | None = None) -> Facts:
    """What the file's header says; the picture is not decoded.

    `name` is what the person calls the file, where that is not its path's last part.

    Raises:
        UnreadableFile: not a picture of a known kind, damaged, too large, or not self-contained.
    """
    shown = name or path.name
    if path.is_dir():
        raise UnreadableFile(shown, "it is a folder, not a picture")
    start, header = _start_and_header(path, shown)
    if header is not None:
        return _facts_from(header, path.stat().st_size, shown)
    if start.lstrip(b"\0\t\r\n ").startswith(b"%PDF-") or b"%PDF-" in start:
        return read_pdf(path, shown)
    if _looks_like_xml(start):
        return read_svg(path, shown)
    raise UnreadableFile(
        shown, "its content is not a picture format that Harnet reads", f"It reads {_KNOWN}"
    )


def raster_facts_of(data: bytes, name: str) -> Facts | None:
    """What the header of a raster picture in memory says; None for anything else.

    Raises:
        UnreadableFile: damaged, or too large.
    """
    with HeaderSource.of_bytes(data, name) as source:
        start = source.start(_SNIFFED_BYTES)
        if start[4:8] == b"ftyp" and _is_heif(start):
            with tempfile.NamedTemporaryFile(suffix=".heif") as file:
                file.write(data)
                file.flush()
                header: Header | None = read_heif(Path(file.name), name)
        else:
            header = _raster_header(source, start, None)
    return None if header is None else _facts_from(header, len(data), name)


def facts_of_beginning(data: bytes, name: str, size_bytes: int) -> Facts | None:
    """What the header of a raster picture says, of whose `size_bytes` these are the first.

    Raises:
        NeedsMore: the header, or what kind of file it is, cannot be told from these.
        UnreadableFile: damaged, or too large.
    """
    with Beginning.of_size(data, name, size_bytes) as source:
        header = _raster_header(source, source.start(_SNIFFED_BYTES), None)
    if header is None:
        raise NeedsMore
    return _facts_from(header, size_bytes, name)


def raster_header(path: Path, name: str) -> Header | None:
    """A raster file's header as stored, with its ICC profile; None for a vector picture.

    Raises:
        UnreadableFile: the file cannot be read.
    """
    return _start_and_header(path, name)[1]


def raster_header_in(data: bytes, name: str) -> Header | None:
    """The header of a raster file that is in memory; None for anything else.

    Raises:
        UnreadableFile: it is damaged.
    """
    with HeaderSource.of_bytes(data, name) as source:
        return _raster_header(source, data[:_SNIFFED_BYTES], None)


def _start_and_header(path: Path, shown: str) -> tuple[bytes, Header | None]:
    with HeaderSource(path, shown) as source:
        if source.size_bytes == 0:
            raise UnreadableFile(shown, "the file is empty, 0 bytes", "Download or export it again")
        start = source.start(_SNIFFED_BYTES)
        return start, _raster_header(source, start, path)


def _raster_header(source: HeaderSource, start: bytes, path: Path | None) -> Header | None:
    if start.startswith(b"\xff\xd8\xff"):
        return read_jpeg(source)
    if start.startswith(b"\x89PNG\r\n\x1a\n"):
        return read_png(source)
    if start[:4] in (b"II*\0", b"MM\0*", b"II+\0", b"MM\0+"):
        return read_tiff(source)
    if start[:6] in (b"GIF87a", b"GIF89a"):
        return read_gif(source)
    if start[:2] == b"BM" and start[6:10] == b"\0\0\0\0":
        return read_bmp(source)
    if start[:4] == b"RIFF" and start[8:12] == b"WEBP":
        return read_webp(source)
    if path is not None and start[4:8] == b"ftyp" and _is_heif(start):
        return read_heif(path, source.name)
    return None


def _is_heif(start: bytes) -> bool:
    """Whether the brands name a still picture; films are made of the same boxes."""
    length = min(int.from_bytes(start[:4], "big"), len(start))
    brands = {start[8:12], *(start[at : at + 4] for at in range(16, length, 4))}
    return bool(brands & _STILL_BRANDS)


def _looks_like_xml(start: bytes) -> bool:
    if start.startswith((b"\xff\xfe", b"\xfe\xff")):
        start = start.decode("utf-16", "ignore").encode()
    text = start.removeprefix(b"\xef\xbb\xbf").lstrip()
    if not text.startswith(b"<"):
        return False
    return (
        text.startswith((b"<?xml", b"<svg", b"<!--", b"<!DOCTYPE svg"))
        or b"<svg" in text
        or b"www.w3.org/2000/svg" in text
    )


def _facts_from(header: Header, size_bytes: int, name: str) -> Facts:
    if header.stored_w < 1 or header.stored_h < 1:
        raise UnreadableFile(name, "its header gives no size", "Download or export it again")
    if not 1 <= header.bits <= _MOST_BITS:
        raise UnreadableFile(
            name, f"its header gives {header.bits} bits per channel", "Download or export it again"
        )
    pixels = header.stored_w * header.stored_h
    if pixels > MAX_PIXELS:
        raise UnreadableFile(
            name,
            f"it declares {grouped(header.stored_w)} × {grouped(header.stored_h)} pixels,"
            f" {pixels / 1e6:.0f} megapixels; the limit is {MAX_PIXELS / 1e6:.0f}",
            "Split it or make it smaller first",
        )
    px_w, px_h = oriented_size(header.stored_w, header.stored_h, header.orientation)
    lies_on_side = (px_w, px_h) != (header.stored_w, header.stored_h) or header.orientation > 4
    x, y = _possible(header.density_x), _possible(header.density_y)
    return Facts(
        kind=Kind.RASTER,
        format=header.format,
        px_w=px_w,
        px_h=px_h,
        density_x=y if lies_on_side else x,
        density_y=x if lies_on_side else y,
        colour=header.colour,
        bits=1 if header.colour is Colour.BILEVEL else header.bits,
        channels=header.channels,
        alpha=header.alpha,
        lossy=header.lossy,
        icc=_short(profile_name(header.icc)),
        frames=max(1, min(header.frames, _MOST_FRAMES)),
        size_bytes=size_bytes,
        orientation=header.orientation if 1 <= header.orientation <= 8 else 1,
        compression=header.compression,
        jpeg_quality=header.jpeg_quality,
        density_unit=header.density_unit if x is not None and y is not None else None,
    )


def _possible(density_ppi: float | None) -> float | None:
    """A density tag that some picture could have; None for any other."""
    if density_ppi is None or not 0 < density_ppi <= _HIGHEST_PPI:
        return None
    return density_ppi


def _short(text: str | None) -> str | None:
    return None if text is None else text[:_LONGEST_TEXT]
