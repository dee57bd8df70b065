"""Content streams as lists of operators, and typed looks into objects that may hold anything."""

import re
import zlib
from collections.abc import Iterable, Iterator
from dataclasses import dataclass, field
from typing import Any
from urllib.parse import unquote_to_bytes

import pikepdf

from harnet.core.measure.geometry import Matrix
from harnet.media.pdf.walking.clip import CLIP_OPERATORS, PAINT_OPERATORS, PATH_OPERATORS, Bounds
from harnet.media.pdf.walking.layers import Key

Instructions = list[tuple[str, Any]]
NONSENSE = (
    *(pikepdf.PdfError, TypeError, ValueError, LookupError, AttributeError, RuntimeError),
    ArithmeticError,
)
"""What pikepdf raises on objects that are not what they should be."""
FAR = 1e9
"""Points, or units: what lies farther, or is larger, is no page's business; 350 km."""
MISSING = "content missing from the file"
CANNOT_BE_READ = "content that cannot be read"
FILL_OPERATORS = frozenset({"f", "F", "f*", "B", "B*", "b", "b*"})
_MOST_KEPT = 200_000
_WITH_KEYS = (pikepdf.Dictionary, pikepdf.Stream)


FILLED_BOX = "FILLED BOX"
"""Stands for a path that is one rectangle, and its filling; operands x, y, width, height."""
_IMAGES = frozenset({"Do", "EI", "INLINE IMAGE"})
_LARGEST_STREAM = 300_000_000
"""Bytes of a content stream, unpacked: a hundred times what a crowded page has."""
_CERTAINLY_SMALL = 250_000
"""Packed bytes that cannot unpack to more: Deflate packs a thousandfold at most."""
_LEAST_SALVAGED = 64
_ENDLESS_IMAGE = re.compile(rb"\sBI\s(?:(?!\sEI\s).)*?\sID\s(?:(?!\sEI\b).)*?[\r\n]Q\s", re.DOTALL)
"""An image within content that has no end before the graphics state is restored."""


_LONG = 1_000_000
_PIECE = 250_000
"""Bytes of content that is read piece by piece, and of a piece."""
_RESTORED = re.compile(rb"\sQ\s")
_END = "piece-ends"
"""Stands behind a piece: an operator of no meaning, which a string that is still open swallows."""


@dataclass(slots=True)
class Read:
    """A content stream as operators, and what of it could not be read, empty where all could.

    Of long content the operators come as it is read, once, and `lost` is whole after the last.
    """

    instructions: Iterable[tuple[str, Any]]
    lost: str = ""


@dataclass(slots=True)
class Parsed:
    """Streams of a page as operators; one that is entered again is not parsed again."""

    kept: dict[tuple[Key, frozenset[str], bool], Read] = field(default_factory=dict)
    size: int = 0
    is_careful: bool = False
    """Whether each stream of a page is read by itself: what one leaves open swallows no other."""

    def read(
        self,
        stream: pikepdf.Object | pikepdf.Page,
        wanted: frozenset[str],
        has_image: bool = False,
    ) -> Read:
        """The operators that are wanted; those of paths only where something is clipped, or where
        a rectangle is filled behind an image in painting order.

        `has_image` says that an image was painted before. What cannot be read is passed over, as
        every renderer does, and told.
        """
        if isinstance(stream, pikepdf.Page):
            return _read(stream, wanted, has_image, self.is_careful)
        key = stream.objgen, wanted, has_image
        if key in self.kept:
            return self.kept[key]
        found = _read(stream, wanted, has_image, self.is_careful)
        if isinstance(found.instructions, list):
            self.size += len(found.instructions)
            if self.size <= _MOST_KEPT:
                self.kept[key] = found
        return found


def _read(
    stream: pikepdf.Object | pikepdf.Page,
    wanted: frozenset[str],
    has_image: bool,
    is_careful: bool,
) -> Read:
    streams, lost = _streams_of(stream)
    if not streams:
        return Read([], lost)
    if any(map(_may_be_long, streams)):
        contents = list(map(_data_of, streams))
        if sum(map(len, contents)) > _LONG:
            read = Read([], lost)
            whole = contents if is_careful else [b"\n".join(contents)]
            read.instructions = _by_pieces(whole, wanted, has_image, read)
            return read
    try:
        if lost:
            found = _operators_in(b"\n".join(map(_data_of, streams)), wanted, has_image)
        else:
            found = _operators(stream, wanted, has_image)
        if not is_careful:
            return Read(found, lost)
    except NONSENSE:
        found = []
    apart: Instructions = []
    for one in streams:
        _salvage(_data_of(one), wanted, has_image, apart)
    # Some producers let a token go on in the next stream; then the whole gives more.
    more: Instructions = max(found, apart, key=len)
    return Read(more, lost or CANNOT_BE_READ)


def _streams_of(stream: pikepdf.Object | pikepdf.Page) -> tuple[list[Any], str]:
    """The content streams that can be unpacked, and what is wrong with the others."""
    lost = ""
    if isinstance(stream, pikepdf.Page):
        if "/Contents" not in stream.obj:
            # A reference that leads nowhere is listed, and not among the keys.
            is_gone = any(key == "/Contents" for key, _ in stream.obj.items())
            return [], MISSING if is_gone else ""
        contents = stream.obj["/Contents"]
        listed = list(contents) if isinstance(contents, pikepdf.Array) else [contents]
    else:
        listed = [stream]
    sound = []
    for one in listed:
        if not isinstance(one, pikepdf.Stream):
            lost = MISSING
        elif not _can_be_unpacked(one):
            lost = CANNOT_BE_READ
        elif is_too_large(one):
            lost = lost or f"content of more than {_LARGEST_STREAM // 1_000_000} MB"
        else:
            sound.append(one)
    return sound, lost


def _can_be_unpacked(stream: pikepdf.Stream) -> bool:
    """Whether the filters are ones that unpack to text; broken data is noticed on the way."""
    filters = stream.get("/Filter")
    names = list(filters) if isinstance(filters, pikepdf.Array) else [filters]
    return not any(isinstance(one, pikepdf.Name) and str(one) in _FOR_IMAGES for one in names)


_FOR_IMAGES = frozenset({"/DCTDecode", "/JPXDecode", "/CCITTFaxDecode", "/JBIG2Decode", "/Crypt"})


def is_too_large(stream: pikepdf.Stream) -> bool:
    """Whether a stream unpacks to more than any page needs; it is unpacked piece by piece."""
    try:
        raw = stream.read_raw_bytes()
        filters = stream.get("/Filter")
        names = list(filters) if isinstance(filters, pikepdf.Array) else [filters]
        flates = sum(one == "/FlateDecode" or one == "/Fl" for one in names)
        if len(raw) <= _CERTAINLY_SMALL and flates < 2:
            return len(raw) > _LARGEST_STREAM
        packed: list[bytes] = [raw]
        for _ in range(flates):
            packed = list(_unpacked(packed))
            if sum(map(len, packed)) > _LARGEST_STREAM:
                return True
        return sum(map(len, packed)) > _LARGEST_STREAM
    except NONSENSE:
        return False


def _unpacked(blocks: list[bytes]) -> Iterator[bytes]:
    """Deflated blocks unpacked, until there is too much of them or one is broken."""
    unpacker, made = zlib.decompressobj(), 0
    for block in blocks:
        rest = block
        while rest and made <= _LARGEST_STREAM:
            try:
                piece = unpacker.decompress(rest, 1 << 20)
            except zlib.error:
                return
            made += len(piece)
            yield piece
            rest = unpacker.unconsumed_tail


def _may_be_long(stream: pikepdf.Stream) -> bool:
    """Whether unpacking it may give long content; Deflate packs a thousandfold at most.

    What is packed twice may be longer than it seems; it is read at once then, within the limits.
    """
    try:
        size = int(stream["/Length"])
    except NONSENSE:
        return True
    return size > _LONG // 1000


def _by_pieces(
    contents: list[bytes], wanted: frozenset[str], has_image: bool, read: Read
) -> Iterator[tuple[str, Any]]:
    """The operators of long content, read as they are asked for.

    It is cut where the graphics state was restored, as no path, text or operand goes on there.
    """
    for data in contents:
        start, size = 0, _PIECE
        while start < len(data):
            cut = _RESTORED.search(data, start + size) if start + size < len(data) else None
            end = cut.end() if cut else len(data)
            found: Instructions = []
            try:
                found = _operators_in(data[start:end], wanted, has_image, _END if cut else "")
            except NONSENSE:
                read.lost = read.lost or CANNOT_BE_READ
                _salvage(data[start:end], wanted, has_image, found)
            else:
                if cut and (not found or found.pop()[0] != _END):
                    # The cut fell into a string, or an image within the content: farther on, then.
                    size *= 2
                    continue
            has_image = has_image or any(name in _IMAGES for name, _ in found)
            yield from found
            start, size = end, _PIECE


def _operators_in(
    data: bytes, wanted: frozenset[str], has_image: bool, end: str = ""
) -> Instructions:
    """The operators in unpacked content, and `end` last of all where it is not swallowed."""
    if end:
        data, wanted = data + end.encode(), wanted | {end}
    # The stream lives as long as the document that it is made for.
    with pikepdf.new() as scratch:
        return _operators(pikepdf.Stream(scratch, data), wanted, has_image)


def _data_of(stream: Any) -> bytes:
    try:
        return bytes(stream.read_bytes())
    except NONSENSE:
        # Cut-off data: what was packed before the fault.
        return b"".join(_unpacked([stream.read_raw_bytes()]))


def _salvage(data: bytes, wanted: frozenset[str], has_image: bool, found: Instructions) -> None:
    """Reads on behind what no parser takes: the content is halved until a half can be read.

    Behind an image within the content that does not end, it goes on where the state is restored.
    """
    try:
        found += _operators_in(data, wanted, has_image)
        if opened := _ENDLESS_IMAGE.search(data):
            _salvage(data[opened.end() :], wanted, has_image, found)
        return
    except NONSENSE:
        if len(data) <= _LEAST_SALVAGED:
            return
    middle = len(data) // 2
    breaks = [at for mark in (b"\n", b" ") if (at := data.find(mark, middle)) > 0]
    at = min(breaks, default=middle)
    if at <= 0 or at >= len(data) - 1:
        at = middle
    _salvage(data[:at], wanted, has_image, found)
    _salvage(data[at:], wanted, has_image, found)


def _operators(
    stream: pikepdf.Object | pikepdf.Page, wanted: frozenset[str], has_image: bool
) -> Instructions:
    found = _parsed(stream, wanted | FILL_OPERATORS)
    has_clips = covers = False
    for name, _ in found:
        if name in _IMAGES:
            has_image = True
        elif name in CLIP_OPERATORS:
            has_clips = True
        elif name in FILL_OPERATORS and has_image:
            covers = True
    if has_clips or covers:
        return _with_paths(stream, wanted)
    return [one for one in found if one[0] in wanted or one[0] not in FILL_OPERATORS]


def _parsed(stream: pikepdf.Object | pikepdf.Page, wanted: frozenset[str]) -> Instructions:
    found = pikepdf.parse_content_stream(stream, " ".join(wanted))
    return [(str(one.operator), one.operands) for one in found]


def _with_paths(stream: pikepdf.Object | pikepdf.Page, wanted: frozenset[str]) -> Instructions:
    """The operators that are wanted, and before them the paths that clip; a map has few of those.

    What paints a path that clips is among them, as that is where the clip begins. A rectangle that
    is filled and does not clip is one operator.
    """
    kept: Instructions = []
    path: list[Any] = []
    clips = False
    operators = wanted | PATH_OPERATORS | PAINT_OPERATORS
    keeps_paths = bool(PATH_OPERATORS & wanted)
    for one in pikepdf.parse_content_stream(stream, " ".join(operators)):
        name = str(one.operator)
        if name in PATH_OPERATORS or name in CLIP_OPERATORS:
            path.append(one)
            clips = clips or name in CLIP_OPERATORS
            continue
        if name in PAINT_OPERATORS:
            if clips or keeps_paths:
                kept += [(str(part.operator), part.operands) for part in path]
            if len(path) == 1 and name in FILL_OPERATORS and str(path[0].operator) == "re":
                kept.append((FILLED_BOX, path[0].operands))
            if clips or keeps_paths or name in wanted:
                kept.append((name, one.operands))
            path, clips = [], False
        else:
            kept.append((name, one.operands))
    return kept


def entry(dictionary: Any, key: str, otherwise: Any = None) -> Any:
    """What stands under a key; pikepdf's own `get` takes four times as long where nothing does."""
    return dictionary[key] if key in dictionary else otherwise  # noqa: SIM401


def dictionary_in(thing: Any, key: str) -> Any:
    """The dictionary under a key; an empty one for anything else."""
    if isinstance(thing, _WITH_KEYS) and key in thing:
        found = thing[key]
        if isinstance(found, pikepdf.Dictionary):
            return found
    return pikepdf.Dictionary()


def matrix_from(numbers: Any) -> Matrix | None:
    """Six finite numbers as a matrix; None for anything else."""
    values = _numbers(numbers, 6)
    return Matrix(*values) if values else None


def bounds_from(numbers: Any) -> Bounds | None:
    """Four numbers as a box, whichever corners they name; None for anything else."""
    values = _numbers(numbers, 4)
    if not values:
        return None
    x1, y1, x2, y2 = values
    return min(x1, x2), min(y1, y2), max(x1, x2), max(y1, y2)


def number_from(thing: Any) -> float:
    """A number within what a page could use; 0 for anything else."""
    found = _numbers([thing], 1)
    return found[0] if found else 0.0


def _numbers(numbers: Any, count: int) -> list[float]:
    """So many numbers, each within what a page could use; an empty list for anything else."""
    try:
        values = [float(number) for number in numbers]
    except NONSENSE:
        return []
    is_sound = len(values) == count and min(values) >= -FAR and max(values) <= FAR
    return values if is_sound else []


def last_numbers(operands: Any, count: int) -> list[float]:
    """The last so many operands as numbers; an empty list where they are none.

    Surplus operands before them are passed over, as every renderer does.
    """
    if len(operands) < count:
        return []
    return _numbers(list(operands)[-count:], count)


def strings_of(name: str, operands: list[Any]) -> list[Any]:
    """The strings and numbers that a text operator shows."""
    if not len(operands):
        return []
    if name == "TJ":
        return list(operands[-1]) if isinstance(operands[-1], pikepdf.Array) else []
    return [operands[-1]] if isinstance(operands[-1], pikepdf.String) else []


def name_text(name: Any) -> str:
    """A name as text; bytes that are not UTF-8, as older producers write them, as replacements."""
    try:
        return str(name)
    except UnicodeDecodeError:
        stored: bytes = name.unparse()
        return unquote_to_bytes(stored.replace(b"#", b"%")).decode("utf-8", "replace")


def last_name(operands: list[Any]) -> pikepdf.Name | None:
    """The last operand, where it is a name."""
    if not len(operands):
        return None
    name = operands[-1]
    return name if isinstance(name, pikepdf.Name) else None
