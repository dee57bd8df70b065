"""Documents in packages, written part by part as the standards say, and pictures for them."""

import io
import zipfile

from PIL import Image

from harnet.media.packages.reading import read_document
from tests.support.pictures import photo

RELATIONS = "http://schemas.openxmlformats.org/package/2006/relationships"
OFFICE = "http://schemas.openxmlformats.org/officeDocument/2006/relationships"
SPACES = (
    'xmlns:a="http://schemas.openxmlformats.org/drawingml/2006/main"'
    f' xmlns:r="{OFFICE}"'
    ' xmlns:p="http://schemas.openxmlformats.org/presentationml/2006/main"'
    ' xmlns:w="http://schemas.openxmlformats.org/wordprocessingml/2006/main"'
    ' xmlns:wp="http://schemas.openxmlformats.org/drawingml/2006/wordprocessingDrawing"'
    ' xmlns:pic="http://schemas.openxmlformats.org/drawingml/2006/picture"'
    ' xmlns:c="http://schemas.openxmlformats.org/drawingml/2006/chart"'
    ' xmlns:v="urn:schemas-microsoft-com:vml"'
    ' xmlns:o="urn:schemas-microsoft-com:office:office"'
    ' xmlns:wps="http://schemas.microsoft.com/office/word/2010/wordprocessingShape"'
    ' xmlns:wpg="http://schemas.microsoft.com/office/word/2010/wordprocessingGroup"'
    ' xmlns:asvg="http://schemas.microsoft.com/office/drawing/2016/SVG/main"'
    ' xmlns:mc="http://schemas.openxmlformats.org/markup-compatibility/2006"'
)
INCH = 914_400
"""EMU (ISO/IEC 29500-1, 20.1.2.1, from memory)."""


def picture(px_w=300, px_h=200, form="JPEG", seed=1, **settings):
    """The bytes of a made-up photograph."""
    out = io.BytesIO()
    Image.fromarray(photo(px_w, px_h, seed=seed)).save(out, form, **settings)
    return out.getvalue()


def package(path, parts):
    """A ZIP of parts by name, in their order."""
    with zipfile.ZipFile(path, "w", zipfile.ZIP_DEFLATED) as file:
        for name, data in parts.items():
            file.writestr(name, data)
    return path


def relations(**entries):
    """A part of relationships: by id, a kind with a target, one outside with "!" before it."""
    rows = []
    for key, (kind, target) in entries.items():
        outside = ' TargetMode="External"' if target.startswith("!") else ""
        rows.append(
            f'<Relationship Id="{key}" Type="{OFFICE}/{kind}"'
            f' Target="{target.lstrip("!")}"{outside}/>'
        )
    return f'<Relationships xmlns="{RELATIONS}">{"".join(rows)}</Relationships>'


def tree(shapes):
    """The tree of shapes of a slide, a layout or a master."""
    return f"<p:spTree><p:nvGrpSpPr/><p:grpSpPr/>{shapes}</p:spTree>"


def xfrm(x, y, w, h, *, name="a:xfrm", extra="", inside=""):
    """A transform in inches."""
    return (
        f'<{name} {extra}><a:off x="{round(x * INCH)}" y="{round(y * INCH)}"/>'
        f'<a:ext cx="{round(w * INCH)}" cy="{round(h * INCH)}"/>{inside}</{name}>'
    )


def blip_fill(rel="rImg", crop="", mode="<a:stretch><a:fillRect/></a:stretch>", tag="p:blipFill"):
    """A fill with a picture; `crop` are the attributes of its source rectangle."""
    source = f"<a:srcRect {crop}/>" if crop else ""
    return f'<{tag}><a:blip r:embed="{rel}"/>{source}{mode}</{tag}>'


def pic(place, fill=None, name="Picture 1", about=""):
    """A picture on a slide."""
    return (
        f'<p:pic><p:nvPicPr><p:cNvPr id="2" name="{name}" {about}/><p:cNvPicPr/><p:nvPr/>'
        "</p:nvPicPr>"
        f"{fill or blip_fill()}<p:spPr>{place}</p:spPr></p:pic>"
    )


def deck(path, slides, *, media=None, slide_rels=None, more=None, root="", show=""):
    """A presentation of 10 × 7.5 in by hand; each slide is the XML of its shapes.

    Each slide refers to `rImg`, the first picture; `slide_rels` adds to that, `more` adds parts.
    """
    media = media or {"image1.jpg": picture()}
    parts = {
        "[Content_Types].xml": "<Types/>",
        "_rels/.rels": relations(r1=("officeDocument", "ppt/presentation.xml")),
    }
    entries = {f"s{n}": ("slide", f"slides/slide{n}.xml") for n in range(1, len(slides) + 1)}
    listed = "".join(f'<p:sldId id="{255 + n}" r:id="s{n}"/>' for n in range(1, len(slides) + 1))
    parts["ppt/presentation.xml"] = (
        f"<p:presentation {SPACES} {root}><p:sldIdLst>{listed}</p:sldIdLst>"
        f'<p:sldSz cx="{10 * INCH}" cy="{round(7.5 * INCH)}"/></p:presentation>'
    )
    parts["ppt/_rels/presentation.xml.rels"] = relations(**entries)
    first = next(iter(media))
    for number, shapes in enumerate(slides, 1):
        inside = shapes if shapes.startswith("<p:bg") else tree(shapes)
        parts[f"ppt/slides/slide{number}.xml"] = (
            f"<p:sld {SPACES} {show}><p:cSld>{inside}</p:cSld></p:sld>"
        )
        parts[f"ppt/slides/_rels/slide{number}.xml.rels"] = relations(
            rImg=("image", f"../media/{first}"), **(slide_rels or {})
        )
    parts |= {f"ppt/media/{name}": data for name, data in media.items()}
    return package(path, parts | (more or {}))


def text(path, body, *, media=None, rels=None, more=None):
    """A text document by hand; `rImg` is its first picture."""
    media = media or {"image1.jpg": picture()}
    parts = {
        "[Content_Types].xml": "<Types/>",
        "_rels/.rels": relations(r1=("officeDocument", "word/document.xml")),
        "word/document.xml": f"<w:document {SPACES}><w:body>{body}</w:body></w:document>",
        "word/_rels/document.xml.rels": relations(
            rImg=("image", f"media/{next(iter(media))}"), **(rels or {})
        ),
    }
    parts |= {f"word/media/{name}": data for name, data in media.items()}
    return package(path, parts | (more or {}))


def inline(w, h, data=None, *, kind="inline", name="Drawing 1"):
    """A drawing in a text, at a size in inches."""
    held = data or f"<pic:pic>{blip_fill(tag='pic:blipFill')}<pic:spPr/></pic:pic>"
    return (
        f'<w:r><w:drawing><wp:{kind}><wp:extent cx="{round(w * INCH)}" cy="{round(h * INCH)}"/>'
        f'<wp:docPr id="1" name="{name}"/><a:graphic><a:graphicData>{held}</a:graphicData>'
        f"</a:graphic></wp:{kind}></w:drawing></w:r>"
    )


def images_in(path, beside=None):
    """Every image of a document."""
    return read_document(path, path.name, beside).images


def densities(path, beside=None):
    """Density across and down of each image that is seen, to a tenth."""
    return [
        (round(one.density.x, 1), round(one.density.y, 1))
        for one in images_in(path, beside)
        if not one.unseen
    ]
