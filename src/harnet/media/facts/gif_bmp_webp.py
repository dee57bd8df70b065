"""Headers of the smaller formats: GIF89a, BMP and WebP."""

from harnet.core.pictures.picture import Colour, DensityUnit
from harnet.media.facts.header import Header
from harnet.media.facts.source import HeaderSource
from harnet.media.facts.tiff import exif_directory

_MOST_FRAMES = 100_000
_BMP_BITS = (1, 2, 4, 8, 16, 24, 32)


def read_gif(source: HeaderSource) -> Header:
    """Facts of a GIF; its blocks are walked to count the frames and to find the end."""
    width, height, flags = source.unpack("<HHB", 6)
    offset = 13 + _table_bytes(flags)
    frames, alpha, bits = 0, False, _table_bits(flags)
    while frames <= _MOST_FRAMES:
        if frames and offset >= source.size_bytes:
            # Some writers leave the trailer out; every frame is whole.
            break
        (kind,) = source.unpack("B", offset)
        if kind == 0x3B:
            break
        if kind == 0x21:
            (label,) = source.unpack("B", offset + 1)
            if label == 0xF9:
                # What later frames leave out was painted before; the picture is the first frame.
                alpha = alpha or (frames == 0 and bool(source.unpack("B", offset + 3)[0] & 1))
            offset = _after_blocks(source, offset + 2)
        elif kind == 0x2C:
            left, top, across, down, flags = source.unpack("<HHHHB", offset + 1)
            if frames == 0 and flags & 0x80:
                bits = _table_bits(flags)
            covers = (left, top) == (0, 0) and across >= width and down >= height
            alpha = alpha or (frames == 0 and not covers)
            frames += 1
            offset = _after_blocks(source, offset + 11 + _table_bytes(flags))
        else:
            raise source.failure("its GIF blocks are invalid")
    if frames == 0 or width < 1 or height < 1:
        raise source.failure("it is a GIF without an image")
    return Header(
        format="gif",
        stored_w=width,
        stored_h=height,
        colour=Colour.PALETTE,
        bits=bits,
        channels=1,
        alpha=alpha,
        compression="LZW",
        frames=frames,
    )


def _table_bits(flags: int) -> int:
    """The bits of an index into a colour table (GIF89a, 18 and 20, from memory)."""
    return (flags & 7) + 1


def _table_bytes(flags: int) -> int:
    return 3 << ((flags & 7) + 1) if flags & 0x80 else 0


def _after_blocks(source: HeaderSource, offset: int) -> int:
    while length := source.unpack("B", offset)[0]:
        offset += 1 + length
    return offset + 1


def read_bmp(source: HeaderSource) -> Header:
    """Facts of a BMP."""
    data_at, header_size = source.unpack("<II", 10)
    if header_size < 16:
        width, height, _, bits = source.unpack("<HHHH", 18)
        if width < 1 or height < 1 or bits not in _BMP_BITS:
            raise source.failure("its BMP header is invalid")
        return Header(
            format="bmp",
            stored_w=width,
            stored_h=height,
            colour=_bmp_colour(bits),
            bits=bits if bits <= 8 else 8,
            channels=1 if bits <= 8 else 3,
            compression="none",
        )
    width, height, _, bits, compression, _, x, y = source.unpack("<iiHHIIii", 18)
    height = abs(height)
    if width < 1 or height < 1 or bits not in _BMP_BITS:
        raise source.failure("its BMP header is invalid")
    if compression == 0 and data_at + (width * bits + 31) // 32 * 4 * height > source.size_bytes:
        raise source.broken_off()
    colour = _bmp_colour(bits)
    if bits == 1:
        table = source.at(14 + header_size, 8)
        is_ink_and_paper = {table[:3], table[4:7]} == {b"\0\0\0", b"\xff\xff\xff"}
        colour = Colour.BILEVEL if is_ink_and_paper else Colour.PALETTE
    has_density = x > 0 and y > 0
    # The alpha mask stands behind those of the colours, in headers that have room for it.
    has_alpha = compression in (3, 6) and bits in (16, 32) and header_size >= 56
    has_alpha = has_alpha and source.unpack("<I", 66)[0] != 0
    return Header(
        format="bmp",
        stored_w=width,
        stored_h=height,
        colour=colour,
        bits=bits if bits <= 8 else 8,
        channels=1 if bits <= 8 else 4 if has_alpha else 3,
        alpha=has_alpha,
        compression="none" if compression in (0, 3, 6) else "RLE",
        density_x=x * DensityUnit.METRE.per_inch if has_density else None,
        density_y=y * DensityUnit.METRE.per_inch if has_density else None,
        density_unit=DensityUnit.METRE,
    )


def _bmp_colour(bits: int) -> Colour:
    return Colour.PALETTE if bits <= 8 else Colour.RGB


def read_webp(source: HeaderSource) -> Header:
    """Facts of a WebP: the simple lossy and lossless forms and the extended one."""
    (riff_size,) = source.unpack("<I", 4)
    if 8 + riff_size > source.size_bytes:
        raise source.broken_off()
    width = height = frames = 0
    alpha = lossy = False
    icc = exif = None
    offset = 12
    while offset + 8 <= 8 + riff_size:
        name = source.at(offset, 4)
        (length,) = source.unpack("<I", offset + 4)
        body = offset + 8
        if name == b"VP8X":
            (flags,) = source.unpack("B", body)
            alpha = bool(flags & 0x10)
            width = 1 + int.from_bytes(source.at(body + 4, 3), "little")
            height = 1 + int.from_bytes(source.at(body + 7, 3), "little")
        elif name == b"VP8 ":
            lossy = True
            if not width:
                width, height = (side & 0x3FFF for side in source.unpack("<HH", body + 6))
        elif name == b"VP8L" and not width:
            (packed,) = source.unpack("<I", body + 1)
            width, height = (packed & 0x3FFF) + 1, (packed >> 14 & 0x3FFF) + 1
            alpha = bool(packed >> 28 & 1)
        elif name == b"ANMF":
            frames += 1
            lossy = lossy or source.at(body + 16, 4) in (b"VP8 ", b"ALPH")
        elif name == b"ICCP":
            icc = source.at(body, length)
        elif name == b"EXIF":
            exif = exif_directory(source.at(body, length).removeprefix(b"Exif\0\0"))
        offset = body + length + length % 2
    if width < 1 or height < 1:
        raise source.failure("it is a WebP without an image")
    x, y = exif.density_ppi if exif else (None, None)
    return Header(
        format="webp",
        stored_w=width,
        stored_h=height,
        colour=Colour.RGB,
        bits=8,
        channels=4 if alpha else 3,
        alpha=alpha,
        lossy=lossy,
        compression="WebP",
        density_x=x,
        density_y=y,
        icc=icc,
        frames=max(1, frames),
        orientation=exif.number(274, 1) if exif else 1,
    )
