"""Documents of ISO/IEC 26300: formula 13, masters, fills, texts; in packages and as flat XML."""

import base64
import math

import odfdo
import pytest

from harnet.core.documents.document import PageKind
from harnet.core.documents.images import ImageKind
from harnet.media.packages.reading import read_document
from tests.support.packages import densities, images_in, package, picture

OASIS = "urn:oasis:names:tc:opendocument:xmlns"
SPACES = " ".join(
    f'xmlns:{prefix}="{OASIS}:{name}:1.0"'
    for prefix, name in (
        ("office", "office"),
        ("draw", "drawing"),
        ("style", "style"),
        ("text", "text"),
        ("table", "table"),
        ("presentation", "presentation"),
        ("svg", "svg-compatible"),
        ("fo", "xsl-fo-compatible"),
    )
)
LINK = 'xmlns:xlink="http://www.w3.org/1999/xlink"'
STYLES = (
    '<style:page-layout style:name="PL"><style:page-layout-properties'
    ' fo:page-width="28cm" fo:page-height="21cm"/></style:page-layout>'
)


def frame(
    inside, size='svg:width="1in" svg:height="1in"', place='svg:x="1in" svg:y="1in"', more=""
):
    return f'<draw:frame draw:name="Fig" {size} {place} {more}>{inside}</draw:frame>'


def image(name="Pictures/a.png"):
    return f'<draw:image xlink:href="{name}"/>'


def document(path, body, *, automatic="", styles="", masters="", media=None, kind="presentation"):
    content = (
        f"<office:document-content {SPACES} {LINK}><office:automatic-styles>{automatic}"
        f"</office:automatic-styles><office:body><office:{kind}>{body}</office:{kind}>"
        "</office:body></office:document-content>"
    )
    other = (
        f"<office:document-styles {SPACES} {LINK}><office:styles>{styles}</office:styles>"
        f"<office:automatic-styles>{STYLES}</office:automatic-styles>"
        f"<office:master-styles>{masters}</office:master-styles></office:document-styles>"
    )
    parts = {
        "mimetype": f"application/vnd.oasis.opendocument.{kind}",
        "content.xml": content,
        "styles.xml": other,
    }
    media = media or {"a.png": picture(300, 200, "PNG", dpi=(100, 100))}
    return package(path, parts | {f"Pictures/{name}": data for name, data in media.items()})


def slide(inside, attributes=""):
    return f'<draw:page draw:name="One" draw:master-page-name="M" {attributes}>{inside}</draw:page>'


MASTER = '<style:master-page style:name="M" style:page-layout-name="PL">{}</style:master-page>'


@pytest.fixture
def path(tmp_path):
    return tmp_path / "deck.odp"


@pytest.mark.parametrize(
    "size",
    [
        'svg:width="2in" svg:height="1in"',
        'svg:width="5.08cm" svg:height="2.54cm"',
        'svg:width="50.8mm" svg:height="25.4mm"',
        'svg:width="144pt" svg:height="72pt"',
        'svg:width="12pc" svg:height="6pc"',
        'svg:width="192px" svg:height="96px"',
    ],
)
def test_lengths_with_their_units(path, size):
    """Units of ISO/IEC 26300-1, 18.3.18 (from memory): cm, mm, in, pt, pc, px."""
    document(path, slide(frame(image(), size)), masters=MASTER.format(""))
    assert densities(path) == [(150.0, 200.0)]


def test_clip_in_lengths_at_native_size(path):
    """Formula 13: 300 × 200 px tagged 100 ppi are 3 × 2 in; 0.5 in left, 1 in at the bottom."""
    style = (
        '<style:style style:name="g" style:family="graphic"><style:graphic-properties'
        ' fo:clip="rect(0in, 0cm, 1in, 0.5in)"/></style:style>'
    )
    body = slide(frame(image(), 'svg:width="2.5in" svg:height="1in"', more='draw:style-name="g"'))
    document(path, body, automatic=style, masters=MASTER.format(""))
    assert densities(path) == [(100.0, 100.0)]
    assert images_in(path)[0].visible_share == pytest.approx(250 / 300 * 0.5, rel=1e-4)


def test_clip_of_an_untagged_picture_is_assumed_at_what_fits(path):
    """At 96 ppi the clip leaves 156 × 200 px, which the frame shows unstretched."""
    style = (
        '<style:style style:name="g" style:family="graphic"><style:graphic-properties'
        ' fo:clip="rect(0in, 1in, 0in, 0.5in)"/></style:style>'
    )
    body = slide(frame(image(), 'svg:width="1.56in" svg:height="2in"', more='draw:style-name="g"'))
    media = {"a.png": picture(300, 200, "PNG")}
    document(path, body, automatic=style, masters=MASTER.format(""), media=media)
    (found,) = images_in(path)
    assert densities(path) == [(100.0, 100.0)]
    assert found.is_assumed


def test_transforms_multiply(path):
    place = f'draw:transform="scale(2 2) rotate({math.pi / 6}) translate(3cm 4cm)"'
    document(path, slide(frame(image(), place=place)), masters=MASTER.format(""))
    assert densities(path) == [(150.0, 100.0)]


def test_first_picture_that_can_be_drawn_is_shown(path):
    svg = b'<svg xmlns="http://www.w3.org/2000/svg"/>'
    body = slide(frame(image("Pictures/b.svg") + image()))
    media = {"a.png": picture(300, 200, "PNG"), "b.svg": svg}
    document(path, body, masters=MASTER.format(""), media=media)
    vector, raster = images_in(path)
    assert (vector.kind, vector.unseen) == (ImageKind.VECTOR, "")
    assert raster.unseen == "stands in for a vector picture"


def test_fills_backgrounds_objects_and_links(path):
    styles = '<draw:fill-image draw:name="F" xlink:href="Pictures/a.png"/>'
    automatic = (
        '<style:style style:name="s" style:family="graphic"><style:graphic-properties'
        ' draw:fill="bitmap" draw:fill-image-name="F" style:repeat="stretch"/></style:style>'
        '<style:style style:name="t" style:family="graphic"><style:graphic-properties'
        ' draw:fill="bitmap" draw:fill-image-name="F" draw:fill-image-width="0.5in"'
        ' draw:fill-image-height="1in" style:repeat="repeat"/></style:style>'
        '<style:style style:name="dp" style:family="drawing-page"><style:drawing-page-properties'
        ' draw:fill="bitmap" draw:fill-image-name="F" style:repeat="stretch"/></style:style>'
    )
    rect = (
        '<draw:rect svg:x="0in" svg:y="0in" svg:width="3in" svg:height="2in" draw:style-name="{}"/>'
    )
    body = slide(
        rect.format("s")
        + rect.format("t")
        + frame('<draw:object xlink:href="./Object 1"/>' + image())
        + frame('<draw:image xlink:href="https://pictures.example/a.png"/>'),
        'draw:style-name="dp"',
    )
    document(path, body, automatic=automatic, styles=styles, masters=MASTER.format(""))
    found = [
        (one.source, one.kind, round(one.density.x) if one.px_w else 0) for one in images_in(path)
    ]
    assert found == [
        ("background", ImageKind.RASTER, round(300 / (28 / 2.54))),
        ("fill", ImageKind.RASTER, 100),
        ("fill", ImageKind.RASTER, 600),
        ("preview", ImageKind.RASTER, 300),
        ("slide", ImageKind.LINKED, 0),
    ]


def test_masters_once_and_notes(path):
    notes = f"<presentation:notes>{frame(image())}</presentation:notes>"
    master = MASTER.format(frame(image()))
    read = read_document(document(path, slide(notes) + slide(""), masters=master), "deck.odp")
    assert [(page.kind, page.number, page.shown_on) for page in read.pages] == [
        (PageKind.SLIDE, None, None),
        (PageKind.SLIDE, None, None),
        (PageKind.NOTES, 1, None),
        (PageKind.MASTER, None, 2),
    ]
    assert [one.source for one in read.images] == ["notes", "master"]


def test_text_with_headings_cells_notes_and_deletions(tmp_path):
    path = tmp_path / "text.odt"
    body = (
        "<text:tracked-changes><text:changed-region><text:deletion>"
        f"<text:p>{frame(image())}</text:p></text:deletion></text:changed-region>"
        "</text:tracked-changes>"
        f'<text:h text:outline-level="1">Tides</text:h><text:p>{frame(image())}</text:p>'
        f"<table:table><table:table-row><table:table-cell><text:p>{frame(image())}</text:p>"
        "</table:table-cell></table:table-row></table:table>"
        f'<text:p><text:note text:note-class="footnote">{frame(image())}</text:note></text:p>'
    )
    master = MASTER.format(f"<style:header><text:p>{frame(image())}</text:p></style:header>")
    document(path, body, masters=master, kind="text")
    found = [(one.source, one.heading, one.unseen[:7]) for one in images_in(path)]
    assert found == [
        ("body", "", "deleted"),
        ("body", "Tides", ""),
        ("table cell", "Tides", ""),
        ("footnote", "Tides", ""),
        ("header", "", ""),
    ]


def test_flat_xml_with_pictures_in_it(tmp_path):
    data = base64.b64encode(picture(300, 200, "PNG")).decode()
    inside = frame(f"<draw:image><office:binary-data>{data}</office:binary-data></draw:image>")
    path = tmp_path / "drawing.fodg"
    path.write_text(
        f"<?xml version='1.0'?><office:document {SPACES} {LINK}><office:body><office:drawing>"
        f"<draw:page>{inside}</draw:page></office:drawing></office:body></office:document>"
    )
    read = read_document(path, path.name)
    assert read.whole["format"] == "odg"
    assert densities(path) == [(300.0, 200.0)]


def test_a_text_of_a_general_library(tmp_path):
    made = odfdo.Document("text")
    made.body.clear()
    (tmp_path / "a.png").write_bytes(picture(1000, 500, "PNG"))
    name = made.add_file(str(tmp_path / "a.png"))
    made.body.append(odfdo.Header(1, "Part one"))
    paragraph = odfdo.Paragraph("")
    paragraph.append(odfdo.Frame.image_frame(name, size=("10cm", "5cm"), anchor_type="paragraph"))
    made.body.append(paragraph)
    made.save(str(tmp_path / "text.odt"))
    assert densities(tmp_path / "text.odt") == [(254.0, 254.0)]
    assert images_in(tmp_path / "text.odt")[0].heading == "Part one"
