"""Pictures as the API gives them."""

from datetime import datetime
from typing import Literal

from harnet.web.api.forms.base import ListRange, Ppi, RequestForm, ResponseForm, Word


class PictureQuery(ListRange):
    """Which pictures are wanted: those whose name holds `find`."""

    find: Word = ""
    """Part of the file name; case does not matter."""


class DensityQuery(RequestForm):
    """A density."""

    ppi: Ppi
    """Pixels per inch."""


class FactsOut(ResponseForm):
    """What a picture file says of itself; pixels are None for vector pictures."""

    kind: Literal["raster", "vector"]
    """Whether it is raster or vector."""
    format: str
    """The file format, in lower case, by its content."""
    px_w: int | None
    """Pixels across, in display orientation."""
    px_h: int | None
    """Pixels down, in display orientation."""
    density_x: float | None
    """The density tag across, in pixels per inch."""
    density_y: float | None
    """The density tag down, in pixels per inch."""
    density_unit: Literal["in", "cm", "m"] | None = None
    """What the file counts its density by: pixels per inch, centimetre or metre."""
    colour: str
    """The colour model: rgb, grey, bilevel, cmyk, palette, lab, vector."""
    bits: int
    """Bits per channel."""
    channels: int
    """Channels, alpha included."""
    alpha: bool
    """Whether it has transparency."""
    lossy: bool
    """Whether its compression is lossy."""
    icc: str | None
    """The name of its ICC profile."""
    frames: int
    """How many images the file holds; the first one is used."""
    jpeg_quality: int | None = None
    """The JPEG quality, estimated from its tables."""


class PictureOut(ResponseForm):
    """A picture on a shelf."""

    id: int
    """The picture's number."""
    name: str
    """Its file name."""
    shelf: str | None
    """The shelf it is on; null where only a job holds it."""
    sha256: str
    """The SHA-256 of its bytes."""
    size_bytes: int
    """The size of its file."""
    file_state: str
    """How its file stands: in place, changed, missing, loose."""
    facts: FactsOut
    """The facts read from its file."""
    licence: str
    """Its licence, an SPDX identifier where it has one."""
    credit: str
    """The credit line."""
    added_at: datetime
    """When it was added to its shelf."""


class Pictures(ResponseForm):
    """A part of the pictures, the latest first."""

    total: int
    """How many there are in total."""
    items: list[PictureOut]
    """The pictures of this page of the list."""


class ReachOut(ResponseForm):
    """The largest size at a density; None for vector pictures, which have no end."""

    ppi: float
    """The density, in pixels per inch."""
    width_pt: float | None
    """The largest width at that density."""
    height_pt: float | None
    """The largest height at that density."""
