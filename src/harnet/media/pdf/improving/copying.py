"""Writing an improved copy of a PDF: images replaced or trimmed, all else as it was."""

import io
from collections.abc import Iterator
from concurrent.futures import Future, ThreadPoolExecutor
from dataclasses import dataclass
from itertools import zip_longest
from pathlib import Path
from typing import Any

import numpy
import pikepdf
import pyvips
from PIL import Image
from PIL.TiffImagePlugin import TiffImageFile

from harnet.core.documents.comparison import tone_from_values
from harnet.core.documents.improving import CopyColours, Fate
from harnet.core.measure.geometry import Matrix
from harnet.core.output.page_images import page_numbers
from harnet.core.output.treatment import Treatment, TreatmentKind
from harnet.core.pictures.picture import Colour
from harnet.media.bounded import Order, Tell
from harnet.media.pdf.extracting.alpha import stencil_of_colours
from harnet.media.pdf.extracting.image_file import image_of_samples
from harnet.media.pdf.improving.claims import claims_of
from harnet.media.pdf.improving.colours import Coloured, coloured_as, in_inks, srgb_space
from harnet.media.pdf.improving.held import HeldImage, held_images
from harnet.media.pdf.improving.inline import put_in_place
from harnet.media.pdf.opening.opened import opened_pdf
from harnet.media.pdf.reading.images import PageReader
from harnet.media.pdf.samples.samples import STENCIL, filters_of, samples_of
from harnet.media.pdf.samples.space import SampleSpace, UnreadableSamples, space_of
from harnet.media.pdf.writing.streams import Samples as NewSamples
from harnet.media.pdf.writing.streams import stored_as
from harnet.media.pixels.colour import cmyk_profile_file, srgb_profile
from harnet.media.pixels.conversion import upon_srgb
from harnet.media.pixels.registration.part import part_of_original
from harnet.media.pixels.registration.tone import toned_picture

_LOSSY = ("DCTDecode", "JPXDecode")
_Part = Future[pyvips.Image]
_BY_CHANNELS = {1: Colour.GREY, 3: Colour.RGB, 4: Colour.CMYK}


def work(order: Order, tell: Tell) -> Order:
    """What happens in the process: see `harnet.media.bounded`.

    `items` are the images to change, by their key among those of `pages`: `fate`, `px_w`, `px_h`,
    and of a replaced one `original` and `to_original`. The copy is written to `copy`. The answer
    has of each item its `bytes` and `how`, or why it was left as `reason`; what the copy breaks,
    and how many pages it has. A PDF that `password` opens is written with the same encryption.

    Raises:
        UnreadableFile: the PDF cannot be read.
    """
    name, folder = order["name"], Path(order["folder"])
    profile = Path(order["profile"]) if order["profile"] else None
    settings = _Settings(order["quality"], CopyColours(order["colours"]), profile, folder)
    rows: list[dict[str, Any]] = []
    with opened_pdf(Path(order["path"]), name, order["password"], is_to_be_kept=True) as pdf:
        reader = PageReader(pdf, name)
        numbers = page_numbers(order["pages"], len(reader.pages))
        held = {one.key: one for one in held_images(reader, numbers)}
        with ThreadPoolExecutor(1) as pool:
            for done, (item, part) in enumerate(_with_parts(pool, order["items"], held)):
                tell([done, len(order["items"])])
                change = _changed(pdf, held[item["key"]], item, part, settings)
                rows.append({"key": item["key"]} | change)
        broken = claims_of(pdf)
        page_count = len(pdf.pages)
        _save(pdf, Path(order["copy"]))
    return {"rows": rows, "broken": broken, "page_count": page_count}


def _save(pdf: pikepdf.Pdf, path: Path) -> None:
    """Writes the copy with every stream as it is, encrypted as it was."""
    kept = {"object_stream_mode": pikepdf.ObjectStreamMode.preserve, "fix_metadata_version": False}
    if pdf.is_encrypted:
        # Streams are encrypted anew, so that their bytes cannot stay.
        pdf.save(path, encryption=True, **kept)
        return
    as_they_are = pikepdf.StreamDecodeLevel.none
    pdf.save(
        path,
        compress_streams=False,
        stream_decode_level=as_they_are,
        linearize=pdf.is_linearized,
        **kept,
    )


@dataclass(frozen=True, slots=True)
class _Settings:
    quality: int
    colours: CopyColours
    profile: Path | None
    folder: Path


def _with_parts(
    pool: ThreadPoolExecutor, items: list[dict[str, Any]], held: dict[int, HeldImage]
) -> Iterator[tuple[dict[str, Any], _Part | None]]:
    """Each item with the part of its original; the next one is decoded meanwhile."""

    def part_for(item: dict[str, Any]) -> _Part | None:
        if Fate(item["fate"]) is not Fate.REPLACED:
            return None
        facts = held[item["key"]].facts
        return pool.submit(_part, item, (facts.px_w, facts.px_h))

    coming = [part_for(one) for one in items[:1]]
    for item, following in zip_longest(items, items[1:]):
        part = coming.pop()
        coming.append(part_for(following) if following is not None else None)
        yield item, part


def _part(item: dict[str, Any], image_px: tuple[int, int]) -> pyvips.Image:
    part = part_of_original(
        Path(item["original"]),
        Matrix(*item["to_original"]),
        image_px,
        (item["px_w"], item["px_h"]),
    )
    tone = tone_from_values(item.get("tone"))
    if tone is not None:
        part = toned_picture(upon_srgb(part, 16 if part.format == "ushort" else 8), tone)
    return part.copy_memory()


def _changed(
    pdf: pikepdf.Pdf,
    held: HeldImage,
    item: dict[str, Any],
    part: _Part | None,
    settings: _Settings,
) -> dict[str, Any]:
    """Changes an image; its bytes and in words how, or why it was left."""
    try:
        stream, _ = held.stream(pdf)
        if part is None:
            done = _trimmed(pdf, stream, item, settings)
        else:
            done = _replaced(pdf, stream, part, settings, item)
        if held.is_inline and "reason" not in done:
            put_in_place(pdf, held.facts, pdf.make_indirect(stream), f"Improved{held.key}")
        return done
    except UnreadableSamples as error:
        return {"reason": str(error)}
    except (pyvips.Error, OSError):
        return {"reason": "its original can no longer be read"}


def _replaced(
    pdf: pikepdf.Pdf,
    stream: Any,
    decoded: _Part,
    settings: _Settings,
    item: dict[str, Any],
) -> dict[str, Any]:
    space, bits = _space_and_bits(stream)
    if "/Matte" in stream.get("/SMask", {}):
        raise UnreadableSamples("its soft mask is mixed into its colours")
    part = decoded.result()
    is_inked = settings.colours is CopyColours.TARGET and bits > 1 and part.bands >= 3
    if is_inked:
        new = Coloured(in_inks(part, settings.profile), keeps_space=False)
    else:
        new = coloured_as(part, space, bits, settings.folder, settings.profile, item)
    mask = stencil_of_colours(pdf, stream)
    made = _stored(pdf, stream, new, settings.quality)
    how = _put(pdf, stream, made, _new_space(pdf, stream, space, new, is_inked, settings))
    if mask is not None:
        stream.Mask = mask
    return {"bytes": len(made.read_raw_bytes()), "how": how}


def _space_and_bits(stream: Any) -> tuple[SampleSpace, int]:
    if stream.get(STENCIL, False):
        return SampleSpace(colour=Colour.GREY, channels=1), 1
    stated = stream.get("/ColorSpace")
    if stated is None:
        # JPEG 2000 may say by itself what its samples mean.
        samples = samples_of(stream)
        return samples.space, samples.bits
    bits = (
        8 if filters_of(stream)[-1:] == ["DCTDecode"] else int(stream.get("/BitsPerComponent", 8))
    )
    return space_of(stated, pikepdf.Dictionary()), bits


def _stored(pdf: pikepdf.Pdf, old: Any, new: Coloured, quality: int) -> pikepdf.Stream:
    """New samples as a stream: lossy where the old ones were, 1-bit by CCITT group 4."""
    if new.is_bilevel:
        return _group_4(pdf, new.image)
    is_lossy = bool(set(filters_of(old)) & set(_LOSSY)) and new.image.format == "uchar"
    treatment = Treatment(
        action=TreatmentKind.DOWNSAMPLED,
        px_w=new.image.width,
        px_h=new.image.height,
        quality=quality if is_lossy else None,
    )
    return stored_as(pdf, NewSamples(new.image), treatment)


def _group_4(pdf: pikepdf.Pdf, image: pyvips.Image) -> pikepdf.Stream:
    pixels = numpy.asarray(image.numpy()).reshape(image.height, image.width)
    out = io.BytesIO()
    Image.fromarray(pixels > 0).save(out, "TIFF", compression="group4", strip_size=1 << 30)
    out.seek(0)
    with TiffImageFile(out) as tiff:
        starts, lengths = tiff.tag_v2[273], tiff.tag_v2[279]
        is_black_zero = tiff.tag_v2[262] == 1
    [start], [length] = starts, lengths
    stream = pdf.make_stream(out.getvalue()[start : start + length])
    stream.Width, stream.Height, stream.BitsPerComponent = image.width, image.height, 1
    stream.ColorSpace = pikepdf.Name.DeviceGray
    stream.Filter = pikepdf.Name.CCITTFaxDecode
    stream.DecodeParms = pikepdf.Dictionary(
        K=-1, Columns=image.width, Rows=image.height, BlackIs1=is_black_zero
    )
    return stream


def _new_space(
    pdf: pikepdf.Pdf,
    stream: Any,
    space: SampleSpace,
    new: Coloured,
    is_inked: bool,
    settings: _Settings,
) -> Any:
    """The colour space that explains the new samples; the old one wherever it does."""
    if new.keeps_space and "/ColorSpace" in stream:
        return stream.ColorSpace
    if is_inked:
        inks = cmyk_profile_file(settings.profile, settings.folder).read_bytes()
        return srgb_space(pdf, inks, 4)
    if space.colour is Colour.PALETTE:
        base = stream.ColorSpace[1]
        assert space.base is not None
        return base if not space.base.is_calibrated else srgb_space(pdf, srgb_profile(), 3)
    if space.is_calibrated:
        return srgb_space(pdf, srgb_profile(), 3)
    return None


def _put(pdf: pikepdf.Pdf, old: Any, new: pikepdf.Stream, space: Any) -> str:
    """Puts new samples into an old object; what else it says of itself stays."""
    data = new.read_raw_bytes()
    old.write(data, filter=new.Filter, decode_parms=new.get("/DecodeParms"))
    old.Width, old.Height = new.Width, new.Height
    for key in ("/Decode", "/Alternates", "/SMaskInData"):
        if key in old:
            del old[key]
    if not old.get(STENCIL, False):
        old.BitsPerComponent = new.BitsPerComponent
        old.ColorSpace = new.ColorSpace if space is None else space
    if "/Decode" in new:
        old.Decode = new.Decode
    del pdf
    return {"/DCTDecode": "JPEG", "/CCITTFaxDecode": "CCITT group 4"}.get(
        str(new.Filter), "without loss"
    )


def _trimmed(
    pdf: pikepdf.Pdf, stream: Any, item: dict[str, Any], settings: _Settings
) -> dict[str, Any]:
    samples = samples_of(stream)
    if samples.space.colour not in (Colour.GREY, Colour.RGB, Colour.CMYK) or samples.bits < 8:
        raise UnreadableSamples("only grey, RGB and CMYK of 8 bits or more are trimmed")
    if isinstance(stream.get("/Mask"), pikepdf.Array):
        raise UnreadableSamples("its colours mask it")
    image, _ = image_of_samples(samples, None)
    size = item["px_w"], item["px_h"]
    small = image.resize(size[0] / image.width, vscale=size[1] / image.height, kernel="lanczos3")
    new = Coloured(small.crop(0, 0, *size), keeps_space=True)
    made = _stored(pdf, stream, new, settings.quality)
    before, after = len(stream.read_raw_bytes()), len(made.read_raw_bytes())
    if after >= before:
        return {"reason": "trimming it would not save bytes"}
    how = _put(pdf, stream, made, stream.get("/ColorSpace"))
    return {"bytes": after, "how": f"trimmed, {how}"}
