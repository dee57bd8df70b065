"""What documents hold less often: each as the standards say, each with its figures."""

import base64
import gzip
import struct
import zipfile

import pytest

from harnet.core.documents.document import PageKind
from harnet.core.documents.images import ImageKind
from harnet.media.packages.media import media_of
from harnet.media.packages.reading import read_document
from tests.media.packages.test_books import CONTAINER, book
from tests.media.packages.test_opendocument import MASTER, document, frame, image, slide
from tests.support.packages import (
    INCH,
    SPACES,
    blip_fill,
    deck,
    densities,
    images_in,
    package,
    pic,
    picture,
    relations,
    text,
    xfrm,
)

SHEET = "http://schemas.openxmlformats.org/spreadsheetml/2006/main"
DRAWN = "http://schemas.openxmlformats.org/drawingml/2006/spreadsheetDrawing"


def found_in(path):
    return [
        (one.source, round(one.density.x), round(one.density.y)) if one.px_w else one.source
        for one in images_in(path)
    ]


def bitmap_record(kind, length=120):
    return struct.pack("<II", kind, length) + b"\0" * (length - 8)


def emf(*records):
    head = bytearray(bitmap_record(1, 108))
    head[40:44] = b" EMF"
    return bytes(head) + b"".join(records) + struct.pack("<IIIII", 14, 20, 0, 0, 20)


@pytest.mark.parametrize(
    ("data", "form", "holds"),
    [
        pytest.param(emf(), "emf", False, id="an empty EMF"),
        pytest.param(emf(bitmap_record(81)), "emf", True, id="an EMF with a bitmap"),
        pytest.param(
            gzip.compress(emf(bitmap_record(76)), mtime=0), "emf", True, id="a compressed EMF"
        ),
        pytest.param(b"\xd7\xcd\xc6\x9a" + b"\0" * 40, "wmf", False, id="a WMF"),
        pytest.param(b"%PDF-1.4\n", "pdf", False, id="a PDF"),
        pytest.param(b"%!PS-3.0", "eps", False, id="an EPS"),
        pytest.param(b"VCLMTF\0\0", "svm", False, id="an SVM"),
        pytest.param(
            b'<svg xmlns="http://www.w3.org/2000/svg"><image/></svg>', "svg", True, id="an SVG"
        ),
    ],
)
def test_vector_files_by_their_content(data, form, holds):
    found = media_of(data, "media/x")
    assert (found.vector, found.holds_pixels, found.failure) == (form, holds, "")


def test_a_raster_inside_a_metafile_is_told(tmp_path):
    media = {"a.emf": emf(bitmap_record(81))}
    (found,) = images_in(deck(tmp_path / "a.pptx", [pic(xfrm(0, 0, 1, 1))], media=media))
    assert (found.kind, found.effects) == (ImageKind.VECTOR, ("holds pixels that are not judged",))


def test_effects_are_named_and_change_no_density(tmp_path):
    fill = (
        '<p:blipFill><a:blip r:embed="rImg"><a:duotone/><a:lum bright="20000"/></a:blip>'
        "<a:stretch/></p:blipFill>"
    )
    veiled = fill.replace("<a:duotone/>", '<a:alphaModFix amt="0"/>')
    path = deck(tmp_path / "a.pptx", [pic(xfrm(0, 0, 1, 1), fill) + pic(xfrm(0, 0, 1, 1), veiled)])
    first, second = images_in(path)
    assert first.effects == ("recoloured in two tones", "brightness or contrast changed")
    assert (first.density.x, second.unseen) == (300.0, "fully transparent")


def test_fills_of_groups_behind_pictures_and_of_letters(tmp_path):
    back = blip_fill(tag="a:blipFill")
    group = f"<p:grpSp><p:grpSpPr>{xfrm(0, 0, 6, 4)}{back}</p:grpSpPr></p:grpSp>"
    behind = pic(f"{xfrm(0, 0, 3, 2)}{back}")
    letters = (
        f"<p:sp><p:spPr>{xfrm(0, 0, 2, 2)}</p:spPr><p:txBody><a:p><a:r><a:rPr>{back}</a:rPr>"
        "<a:t>Light</a:t></a:r></a:p></p:txBody></p:sp>"
    )
    path = deck(tmp_path / "a.pptx", [group + behind + letters])
    assert found_in(path) == [
        ("fill", 50, 50),
        ("fill", 100, 100),
        ("slide", 100, 100),
        ("text", 150, 100),
    ]
    assert images_in(path)[-1].is_assumed


def test_a_diagram_is_drawn_by_a_part_of_its_own(tmp_path):
    holder = (
        f"<p:graphicFrame>{xfrm(1, 1, 4, 4, name='p:xfrm')}<a:graphic><a:graphicData>"
        '<p:relIds r:dm="rData"/></a:graphicData></a:graphic></p:graphicFrame>'
    )
    drawing = f"<p:drawing {SPACES}><p:spTree>{pic(xfrm(0, 0, 2, 2))}</p:spTree></p:drawing>"
    more = {
        "ppt/diagrams/data1.xml": (
            f'<p:dataModel {SPACES}><p:dataModelExt relId="rDraw"/></p:dataModel>'
        ),
        "ppt/diagrams/drawing1.xml": drawing,
        "ppt/diagrams/_rels/drawing1.xml.rels": relations(rImg=("image", "../media/image1.jpg")),
    }
    rels = {
        "rData": ("diagramData", "../diagrams/data1.xml"),
        "rDraw": ("diagramDrawing", "../diagrams/drawing1.xml"),
    }
    path = deck(tmp_path / "a.pptx", [holder], slide_rels=rels, more=more)
    assert found_in(path) == [("diagram", 150, 100)]
    # It stands where the frame stands: from the first inch of the slide.
    assert images_in(path)[0].shown_matrix.applied(0, 1) == pytest.approx((72, 540 - 72))


def test_older_fills_and_links(tmp_path):
    shapes = (
        '<v:rect style="width:1in;height:1in"><v:fill r:id="rImg" type="frame"/></v:rect>'
        '<v:shape style="width:1in;height:1in;visibility:hidden"><v:imagedata r:id="rImg"/>'
        "</v:shape>"
        '<v:shape style="width:1in;height:1in"><v:imagedata r:href="rOut"/></v:shape>'
    )
    rels = {"rOut": ("image", "!https://pictures.example/a.jpg")}
    path = text(tmp_path / "a.docx", f"<w:p><w:r><w:pict>{shapes}</w:pict></w:r></w:p>", rels=rels)
    fill, hidden, linked = images_in(path)
    assert (fill.source, round(fill.density.x)) == ("fill", 300)
    assert (hidden.unseen, linked.kind) == ("hidden", ImageKind.LINKED)


def sheet(path, inside, drawing="", *, more=None, rels=None):
    """A spreadsheet of one sheet by hand."""
    parts = {
        "[Content_Types].xml": "<Types/>",
        "_rels/.rels": relations(r1=("officeDocument", "xl/workbook.xml")),
        "xl/workbook.xml": (
            f'<workbook xmlns="{SHEET}" {SPACES}><workbookPr/><sheets>'
            '<sheet name="Tides" r:id="s"/></sheets></workbook>'
        ),
        "xl/_rels/workbook.xml.rels": relations(s=("worksheet", "worksheets/sheet1.xml")),
        "xl/worksheets/sheet1.xml": f'<worksheet xmlns="{SHEET}" {SPACES}>{inside}</worksheet>',
        "xl/worksheets/_rels/sheet1.xml.rels": relations(**(rels or {})),
        "xl/drawings/drawing1.xml": f'<xdr:wsDr xmlns:xdr="{DRAWN}" {SPACES}>{drawing}</xdr:wsDr>',
        "xl/drawings/_rels/drawing1.xml.rels": relations(rImg=("image", "../media/a.jpg")),
        "xl/media/a.jpg": picture(),
    }
    return package(path, parts | (more or {}))


def test_sheets_with_anchors_headers_and_backgrounds(tmp_path):
    fill = blip_fill(tag="xdr:blipFill")
    shape = f"<xdr:pic><xdr:nvPicPr/>{fill}<xdr:spPr>{xfrm(0, 0, 9, 9)}</xdr:spPr></xdr:pic>"
    drawing = (
        f'<xdr:absoluteAnchor><xdr:ext cx="{INCH}" cy="{2 * INCH}"/>{shape}</xdr:absoluteAnchor>'
        f"<xdr:twoCellAnchor><xdr:from/><xdr:to/>{shape}</xdr:twoCellAnchor>"
    )
    header = (
        f'<xml {SPACES}><v:shape style="width:0.5in;height:0.5in"><v:imagedata o:relid="rImg"/>'
        "</v:shape></xml>"
    )
    path = sheet(
        tmp_path / "a.xlsx",
        '<drawing r:id="d"/><legacyDrawingHF r:id="h"/><picture r:id="b"/>',
        drawing,
        rels={
            "d": ("drawing", "../drawings/drawing1.xml"),
            "h": ("vmlDrawing", "../drawings/header.vml"),
            "b": ("image", "../media/a.jpg"),
        },
        more={
            "xl/drawings/header.vml": header,
            "xl/drawings/_rels/header.vml.rels": relations(rImg=("image", "../media/a.jpg")),
        },
    )
    assert found_in(path) == [
        ("cells", 300, 100),
        ("cells", 33, 22),
        ("header", 600, 400),
        ("background", 96, 96),
    ]


def test_sheets_of_open_documents(tmp_path):
    body = (
        f'<table:table table:name="Tides"><table:shapes>{frame(image())}</table:shapes>'
        '</table:table><table:table table:name="Moons"><table:table-row><table:table-cell>'
        f"{frame(image())}</table:table-cell></table:table-row></table:table>"
    )
    read = read_document(document(tmp_path / "a.ods", body, kind="spreadsheet"), "a.ods")
    assert [(page.kind, page.title) for page in read.pages] == [
        (PageKind.SHEET, "Tides"),
        (PageKind.SHEET, "Moons"),
    ]
    assert [(one.page_number, one.source) for one in read.images] == [
        (1, "cells"),
        (2, "cells"),
    ]


def test_pictures_of_styles_in_open_texts(tmp_path):
    shown = 'xlink:href="Pictures/a.png"'
    styles = (
        '<style:style style:name="p" style:family="paragraph"><style:paragraph-properties>'
        f"<style:background-image {shown}/></style:paragraph-properties></style:style>"
        '<text:list-style style:name="l"><text:list-level-style-image text:level="1" '
        f'{shown}><style:list-level-properties fo:width="0.3in" fo:height="0.2in"/>'
        "</text:list-level-style-image></text:list-style>"
    )
    hidden = f'<text:section text:display="none"><text:p>{frame(image())}</text:p></text:section>'
    comment = f"<text:p><office:annotation>{frame(image())}</office:annotation></text:p>"
    path = document(tmp_path / "a.odt", hidden + comment, automatic=styles, kind="text")
    assert [(one.source, one.unseen) for one in images_in(path)] == [
        ("body", "hidden"),
        ("comment", ""),
        ("background", ""),
        ("bullet", ""),
    ]
    assert densities(path)[-2:] == [(100.0, 100.0), (1000.0, 1000.0)]


@pytest.mark.parametrize(
    ("steps", "density"),
    [
        ("matrix(2 0 0 1 1cm 2cm)", (150.0, 200.0)),
        ("scale(0.5)", (600.0, 400.0)),
        ("skewX(0)", (300.0, 200.0)),
        ("nonsense(1)", (300.0, 200.0)),
    ],
)
def test_other_transforms_of_open_documents(tmp_path, steps, density):
    inside = frame(image(), place=f'draw:transform="{steps}"')
    path = document(tmp_path / "a.odp", slide(inside), masters=MASTER.format(""))
    assert densities(path) == [density]


def test_books_with_rarer_pages(tmp_path):
    data = "data:image/png;base64," + base64.b64encode(picture(96, 96, "PNG")).decode()
    pages = [
        f'<img src="{data}" width="48"/>',
        '<p>&nbsp;open<br><img src="a.jpg" width="400">',
        '<object data="a.jpg" width="400"/><input type="image" src="a.jpg" width="200"/>'
        '<img hidden="" src="a.jpg" width="400"/>',
    ]
    path = book(tmp_path / "a.epub", pages)
    found = [(one.page_number, round(one.density.x), one.unseen) for one in images_in(path)]
    assert found == [(1, 192, ""), (2, 288, ""), (3, 288, ""), (3, 576, ""), (3, 288, "hidden")]


def test_spine_items_that_are_pictures(tmp_path):
    svg = '<svg xmlns="http://www.w3.org/2000/svg" width="400" height="300">' \
          '<image href="a.jpg" width="400" height="300"/></svg>'  # fmt: skip
    opf = (
        '<package xmlns="http://www.idpf.org/2007/opf" version="3.0"><metadata/><manifest>'
        '<item id="s" href="page.svg" media-type="image/svg+xml"/>'
        '<item id="a" href="a.jpg" media-type="image/jpeg"/></manifest>'
        '<spine><itemref idref="s"/><itemref idref="a"/></spine></package>'
    )
    parts = {
        "mimetype": "application/epub+zip",
        "META-INF/container.xml": CONTAINER,
        "OPS/book.opf": opf,
        "OPS/page.svg": svg,
        "OPS/a.jpg": picture(1200, 900),
    }
    read = read_document(package(tmp_path / "a.epub", parts), "a.epub")
    assert [page.is_drawn for page in read.pages] == [True, False]
    assert [round(one.density.x) for one in read.images] == [288, 96]


def test_style_sheets_import_and_override(tmp_path):
    css = '@import "more.css"; @media screen { img { width: 4in } }'
    css += " @media print { img { width: 1in } }"
    more = {"OPS/more.css": "img { width: 2in; height: auto } @import url(style.css);"}
    assert densities(book(tmp_path / "a.epub", ["<img src='a.jpg'/>"], css=css, more=more)) == [
        (300.0, 300.0)
    ]


def test_a_package_that_lost_its_list_of_relationships(tmp_path):
    deck(tmp_path / "a.pptx", [pic(xfrm(0, 0, 1, 1))])
    with zipfile.ZipFile(tmp_path / "a.pptx") as file:
        parts = {one: file.read(one) for one in file.namelist() if one != "_rels/.rels"}
    assert len(images_in(package(tmp_path / "b.pptx", parts))) == 1
