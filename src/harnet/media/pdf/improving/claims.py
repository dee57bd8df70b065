"""What a PDF states of itself that changing it may break: signatures, encryption, conformance."""

import re
from typing import Any

import pikepdf

from harnet.media.pdf.walking.content import NONSENSE

_MOST_FIELDS = 20_000
_PART = re.compile(rb"pdfaid:part[^0-9]{1,3}([0-9])")
_X_VERSION = re.compile(rb"GTS_PDFXVersion[^P]{1,3}(PDF/X-[0-9A-Za-z:]{1,12})")


def claims_of(pdf: pikepdf.Pdf) -> list[str]:
    """Sentences on what a changed copy of this PDF breaks, or keeps although it was changed."""
    found = []
    if _is_signed(pdf):
        found.append("The PDF is signed. The copy is another file, so its signatures are broken.")
    if pdf.is_encrypted:
        found.append("The PDF is encrypted. The copy has the same encryption and permissions.")
    metadata = _metadata(pdf)
    part, version = _PART.search(metadata), _X_VERSION.search(metadata)
    if part is not None:
        found.append(
            f"The PDF claims PDF/A-{part[1].decode()}. Images keep their colour spaces and use no"
            " other compression than that allows; have the copy checked where the claim matters."
        )
    stated = _text(pdf, "/GTS_PDFXVersion") or (version[1].decode() if version else "")
    if stated:
        found.append(
            f"The PDF claims {stated}. Images keep their colour spaces unless others were asked"
            " for; have the copy checked where the claim matters."
        )
    return found


def _is_signed(pdf: pikepdf.Pdf) -> bool:
    try:
        form = pdf.Root.get("/AcroForm")
        fields = list(form.get("/Fields", [])) if form is not None else []
        for _ in range(_MOST_FIELDS):
            if not fields:
                return False
            field = fields.pop()
            if field.get("/FT") == "/Sig" and "/V" in field:
                return True
            fields += list(field.get("/Kids", []))
    except NONSENSE:
        return False
    return False


def _metadata(pdf: pikepdf.Pdf) -> bytes:
    try:
        stream: Any = pdf.Root.get("/Metadata")
        return bytes(stream.read_bytes()) if stream is not None else b""
    except NONSENSE:
        return b""


def _text(pdf: pikepdf.Pdf, key: str) -> str:
    try:
        # Asked of the trailer: to ask for the document's information would add one.
        about = pdf.trailer.get("/Info")
        return str(about.get(key, ""))[:40] if about is not None else ""
    except NONSENSE:
        return ""
