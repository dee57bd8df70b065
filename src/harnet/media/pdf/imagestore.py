"""The pictures that a PDF stores: each once, with profiles shared, and their bytes kept on disk.

A stream made in memory stays there until the PDF is saved. So finished streams are written to a
PDF of their own now and then, from which the last one copies them while it is saved.
"""

from collections.abc import Callable
from dataclasses import dataclass
from hashlib import sha256
from pathlib import Path

import pikepdf

from harnet.media.pdf.finish import Finish, icc_stream, srgb_profile
from harnet.media.pdf.streams import StoredImage, channels_of

_KEPT_IN_MEMORY_BYTES = 32_000_000
_CHANNELS = {"/DeviceGray": 1, "/DeviceRGB": 3, "/DeviceCMYK": 4}


@dataclass(frozen=True, slots=True)
class KeptImage:
    """What is remembered of an image once its bytes lie on disk; `icc` is its profile's hash."""

    px_w: int
    px_h: int
    how: str
    icc: str | None


class ImageStore:
    """Images of one PDF by what they hold; used again, they are not stored again."""

    def __init__(self, pdf: pikepdf.Pdf, folder: Path, finish: Finish) -> None:
        self._pdf, self._folder, self._finish = pdf, folder, finish
        self._made: dict[str, KeptImage] = {}
        self._copied: dict[str, pikepdf.Object] = {}
        self._uses: list[tuple[str, pikepdf.Dictionary, str]] = []
        self._scratch = pikepdf.new()
        self._scratch_bytes = 0
        self._opened: list[pikepdf.Pdf] = []
        self._profiles: dict[str, bytes] = {}
        self._spaces: dict[str, pikepdf.Object] = {}
        self._intent = finish.intent.read_bytes() if finish.intent else None

    def use(
        self,
        key: str,
        make: Callable[[pikepdf.Pdf], StoredImage],
        xobjects: pikepdf.Dictionary,
        name: str,
    ) -> KeptImage:
        """The image of that key, made unless it is there, as `name` among a page's resources."""
        kept = self._made.get(key)
        if kept is None:
            stored = make(self._scratch)
            stream = stored.stream
            kept = self._made[key] = KeptImage(
                int(stream.Width), int(stream.Height), stored.how, self._profile(stored.icc)
            )
            self._scratch.Root[f"/Image{len(self._made)}"] = stream
            self._scratch_bytes += memoryview(stream.get_raw_stream_buffer()).nbytes
        self._uses.append((key, xobjects, name))
        if self._scratch_bytes > _KEPT_IN_MEMORY_BYTES:
            self.settle()
        return kept

    def settle(self) -> None:
        """Writes what is in memory to disk and puts every image in its place in the PDF."""
        fresh = [key for key in self._made if key not in self._copied]
        if fresh:
            path = self._folder / f"images-{len(self._opened)}.pdf"
            names = {key: f"/Image{index}" for index, key in enumerate(self._made, 1)}
            self._scratch.save(path, compress_streams=False)
            kept = pikepdf.open(path, access_mode=pikepdf.AccessMode.stream)
            self._opened.append(kept)
            for key in fresh:
                image = self._pdf.copy_foreign(kept.Root[names[key]])
                self._explain_colours(image, self._made[key].icc)
                self._copied[key] = image
            self._scratch, self._scratch_bytes = pikepdf.new(), 0
        for key, xobjects, name in self._uses:
            xobjects[name] = self._copied[key]
        self._uses = []

    def close(self) -> None:
        """Lets the files on disk go, once the PDF is saved."""
        for kept in self._opened:
            kept.close()

    def srgb(self) -> pikepdf.Object:
        """The sRGB colour space, one for the whole PDF."""
        return self._space(self._profile(srgb_profile()), 3)

    def _explain_colours(self, image: pikepdf.Object, icc: str | None) -> None:
        """Gives samples their profile; in PDF/X-4 nothing stays plain red, green and blue."""
        channels = _CHANNELS.get(str(image.ColorSpace), 0)
        if int(image.BitsPerComponent) == 1 or not channels:
            return
        if icc is not None and channels_of(self._profiles[icc]) == channels:
            # Inks of the output intent are written without a profile (ISO 15930-7, 6.2.3).
            if self._profiles[icc] != self._intent:
                image.ColorSpace = self._space(icc, channels)
        elif channels == 3 and self._finish.is_x4:
            image.ColorSpace = self.srgb()

    def _profile(self, icc: bytes | None) -> str | None:
        """A profile's hash, by which it is kept once."""
        if icc is None:
            return None
        key = sha256(icc).hexdigest()
        self._profiles.setdefault(key, icc)
        return key

    def _space(self, icc: str | None, channels: int) -> pikepdf.Object:
        assert icc is not None
        if icc not in self._spaces:
            stream = icc_stream(self._pdf, self._profiles[icc], channels)
            self._spaces[icc] = pikepdf.Array([pikepdf.Name.ICCBased, stream])
        return self._spaces[icc]
