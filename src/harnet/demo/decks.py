"""A slide deck, a text and a small book that somebody sent, with what such files bring."""

import io
import zipfile
from html import escape
from pathlib import Path

from PIL import Image

DECK_NAME, TEXT_NAME = "winter talk for the trust.pptx", "keepers of the light.docx"
BOOK_NAME = "tide tables.epub"
_INCH = 914_400
_BASE = "http://schemas.openxmlformats.org"
_RELATION = f"{_BASE}/officeDocument/2006/relationships"
_SPACES = (
    f'xmlns:a="{_BASE}/drawingml/2006/main" xmlns:r="{_RELATION}"'
    f' xmlns:p="{_BASE}/presentationml/2006/main" xmlns:w="{_BASE}/wordprocessingml/2006/main"'
    f' xmlns:wp="{_BASE}/drawingml/2006/wordprocessingDrawing"'
    f' xmlns:pic="{_BASE}/drawingml/2006/picture"'
)
_KIND = "application/vnd.openxmlformats-officedocument."


def _types(overrides: dict[str, str]) -> str:
    """The content types of a package: those of some parts, the usual ones of the others."""
    rows = "".join(
        f'<Override PartName="/{name}" ContentType="{_KIND}{kind}+xml"/>'
        for name, kind in overrides.items()
    )
    return (
        f'<Types xmlns="{_BASE}/package/2006/content-types"><Default Extension="rels"'
        ' ContentType="application/vnd.openxmlformats-package.relationships+xml"/>'
        '<Default Extension="xml" ContentType="application/xml"/>'
        f'<Default Extension="jpg" ContentType="image/jpeg"/>{rows}</Types>'
    )


def _shrunk(pictures: Path, name: str, px_w: int, quality: int = 82) -> bytes:
    image = Image.open(pictures / name).convert("RGB")
    image = image.resize((px_w, round(image.height * px_w / image.width)), Image.Resampling.LANCZOS)
    out = io.BytesIO()
    image.save(out, "JPEG", quality=quality)
    return out.getvalue()


def _relations(entries: dict[str, tuple[str, str]]) -> str:
    rows = []
    for key, (kind, target) in entries.items():
        mode = ' TargetMode="External"' if "://" in target else ""
        rows.append(
            f'<Relationship Id="{key}" Type="{_RELATION}/{kind}" Target="{escape(target)}"{mode}/>'
        )
    return (
        f'<Relationships xmlns="{_BASE}/package/2006/relationships">{"".join(rows)}</Relationships>'
    )


def _write(path: Path, parts: dict[str, str | bytes]) -> None:
    with zipfile.ZipFile(path, "w", zipfile.ZIP_DEFLATED) as file:
        for name, data in parts.items():
            # The same bytes at every set-up.
            file.writestr(zipfile.ZipInfo(name), data, zipfile.ZIP_DEFLATED)


def _place(x: float, y: float, w: float, h: float, turn_deg: int = 0) -> str:
    return (
        f'<a:xfrm rot="{turn_deg * 60_000}"><a:off x="{round(x * _INCH)}" y="{round(y * _INCH)}"/>'
        f'<a:ext cx="{round(w * _INCH)}" cy="{round(h * _INCH)}"/></a:xfrm>'
    )


def _pic(rel: str, name: str, place: str, crop: str = "", link: bool = False) -> str:
    way = "link" if link else "embed"
    return (
        f'<p:pic><p:nvPicPr><p:cNvPr id="9" name="{name}"/><p:cNvPicPr/><p:nvPr/></p:nvPicPr>'
        f'<p:blipFill><a:blip r:{way}="{rel}"/><a:srcRect {crop}/><a:stretch><a:fillRect/>'
        f"</a:stretch></p:blipFill><p:spPr>{place}"
        '<a:prstGeom prst="rect"><a:avLst/></a:prstGeom></p:spPr></p:pic>'
    )


def _text(words: str, place: str) -> str:
    paragraphs = "".join(
        f"<a:p><a:r><a:t>{escape(one)}</a:t></a:r></a:p>" for one in words.split("\n")
    )
    return (
        '<p:sp><p:nvSpPr><p:cNvPr id="8" name="Text"/><p:cNvSpPr/><p:nvPr/></p:nvSpPr>'
        f"<p:spPr>{place}</p:spPr><p:txBody><a:bodyPr/>{paragraphs}</p:txBody></p:sp>"
    )


def _tree(kind: str, shapes: str, name: str = "") -> str:
    return (
        f'<p:{kind} {_SPACES}><p:cSld name="{name}"><p:spTree><p:nvGrpSpPr>'
        '<p:cNvPr id="1" name=""/>'
        f"<p:cNvGrpSpPr/><p:nvPr/></p:nvGrpSpPr><p:grpSpPr/>{shapes}</p:spTree></p:cSld></p:{kind}>"
    )


def write_talk(pictures: Path, path: Path) -> None:
    """Five slides shrunk on saving; one picture is cropped, one linked, one left over."""
    media = {
        "image1.jpg": _shrunk(pictures, "storm-watch.jpg", 2_933),
        "image2.jpg": _shrunk(pictures, "lamp-room.jpg", 880),
        "image3.jpg": _shrunk(pictures, "fog-signal.jpg", 880),
        "image4.jpg": _shrunk(pictures, "rope-store.jpg", 1_100),
        "image5.jpg": _shrunk(pictures, "harbour-morning.jpg", 1_760),
        "image6.jpg": _shrunk(pictures, "slipway.jpg", 240),
        "image7.jpg": _shrunk(pictures, "cover-dusk.jpg", 900),
    }

    def tall(name: str, width: float) -> float:
        with Image.open(io.BytesIO(media[name])) as image:
            return width * image.height / image.width

    slides = [
        (
            _pic("rImg1", "Storm", _place(0, 0, 13.333, tall("image1.jpg", 13.333)))
            + _text("Winter at the light", _place(1, 5.6, 8, 1)),
            {"rImg1": "image1.jpg"},
        ),
        (
            _text(
                "The lamp room\nBuilt twice\nLit since the first winter", _place(0.8, 1.4, 5.6, 3)
            )
            + _pic("rImg2", "Lamp room", _place(7.4, 1.2, 4, tall("image2.jpg", 4)))
            + _pic("rImg3", "Fog signal", _place(7.4, 4.3, 4, tall("image3.jpg", 4), 4)),
            {"rImg2": "image2.jpg", "rImg3": "image3.jpg"},
        ),
        (
            _text("Ropes\nOld and new", _place(0.8, 1.4, 4.6, 2.4))
            + _pic("rImg4", "Rope store", _place(6.4, 1.2, 5, tall("image4.jpg", 5))),
            {"rImg4": "image4.jpg"},
        ),
        (
            _pic(
                "rImg5",
                "Harbour",
                _place(1, 1.2, 4.56, tall("image5.jpg", 8)),
                'l="31000" r="12000"',
            )
            + _text("Morning, without the crowd", _place(6.4, 1.4, 5.6, 1.2)),
            {"rImg5": "image5.jpg"},
        ),
        (
            _pic("rImg6", "Slipway", _place(1, 1.2, 5, tall("image6.jpg", 5)))
            + _pic("rOut", "Chart of the bay", _place(7, 1.2, 4, 3), link=True),
            {"rImg6": "image6.jpg"},
        ),
    ]
    parts: dict[str, str | bytes] = {
        "[Content_Types].xml": _types(
            {f"ppt/slides/slide{n}.xml": "presentationml.slide" for n in range(1, len(slides) + 1)}
            | {
                "ppt/presentation.xml": "presentationml.presentation.main",
                "ppt/presProps.xml": "presentationml.presProps",
                "ppt/slideMasters/slideMaster1.xml": "presentationml.slideMaster",
                "ppt/slideLayouts/slideLayout1.xml": "presentationml.slideLayout",
            }
        ),
        "_rels/.rels": _relations({"r1": ("officeDocument", "ppt/presentation.xml")}),
        "ppt/presentation.xml": (
            f'<p:presentation {_SPACES}><p:sldMasterIdLst><p:sldMasterId r:id="m"/>'
            "</p:sldMasterIdLst><p:sldIdLst>"
            + "".join(f'<p:sldId id="{255 + n}" r:id="s{n}"/>' for n in range(1, len(slides) + 1))
            + f'</p:sldIdLst><p:sldSz cx="{round(13.333 * _INCH)}" cy="{round(7.5 * _INCH)}"/>'
            "</p:presentation>"
        ),
        "ppt/_rels/presentation.xml.rels": _relations(
            {f"s{n}": ("slide", f"slides/slide{n}.xml") for n in range(1, len(slides) + 1)}
            | {
                "m": ("slideMaster", "slideMasters/slideMaster1.xml"),
                "p": ("presProps", "presProps.xml"),
            }
        ),
        "ppt/presProps.xml": (
            f'<p:presentationPr {_SPACES}><p:extLst><p:ext uri="ppi"><p:defaultImageDpi'
            ' val="220"/></p:ext></p:extLst></p:presentationPr>'
        ),
        "ppt/slideMasters/slideMaster1.xml": _tree("sldMaster", "", "Trust"),
        "ppt/slideMasters/_rels/slideMaster1.xml.rels": _relations(
            {"l": ("slideLayout", "../slideLayouts/slideLayout1.xml")}
        ),
        "ppt/slideLayouts/slideLayout1.xml": _tree(
            "sldLayout", _pic("rBand", "Band", _place(12, 6.4, 1, 0.75)), "Title and picture"
        ),
        "ppt/slideLayouts/_rels/slideLayout1.xml.rels": _relations(
            {
                "m": ("slideMaster", "../slideMasters/slideMaster1.xml"),
                "rBand": ("image", "../media/image6.jpg"),
            }
        ),
    }
    for number, (shapes, used) in enumerate(slides, 1):
        parts[f"ppt/slides/slide{number}.xml"] = _tree("sld", shapes)
        parts[f"ppt/slides/_rels/slide{number}.xml.rels"] = _relations(
            {rel: ("image", f"../media/{name}") for rel, name in used.items()}
            | {
                "l": ("slideLayout", "../slideLayouts/slideLayout1.xml"),
                "rOut": ("image", "https://pictures.tarnholm.example/bay chart.jpg"),
            }
        )
    _write(path, parts | {f"ppt/media/{name}": data for name, data in media.items()})


def write_text(pictures: Path, path: Path) -> None:
    """A text with headings: one picture well, one far too small, one cropped."""
    media = {
        "image1.jpg": _shrunk(pictures, "north-gallery.jpg", 1_800),
        "image2.jpg": _shrunk(pictures, "rope-store.jpg", 360),
        "image3.jpg": _shrunk(pictures, "harbour-morning.jpg", 1_500),
    }

    def paragraph(words: str, style: str = "") -> str:
        named = f'<w:pPr><w:pStyle w:val="{style}"/></w:pPr>' if style else ""
        return f"<w:p>{named}<w:r><w:t>{escape(words)}</w:t></w:r></w:p>"

    def picture(number: int, name: str, w: float, crop: str = "", shown: float = 1.0) -> str:
        with Image.open(io.BytesIO(media[f"image{number}.jpg"])) as image:
            h = shown * w * image.height / image.width
        return (
            f'<w:p><w:r><w:drawing><wp:inline><wp:extent cx="{round(w * _INCH)}"'
            f' cy="{round(h * _INCH)}"/><wp:docPr id="{number}" name="{name}"/><a:graphic>'
            f'<a:graphicData uri="{_BASE}/drawingml/2006/picture"><pic:pic><pic:nvPicPr>'
            f'<pic:cNvPr id="{number}" name="{name}"/><pic:cNvPicPr/></pic:nvPicPr><pic:blipFill>'
            f'<a:blip r:embed="rImg{number}"/><a:srcRect {crop}/><a:stretch><a:fillRect/>'
            "</a:stretch>"
            f"</pic:blipFill><pic:spPr>{_place(0, 0, w, h)}</pic:spPr></pic:pic></a:graphicData>"
            "</a:graphic></wp:inline></w:drawing></w:r></w:p>"
        )

    body = (
        paragraph("Keepers of the light", "Heading1")
        + paragraph("Four families kept the lamp, one after the other.")
        + picture(1, "North gallery", 6)
        + paragraph("What they wore", "Heading1")
        + picture(2, "Rope store", 4)
        + paragraph("Where they lived", "Heading1")
        + picture(3, "Harbour", 3, 'l="20000" r="20000"', 1 / 0.6)
    )
    parts: dict[str, str | bytes] = {
        "[Content_Types].xml": _types(
            {
                "word/document.xml": "wordprocessingml.document.main",
                "word/styles.xml": "wordprocessingml.styles",
            }
        ),
        "_rels/.rels": _relations({"r1": ("officeDocument", "word/document.xml")}),
        "word/document.xml": f"<w:document {_SPACES}><w:body>{body}</w:body></w:document>",
        "word/styles.xml": (
            f'<w:styles {_SPACES}><w:style w:type="paragraph" w:styleId="Heading1">'
            '<w:name w:val="heading 1"/></w:style></w:styles>'
        ),
        "word/_rels/document.xml.rels": _relations(
            {f"rImg{n}": ("image", f"media/image{n}.jpg") for n in (1, 2, 3)}
            | {"s": ("styles", "styles.xml")}
        ),
    }
    _write(path, parts | {f"word/media/{name}": data for name, data in media.items()})


def write_book(pictures: Path, path: Path) -> None:
    """Two sections: a picture whose size a style sheet gives, and one without a size."""
    page = (
        '<html xmlns="http://www.w3.org/1999/xhtml"><head><title>{0}</title>'
        '<link rel="stylesheet" href="book.css"/></head><body><h1>{0}</h1>{1}</body></html>'
    )
    items = "".join(
        f'<item id="{one}" href="{one}.xhtml" media-type="application/xhtml+xml"/>'
        for one in ("spring", "neap")
    )
    _write(
        path,
        {
            "mimetype": "application/epub+zip",
            "META-INF/container.xml": (
                '<container xmlns="urn:oasis:names:tc:opendocument:xmlns:container" version="1.0">'
                '<rootfiles><rootfile full-path="book.opf"'
                ' media-type="application/oebps-package+xml"/></rootfiles></container>'
            ),
            "book.opf": (
                '<package xmlns="http://www.idpf.org/2007/opf" version="3.0"><metadata/>'
                f'<manifest>{items}<item id="a" href="a.jpg" media-type="image/jpeg"/>'
                '<item id="b" href="b.jpg" media-type="image/jpeg"/></manifest>'
                '<spine><itemref idref="spring"/><itemref idref="neap"/></spine></package>'
            ),
            "book.css": "img.wide { width: 5in }",
            "spring.xhtml": page.format(
                "Spring tides", '<img class="wide" src="a.jpg" alt="Quay"/>'
            ),
            "neap.xhtml": page.format("Neap tides", '<img src="b.jpg" alt="Slipway"/>'),
            "a.jpg": _shrunk(pictures, "harbour-morning.jpg", 1_600),
            "b.jpg": _shrunk(pictures, "slipway.jpg", 640),
        },
    )
