"""Text documents: in reading order under headings, by hand and by a general library."""

import docx
import pytest
from docx.shared import Inches

from harnet.core.documents.document import PageKind
from harnet.core.documents.images import ImageKind
from harnet.media.packages.reading import read_document
from tests.support.packages import (
    SPACES,
    blip_fill,
    densities,
    images_in,
    inline,
    picture,
    relations,
    text,
    xfrm,
)

_NEVER = "doNotAutoCompress"
FLAG = f"{_NEVER}Pictures"


def paragraph(inside, style=""):
    properties = f'<w:pPr><w:pStyle w:val="{style}"/></w:pPr>' if style else ""
    return f"<w:p>{properties}{inside}</w:p>"


def letters(words):
    return f"<w:r><w:t>{words}</w:t></w:r>"


@pytest.fixture
def path(tmp_path):
    return tmp_path / "text.docx"


def test_a_text_of_a_general_library(tmp_path):
    made = docx.Document()
    (tmp_path / "a.jpg").write_bytes(picture(1200, 900))
    made.add_heading("Tides", 1)
    made.add_paragraph().add_run().add_picture(str(tmp_path / "a.jpg"), width=Inches(4))
    made.add_heading("Wrecks", 2)
    table = made.add_table(1, 2)
    table.cell(0, 1).paragraphs[0].add_run().add_picture(str(tmp_path / "a.jpg"), width=Inches(6))
    header = made.sections[0].header.paragraphs[0]
    header.add_run().add_picture(str(tmp_path / "a.jpg"), width=Inches(2))
    made.save(tmp_path / "text.docx")
    read = read_document(tmp_path / "text.docx", "text.docx")
    assert [
        (one.source, one.heading, round(one.density.x), round(one.density.y)) for one in read.images
    ] == [
        ("body", "Tides", 300, 300),
        ("table cell", "Wrecks", 200, 200),
        ("header", "", 600, 600),
    ]
    assert [page.kind for page in read.pages] == [PageKind.TEXT]


def test_cropped_and_turned(path):
    fill = blip_fill(tag="pic:blipFill", crop='l="50000"')
    data = (
        f"<pic:pic>{fill}"
        '<pic:spPr><a:xfrm rot="5400000"><a:off x="0" y="0"/><a:ext cx="1" cy="1"/></a:xfrm>'
        "</pic:spPr></pic:pic>"
    )
    text(path, paragraph(inline(1, 1, data)))
    assert densities(path) == [(150.0, 200.0)]


def test_groups_text_boxes_and_shapes_with_fills(path):
    inner = paragraph(inline(1, 2))
    box = (
        f"<wps:wsp><wps:spPr>{xfrm(0, 0, 2, 1)}{blip_fill(tag='a:blipFill')}</wps:spPr>"
        f"<wps:txbx><w:txbxContent>{inner}</w:txbxContent></wps:txbx></wps:wsp>"
    )
    group = (
        "<wpg:wgp><wpg:grpSpPr>"
        + xfrm(0, 0, 4, 4, inside='<a:chOff x="0" y="0"/><a:chExt cx="3657600" cy="3657600"/>')
        + f"</wpg:grpSpPr>{box}</wpg:wgp>"
    )
    text(path, paragraph(inline(2, 2, group, kind="anchor")))
    found = [(one.source, round(one.density.x), round(one.density.y)) for one in images_in(path)]
    assert found == [("fill", 300, 400), ("text box", 300, 100)]


@pytest.mark.parametrize(
    ("style", "crop", "density"),
    [
        ("width:72pt;height:72pt", "", (300.0, 200.0)),
        ("width:96px;height:1in", "", (300.0, 200.0)),
        ("width:2.54cm;height:25.4mm", "", (300.0, 200.0)),
        ("width:72pt;height:72pt", 'cropleft="32768f" croptop="0.25"', (150.0, 150.0)),
    ],
)
def test_older_drawings(path, style, crop, density):
    shape = f'<v:shape style="{style}"><v:imagedata r:id="rImg" {crop} o:title="Map"/></v:shape>'
    text(path, paragraph(f"<w:r><w:pict>{shape}</w:pict></w:r>"))
    (image,) = images_in(path)
    assert densities(path) == [density]
    assert image.shape_name == "Map"


def test_older_groups_have_units_of_their_own(path):
    """VML: a group's coordinates are mapped onto its size."""
    shape = (
        '<v:shape style="left:500;top:0;width:500;height:1000"><v:imagedata r:id="rImg"/></v:shape>'
    )
    group = f'<v:group style="width:144pt;height:72pt" coordsize="1000,1000">{shape}</v:group>'
    text(path, paragraph(f"<w:r><w:pict>{group}</w:pict></w:r>"))
    assert densities(path) == [(300.0, 200.0)]


def test_previews_bullets_deletions_and_hidden_text(path):
    older = '<v:shape style="width:72pt;height:72pt"><v:imagedata r:id="rImg"/></v:shape>'
    body = (
        paragraph(f"<w:r><w:object>{older}<o:OLEObject/></w:object></w:r>")
        + paragraph(f"<w:del>{inline(1, 1)}</w:del>")
        + paragraph(inline(1, 1).replace("<w:r>", "<w:r><w:rPr><w:vanish/></w:rPr>", 1))
    )
    numbering = (
        f"<w:numbering {SPACES}><w:numPicBullet><w:pict>"
        f"{older.replace('72pt', '9pt')}</w:pict></w:numPicBullet></w:numbering>"
    )
    more = {
        "word/numbering.xml": numbering,
        "word/_rels/numbering.xml.rels": relations(rImg=("image", "media/image1.jpg")),
    }
    text(path, body, rels={"n": ("numbering", "numbering.xml")}, more=more)
    found = [(one.source, one.unseen, round(one.density.x)) for one in images_in(path)]
    assert found == [
        ("preview", "", 300),
        ("body", "deleted, and the change is not accepted yet", 300),
        ("body", "hidden", 300),
        ("bullet", "", 2400),
    ]


def test_headings_by_style_by_level_and_by_what_they_are_based_on(path):
    styles = (
        f"<w:styles {SPACES}>"
        '<w:style w:styleId="H"><w:name w:val="heading 1"/></w:style>'
        '<w:style w:styleId="Own"><w:name w:val="Chapter"/><w:basedOn w:val="H"/></w:style>'
        '<w:style w:styleId="Level"><w:name w:val="x"/><w:pPr><w:outlineLvl w:val="2"/></w:pPr>'
        '</w:style><w:style w:styleId="Plain"><w:name w:val="Body"/></w:style></w:styles>'
    )
    body = "".join(
        paragraph(letters(style), style) + paragraph(inline(1, 1))
        for style in ("H", "Plain", "Own", "Level")
    )
    text(path, body, rels={"s": ("styles", "styles.xml")}, more={"word/styles.xml": styles})
    assert [one.heading for one in images_in(path)] == ["H", "H", "Own", "Level"]


def test_links_and_settings(path):
    fill = '<pic:blipFill><a:blip r:link="rOut"/></pic:blipFill>'
    settings = f'<w:settings {SPACES}><w:{FLAG}/><w:defaultImageDpi w:val="220"/></w:settings>'
    text(
        path,
        paragraph(inline(1, 1, f"<pic:pic>{fill}<pic:spPr/></pic:pic>")),
        rels={"rOut": ("image", "!file:///harbour.jpg"), "s": ("settings", "settings.xml")},
        more={"word/settings.xml": settings},
    )
    read = read_document(path, "text.docx")
    assert (read.images[0].kind, read.images[0].link) == (ImageKind.LINKED, "file:///harbour.jpg")
    assert read.whole["saving"]["shrinks"] is False
    assert read.whole["saving"]["default_ppi"] == 220
