"""The pictures that a PDF stores, each once, on disk while the PDF is written.

A stream that is made in memory stays there until its PDF is saved. So pictures are first written to
a file, one by one, as a PDF without pages; opened again, that PDF gets the pages, and when it is
saved the streams are copied from the file.
"""

from collections.abc import Callable, Iterator
from contextlib import contextmanager
from dataclasses import dataclass
from hashlib import sha256
from pathlib import Path
from types import TracebackType

import pikepdf

from harnet.media.pdf.writing.finish import Finish, icc_stream
from harnet.media.pdf.writing.streams import FileStream, StoredImage, channels_of
from harnet.media.pixels.colour import srgb_profile

_CHANNELS = {"/DeviceGray": 1, "/DeviceRGB": 3, "/DeviceCMYK": 4}
_CATALOG, _PAGES = 1, 2
_MAPPED_BYTES, _SCRATCH_BYTES = 200_000_000, 16_000_000


@dataclass(frozen=True, slots=True, kw_only=True)
class KeptImage:
    """An image in the file: its object number, its pixels, and its profile's hash."""

    number: int
    px_w: int
    px_h: int
    how: str
    icc: str | None


def _parts_of(stream: pikepdf.Object) -> tuple[pikepdf.Dictionary, bytes]:
    """What is said of a stream, as a copy, and its bytes as they are compressed."""
    return pikepdf.Dictionary(dict(stream.stream_dict.items())), stream.read_raw_bytes()


class ImageStore:
    """Images of one PDF by what they hold; what is used again is not stored again."""

    def __init__(self, folder: Path, finish: Finish) -> None:
        self._path = folder / "images.pdf"
        self._file = self._path.open("wb")
        self._starts: list[int] = []
        self._kept: dict[str, KeptImage] = {}
        self._profiles: dict[str, bytes] = {}
        self._spaces: dict[str, pikepdf.Object] = {}
        self._explained: set[int] = set()
        self._is_x4 = finish.is_x4
        self._intent = finish.intent.read_bytes() if finish.intent else None
        self._scratch, self._scratch_bytes = pikepdf.new(), 0
        self._pdf: pikepdf.Pdf | None = None
        self._at = self._file.write(b"%PDF-1.7\n")
        """Where the next object begins; asking the file would have it written out each time."""
        self._write(b"<< /Type /Catalog /Pages %d 0 R >>" % _PAGES)
        self._write(b"<< /Type /Pages /Kids [] /Count 0 >>")

    def __enter__(self) -> "ImageStore":
        return self

    def __exit__(
        self,
        kind: type[BaseException] | None,
        error: BaseException | None,
        trace: TracebackType | None,
    ) -> None:
        self._file.close()

    def add(self, key: str, make: Callable[[pikepdf.Pdf], StoredImage]) -> None:
        """Makes the image of that key and writes it to the file, unless it is there."""
        if key in self._kept:
            return
        if self._scratch_bytes > _SCRATCH_BYTES:
            self._scratch, self._scratch_bytes = pikepdf.new(), 0
        stored = make(self._scratch)
        if isinstance(stored.stream, FileStream):
            about, data = stored.stream.about, stored.stream.data
            number = self._write_data(about, data)
        else:
            about, data = _parts_of(stored.stream)
            self._scratch_bytes += len(data)
            reference = b""
            if "/SMask" in about:
                mask, mask_data = _parts_of(about.SMask)
                del about["/SMask"]
                self._scratch_bytes += len(mask_data)
                reference = b" /SMask %d 0 R" % self._write_data(mask, mask_data)
            number = self._write_data(about, data, reference)
        px_w, px_h = int(about.Width), int(about.Height)
        self._kept[key] = KeptImage(
            number=number, px_w=px_w, px_h=px_h, how=stored.how, icc=self._profile(stored.icc)
        )

    @contextmanager
    def opened(self) -> Iterator[pikepdf.Pdf]:
        """The PDF with all images and no pages yet."""
        start = self._at
        count = len(self._starts) + 1
        # The cross-reference table (ISO 32000-2, 7.5.4): twenty bytes an entry.
        lines = [b"0000000000 65535 f \n", *(b"%010d 00000 n \n" % at for at in self._starts)]
        self._file.write(b"xref\n0 %d\n%s" % (count, b"".join(lines)))
        trailer = b"trailer\n<< /Size %d /Root %d 0 R >>\nstartxref\n%d\n%%%%EOF\n"
        self._file.write(trailer % (count, _CATALOG, start))
        self._file.close()
        # Mapping a file is faster, but what is read of it counts as memory until it is closed.
        is_small = self._path.stat().st_size <= _MAPPED_BYTES
        mode = pikepdf.AccessMode.mmap if is_small else pikepdf.AccessMode.stream
        with pikepdf.open(self._path, access_mode=mode) as pdf:
            self._pdf = pdf
            yield pdf

    def image(self, key: str) -> tuple[KeptImage, pikepdf.Object]:
        """An image of the opened PDF, with what is known of it."""
        assert self._pdf is not None
        kept = self._kept[key]
        image = self._pdf.get_object(kept.number, 0)
        if kept.number not in self._explained:
            self._explained.add(kept.number)
            self._explain_colours(image, kept.icc)
        return kept, image

    def srgb(self) -> pikepdf.Object:
        """The sRGB colour space, one for the whole PDF."""
        return self._space(self._profile(srgb_profile()), 3)

    def _write(self, content: bytes) -> int:
        """Writes an object and returns its number."""
        return self._put(b"%d 0 obj\n%s\nendobj\n", content)

    def _write_data(self, about: pikepdf.Object, data: bytes, reference: bytes = b"") -> int:
        """Writes a stream and returns its number."""
        about["/Length"] = len(data)
        words = about.unparse().rstrip()[:-2] + reference + b" >>"
        number = self._put(b"%d 0 obj\n%s\nstream\n", words)
        self._at += self._file.write(data) + self._file.write(b"\nendstream\nendobj\n")
        return number

    def _put(self, layout: bytes, content: bytes) -> int:
        self._starts.append(self._at)
        number = len(self._starts)
        self._at += self._file.write(layout % (number, content))
        return number

    def _explain_colours(self, image: pikepdf.Object, icc: str | None) -> None:
        """Gives samples their profile; in PDF/X-4 nothing stays plain red, green and blue."""
        space = image.ColorSpace
        is_palette = isinstance(space, pikepdf.Array)
        base = space[1] if is_palette else space
        channels = _CHANNELS.get(str(base), 0)
        if not channels or (channels == 1 and int(image.BitsPerComponent) == 1):
            return
        meaning = None
        if icc is not None and channels_of(self._profiles[icc]) == channels:
            # Inks of the output intent are written without a profile (ISO 15930-7, 6.2.3).
            if self._profiles[icc] != self._intent:
                meaning = self._space(icc, channels)
        elif channels == 3 and self._is_x4:
            meaning = self.srgb()
        if meaning is not None and is_palette:
            space[1] = meaning
        elif meaning is not None:
            image.ColorSpace = meaning

    def _profile(self, icc: bytes | None) -> str | None:
        """A profile's hash, by which it is kept once."""
        if icc is None:
            return None
        key = sha256(icc).hexdigest()
        self._profiles.setdefault(key, icc)
        return key

    def _space(self, icc: str | None, channels: int) -> pikepdf.Object:
        assert icc is not None and self._pdf is not None
        if icc not in self._spaces:
            stream = icc_stream(self._pdf, self._profiles[icc], channels)
            self._spaces[icc] = pikepdf.Array([pikepdf.Name.ICCBased, stream])
        return self._spaces[icc]
