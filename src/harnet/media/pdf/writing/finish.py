"""What a PDF says of itself as a whole: title, language, labels, output intent, its standard."""

from collections.abc import Sequence
from dataclasses import dataclass
from datetime import UTC, datetime
from os import SEEK_END
from pathlib import Path
from uuid import NAMESPACE_URL, uuid5

import pikepdf

from harnet.core.output.pdf_settings import PdfStandard
from harnet.media.facts.icc import profile_name
from harnet.media.pixels.colour import FALLBACK_NAME, GENERIC_CMYK

X4_NAME = "PDF/X-4"
_LONG_AGO = datetime(2026, 1, 1, tzinfo=UTC)
"""The date of what has none: the same input must give the same bytes."""
_STATIC_ID = b"31415926535897932384626433832795"
"""What the library writes in place of an identifier, in hexadecimal."""
_END_BYTES = 4096
"""The trailer stands within so many bytes of the end."""
_DEEPEST = 12
"""Forms within forms; drawings nest a few deep."""


@dataclass(frozen=True, slots=True, kw_only=True)
class Finish:
    """How a PDF is finished around its pictures.

    `intent` is the ICC profile of the output intent, None for no output intent; `is_inked` where
    colours of text and lines become its inks as well. `dated` is when the document was edited.
    """

    standard: PdfStandard = PdfStandard.PLAIN
    intent: Path | None = None
    is_inked: bool = False
    crop_marks: bool = False
    registration_marks: bool = False
    language: str = ""
    dated: datetime = _LONG_AGO

    @property
    def is_x4(self) -> bool:
        """Whether the PDF is to meet ISO 15930-7."""
        return self.standard is PdfStandard.X4

    @property
    def has_marks(self) -> bool:
        """Whether printer's marks stand around the pages."""
        return self.crop_marks or self.registration_marks


def describe(pdf: pikepdf.Pdf, title: str, numbers: Sequence[int], finish: Finish) -> None:
    """Writes title, language, page labels, dates, and the output intent where one is wanted."""
    pdf.docinfo["/Title"] = title
    pdf.docinfo["/Producer"] = "Harnet"
    pdf.Root.ViewerPreferences = pikepdf.Dictionary(DisplayDocTitle=True)
    if finish.language:
        pdf.Root.Lang = pikepdf.String(finish.language)
    pdf.Root.PageLabels = pikepdf.Dictionary(Nums=_label_runs(numbers))
    moment = finish.dated.astimezone(UTC).replace(microsecond=0)
    for name in ("/CreationDate", "/ModDate"):
        pdf.docinfo[name] = moment.strftime("D:%Y%m%d%H%M%S+00'00'")
    with pdf.open_metadata(set_pikepdf_as_editor=False, update_docinfo=False) as meta:
        meta["dc:title"] = title
        meta["xmp:CreateDate"] = meta["xmp:ModifyDate"] = moment.isoformat()
        meta["xmp:MetadataDate"] = moment.isoformat()
        meta["pdf:Producer"] = "Harnet"
        if finish.language:
            meta["dc:language"] = {finish.language}
        if finish.is_x4:
            meta.register_xml_namespace("http://www.npes.org/pdfx/ns/id/", "pdfxid")
            meta["{http://www.npes.org/pdfx/ns/id/}GTS_PDFXVersion"] = X4_NAME
            meta["pdf:Trapped"] = "False"
            meta["xmpMM:DocumentID"] = f"uuid:{_uuid_of(title, moment)}"
            meta["xmpMM:VersionID"], meta["xmpMM:RenditionClass"] = "1", "default"
    if finish.is_x4:
        pdf.docinfo["/Trapped"] = pikepdf.Name("/False")
    if finish.intent is not None:
        pdf.Root.OutputIntents = pikepdf.Array(
            [_intent(pdf, finish.intent.read_bytes(), intent_name(finish.intent))]
        )


def save_identified(pdf: pikepdf.Pdf, path: Path, identity: bytes, finish: Finish) -> None:
    """Saves a PDF with a file identifier (ISO 32000-2, 14.4) that is made of what it holds.

    The library would hash all bytes of the file once more; `identity` is a hash that is known.

    Raises:
        RuntimeError: the library writes its trailer in another way than it did.
    """
    # PDF/X-4 is PDF 1.6 (ISO 15930-7, 6.1, from memory).
    pdf.save(path, static_id=True, force_version="1.6" if finish.is_x4 else "1.7")
    with path.open("r+b") as file:
        at = max(0, file.seek(0, SEEK_END) - _END_BYTES)
        file.seek(at)
        end = file.read()
        fresh = end.replace(_STATIC_ID, identity[: len(_STATIC_ID) // 2].hex().encode())
        if end.count(_STATIC_ID) != 2:
            raise RuntimeError("the library's own identifier is not where it always was")
        file.seek(at)
        file.write(fresh)


def _label_runs(numbers: Sequence[int]) -> pikepdf.Array:
    """Pages keep the job's numbers (ISO 32000-2, 12.4.2); a run ends where a page is left out."""
    runs = pikepdf.Array()
    for index, number in enumerate(numbers):
        if index == 0 or number != numbers[index - 1] + 1:
            runs.append(index)
            runs.append(pikepdf.Dictionary(S=pikepdf.Name.D, St=number))
    return runs


def _uuid_of(title: str, moment: datetime) -> str:
    return str(uuid5(NAMESPACE_URL, f"harnet {title} {moment.isoformat()}"))


def _intent(pdf: pikepdf.Pdf, profile: bytes, name: str) -> pikepdf.Dictionary:
    """The output intent (ISO 32000-2, 14.11.5) with its profile embedded."""
    return pikepdf.Dictionary(
        Type=pikepdf.Name.OutputIntent,
        S=pikepdf.Name.GTS_PDFX,
        OutputConditionIdentifier=pikepdf.String("Custom"),
        OutputCondition=pikepdf.String(name),
        Info=pikepdf.String(name),
        DestOutputProfile=icc_stream(pdf, profile, 4),
    )


def intent_name(profile: Path) -> str:
    """What the condition is called that a profile describes."""
    if profile.name in (GENERIC_CMYK.name, FALLBACK_NAME):
        return "Generic CMYK"
    return profile_name(profile.read_bytes()) or "Custom"


def icc_stream(pdf: pikepdf.Pdf, profile: bytes, channels: int) -> pikepdf.Object:
    """An ICC profile as a stream of the PDF (ISO 32000-2, 8.6.5.5)."""
    stream = pikepdf.Stream(pdf, profile)
    stream.N = channels
    return pdf.make_indirect(stream)


def explain_rgb(resources: pikepdf.Object, space: pikepdf.Object, depth: int = 0) -> None:
    """Says what red, green and blue mean wherever resources use them without a profile.

    PDF/X-4 allows DeviceRGB beside an output intent of inks only through DefaultRGB (ISO 15930-7,
    6.2.4, from memory). Forms have resources of their own, and groups a colour space of theirs.
    """
    if depth > _DEEPEST:
        return
    spaces = resources.get("/ColorSpace")
    if spaces is None:
        resources["/ColorSpace"] = spaces = pikepdf.Dictionary()
    spaces["/DefaultRGB"] = space
    inner = [*_values(resources, "/XObject"), *_values(resources, "/Pattern")]
    for state in _values(resources, "/ExtGState"):
        mask = state.get("/SMask")
        if isinstance(mask, pikepdf.Dictionary) and "/G" in mask:
            inner.append(mask["/G"])
    for thing in inner:
        group = thing.get("/Group")
        if group is not None and group.get("/CS") == pikepdf.Name.DeviceRGB:
            group["/CS"] = space
        if "/Resources" in thing:
            explain_rgb(thing["/Resources"], space, depth + 1)


def _values(resources: pikepdf.Object, kind: str) -> list[pikepdf.Object]:
    found = resources.get(kind)
    return [] if found is None else [found[key] for key in found.keys()]  # noqa: SIM118
