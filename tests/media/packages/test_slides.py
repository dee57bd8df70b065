"""Slide decks: formula 12 on shapes by hand, and decks that a general library wrote."""

import math
import zipfile

import numpy
import pytest
from hypothesis import given, settings
from hypothesis import strategies as st
from pptx import Presentation
from pptx.util import Inches

from harnet.core.documents.document import PageKind
from harnet.core.documents.images import ImageKind
from harnet.media.packages.reading import read_document
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
    tree,
    xfrm,
)

_AUTOMATIC = "autoCompress"
FLAG = f"{_AUTOMATIC}Pictures"
TILED = '<a:tile sx="50000" sy="50000"/>'


def group(place, shapes, name="p:grpSp", properties="p:grpSpPr"):
    return f"<{name}><{properties}>{place}</{properties}>{shapes}</{name}>"


def child_space(x, y, w, h):
    return (
        f'<a:chOff x="{round(x * INCH)}" y="{round(y * INCH)}"/>'
        f'<a:chExt cx="{round(w * INCH)}" cy="{round(h * INCH)}"/>'
    )


@pytest.fixture
def path(tmp_path):
    return tmp_path / "deck.pptx"


def test_crop_counts_only_what_is_seen(path):
    """Check value of formula 12: 2 000 × 1 000 px, a quarter and a tenth cropped, at 5 × 3 in."""
    fill = blip_fill(crop='l="25000" t="10000"')
    deck(path, [pic(xfrm(1, 1, 5, 3), fill)], media={"a.jpg": picture(2000, 1000)})
    (image,) = images_in(path)
    assert densities(path) == [(300.0, 300.0)]
    assert image.visible_share == pytest.approx(0.675)
    assert (image.shown_matrix.u_length, image.shown_matrix.v_length) == pytest.approx((360, 216))
    assert (image.page_number, image.source, image.shape_name) == (1, "slide", "Picture 1")


def test_group_shown_at_half_its_size(path):
    """Check value of formula 12: 800 × 600 px placed 4 × 3 in, in a group at half its size."""
    inside = pic(xfrm(0, 0, 4, 3))
    place = xfrm(1, 1, 2, 1.5, inside=child_space(0, 0, 4, 3))
    deck(path, [group(place, inside)], media={"a.jpg": picture(800, 600)})
    assert densities(path) == [(400.0, 400.0)]
    assert images_in(path)[0].placed_ppi == pytest.approx((200, 200))


def test_percentages_of_the_strict_form(path):
    """Strict ISO/IEC 29500 writes percentages with their sign, and other namespaces."""
    fill = blip_fill(crop='l="50%"')
    deck(path, [pic(xfrm(0, 0, 1, 1), fill)])
    data = {}
    with zipfile.ZipFile(path) as file:
        for name in file.namelist():
            text = file.read(name)
            data[name] = (
                text
                if name.endswith("jpg")
                else text.replace(
                    b"http://schemas.openxmlformats.org/drawingml/2006/main",
                    b"http://purl.oclc.org/ooxml/drawingml/main",
                ).replace(
                    b"http://schemas.openxmlformats.org/presentationml/2006/main",
                    b"http://purl.oclc.org/ooxml/presentationml/main",
                )
            )
    package(path, data)
    assert densities(path) == [(150.0, 200.0)]


def test_padded_picture_is_smaller_than_its_shape(path):
    """A negative crop leaves room beside the picture (20.1.8.55, from memory)."""
    fill = blip_fill(crop='l="-50000" r="-50000"')
    deck(path, [pic(xfrm(0, 0, 2, 1), fill)])
    (image,) = images_in(path)
    assert densities(path) == [(300.0, 200.0)]
    assert image.visible_share == 1.0


@pytest.mark.parametrize(
    ("rect", "density", "share"),
    [
        ('l="25000" r="25000"', (300.0, 200.0), 1.0),
        ('l="-50000" r="-50000"', (75.0, 200.0), 0.5),
        ("", (150.0, 200.0), 1.0),
    ],
)
def test_fill_rect_moves_the_edges_of_what_is_filled(path, rect, density, share):
    mode = f"<a:stretch><a:fillRect {rect}/></a:stretch>"
    shape = (
        f"<p:sp><p:spPr>{xfrm(0, 0, 2, 1)}{blip_fill(mode=mode, tag='a:blipFill')}</p:spPr></p:sp>"
    )
    deck(path, [shape])
    (image,) = images_in(path)
    assert densities(path) == [density]
    assert image.visible_share == pytest.approx(share)
    assert image.source == "fill"


def test_tile_has_a_scale_of_its_own(path):
    """A tile at half the size of a picture tagged 150 ppi shows 300."""
    shape = (
        f"<p:sp><p:spPr>{xfrm(0, 0, 5, 5)}{blip_fill(mode=TILED, tag='a:blipFill')}</p:spPr></p:sp>"
    )
    deck(path, [shape], media={"a.png": picture(150, 150, "PNG", dpi=(150, 150))})
    assert densities(path) == [(300.0, 300.0)]
    deck(path, [shape], media={"a.png": picture(150, 150, "PNG")})
    (untagged,) = images_in(path)
    assert densities(path) == [(192.0, 192.0)]
    assert untagged.is_assumed


def test_rotation_and_flips_do_not_matter(path):
    place = xfrm(1, 1, 2, 1, extra='rot="2700000" flipH="1" flipV="true"')
    deck(path, [pic(place)])
    assert densities(path) == [(150.0, 200.0)]


def affine(x, y, w, h, turn=0.0, flip_h=False, flip_v=False):
    """The map from the unit square to a turned box, multiplied out by numpy."""
    turn = math.radians(turn)
    to_middle = numpy.array([[1, 0, -0.5], [0, 1, -0.5], [0, 0, 1]])
    size = numpy.diag([-w if flip_h else w, -h if flip_v else h, 1])
    rotation = numpy.array(
        [[math.cos(turn), -math.sin(turn), 0], [math.sin(turn), math.cos(turn), 0], [0, 0, 1]]
    )
    back = numpy.array([[1, 0, x + w / 2], [0, 1, y + h / 2], [0, 0, 1]])
    return back @ rotation @ size @ to_middle


side = st.integers(10, 600).map(lambda n: n / 100)
turn = st.integers(-359, 359)
crop_side = st.integers(-30, 40).map(lambda n: n / 100)
boxes = st.tuples(side, side, side, side, turn, st.booleans(), st.booleans())


@settings(max_examples=60, deadline=None)
@given(
    outer=st.lists(st.tuples(boxes, st.tuples(side, side, side, side)), max_size=4),
    box=boxes,
    crop=st.tuples(crop_side, crop_side, crop_side, crop_side),
)
def test_nested_groups_crops_and_turns_agree_with_matrices(tmp_path_factory, outer, box, crop):
    path = tmp_path_factory.mktemp("decks") / "deck.pptx"

    def placed(one, inside=""):
        x, y, w, h, degrees, flip_h, flip_v = one
        extra = f'rot="{degrees * 60000}" flipH="{int(flip_h)}" flipV="{int(flip_v)}"'
        return xfrm(x, y, w, h, extra=extra, inside=inside)

    words = " ".join(
        f'{key}="{round(value * 100000)}"' for key, value in zip("ltrb", crop, strict=True)
    )
    shapes = pic(placed(box), blip_fill(crop=words))
    whole = affine(*box)
    for frame, space in outer:
        shapes = group(placed(frame, child_space(*space)), shapes)
        x, y, w, h = space
        to_unit = numpy.array([[1 / w, 0, -x / w], [0, 1 / h, -y / h], [0, 0, 1]])
        whole = affine(*frame) @ to_unit @ whole
    deck(path, [shapes], media={"a.jpg": picture(120, 90)})
    (image,) = images_in(path)
    left, top, right, bottom = crop
    across = 120 * (1 - left - right) / numpy.hypot(*whole[:2, 0])
    down = 90 * (1 - top - bottom) / numpy.hypot(*whole[:2, 1])
    assert (image.density.x, image.density.y) == pytest.approx((across, down), rel=1e-4)
    if min(crop) >= 0:
        # What is seen fills the shape: corner by corner, in points with y upwards.
        for x, y in ((0, 0), (1, 0), (0, 1)):
            corner = whole @ numpy.array([x, y, 1.0])
            expected = (corner[0] * 72, 540 - corner[1] * 72)
            assert image.shown_matrix.applied(x, 1 - y) == pytest.approx(expected, abs=0.05)


def test_alternate_content_shows_what_current_programs_know(path):
    known = pic(xfrm(0, 0, 1, 1), name="choice")
    older = pic(xfrm(0, 0, 2, 2), name="fallback")

    def alternate(space):
        return (
            f'<mc:AlternateContent><mc:Choice xmlns:n="{space}" Requires="n">{known}</mc:Choice>'
            f"<mc:Fallback>{older}</mc:Fallback></mc:AlternateContent>"
        )

    deck(path, [alternate("http://schemas.microsoft.com/office/powerpoint/2010/main")])
    assert [one.shape_name for one in images_in(path)] == ["choice"]
    deck(path, [alternate("urn:example:not-known-to-anybody")])
    assert [one.shape_name for one in images_in(path)] == ["fallback"]


def test_vector_pictures_are_vector_and_their_fallback_is_not_seen(path):
    svg = b'<svg xmlns="http://www.w3.org/2000/svg" width="10" height="10"/>'
    extension = (
        '<a:extLst><a:ext uri="{96DAC541}"><asvg:svgBlip r:embed="rSvg"/></a:ext></a:extLst>'
    )
    fill = f'<p:blipFill><a:blip r:embed="rImg">{extension}</a:blip><a:stretch/></p:blipFill>'
    deck(
        path,
        [pic(xfrm(0, 0, 1, 1), fill)],
        media={"a.png": picture(30, 20, "PNG"), "b.svg": svg},
        slide_rels={"rSvg": ("image", "../media/b.svg")},
    )
    vector, raster = images_in(path)
    assert (vector.kind, vector.filters, vector.unseen) == (ImageKind.VECTOR, "svg", "")
    assert raster.unseen == "stands in for a vector picture"


def test_linked_pictures_are_named_and_not_fetched(path):
    fill = '<p:blipFill><a:blip r:link="rOut"/><a:stretch/></p:blipFill>'
    rels = {"rOut": ("image", "!https://pictures.example/harbour.jpg")}
    deck(path, [pic(xfrm(0, 0, 1, 1), fill)], slide_rels=rels)
    (image,) = images_in(path)
    assert image.kind is ImageKind.LINKED
    assert image.link == "https://pictures.example/harbour.jpg"
    assert not image.is_judged


def test_hidden_outside_and_without_size(path):
    shapes = (
        pic(xfrm(0, 0, 1, 1), about='hidden="1"')
        + pic(xfrm(11, 0, 1, 1))
        + pic(xfrm(0, 0, 0, 0))
        + pic(xfrm(0, 0, 1, 1), blip_fill(crop='l="60000" r="50000"'))
    )
    deck(path, [shapes])
    assert [one.unseen for one in images_in(path)] == [
        "hidden",
        "outside the page",
        "has no size",
        "cropped off entirely",
    ]


def test_table_cells_backgrounds_bullets_posters_and_previews(path):
    cell = "<a:tcPr>" + blip_fill(tag="a:blipFill") + "</a:tcPr>"
    table = (
        f"<p:graphicFrame>{xfrm(1, 1, 6, 2, name='p:xfrm')}<a:graphic><a:graphicData><a:tbl>"
        f'<a:tblGrid><a:gridCol w="{2 * INCH}"/><a:gridCol w="{3 * INCH}"/></a:tblGrid>'
        f'<a:tr h="{INCH}"><a:tc/><a:tc>{cell}</a:tc></a:tr></a:tbl>'
        "</a:graphicData></a:graphic></p:graphicFrame>"
    )
    bullet = (
        f"<p:sp><p:spPr>{xfrm(0, 0, 5, 5)}</p:spPr><p:txBody><a:p><a:pPr>"
        '<a:buSzPct val="200000"/><a:buBlip><a:blip r:embed="rImg"/></a:buBlip></a:pPr>'
        '<a:r><a:rPr sz="3600"/><a:t>Tides</a:t></a:r></a:p></p:txBody></p:sp>'
    )
    film = pic(xfrm(0, 0, 3, 2)).replace("<p:nvPr/>", '<p:nvPr><a:videoFile r:link="v"/></p:nvPr>')
    preview = (
        f"<p:graphicFrame>{xfrm(0, 0, 1.5, 1, name='p:xfrm')}<a:graphic><a:graphicData><p:oleObj>"
        f"{pic(xfrm(0, 0, 9, 9))}</p:oleObj></a:graphicData></a:graphic></p:graphicFrame>"
    )
    back = f"<p:bg><p:bgPr>{blip_fill(tag='a:blipFill')}</p:bgPr></p:bg>"
    deck(path, [back + tree(table + bullet + film + preview)])
    found = {
        one.source: (round(one.density.x, 1), round(one.density.y, 1)) for one in images_in(path)
    }
    assert found == {
        "background": (30.0, round(200 / 7.5, 1)),
        "table cell": (100.0, 200.0),
        "bullet": (200.0, 200.0),
        "media poster": (100.0, 100.0),
        "preview": (200.0, 200.0),
    }


def masters(path, *, slides=3, hidden=1, showing=True, unused=False):
    """A deck whose master and layout have a picture; the last slides are hidden."""
    attribute = "" if showing else 'showMasterSp="0"'
    shape = pic(xfrm(0, 0, 1, 1), name="Logo")
    more = {
        "ppt/slideLayouts/slideLayout1.xml": (
            f'<p:sldLayout {SPACES}><p:cSld name="Title">{tree(shape)}</p:cSld></p:sldLayout>'
        ),
        "ppt/slideLayouts/_rels/slideLayout1.xml.rels": relations(
            rImg=("image", "../media/image1.jpg"), m=("slideMaster", "../slideMasters/m.xml")
        ),
        "ppt/slideMasters/m.xml": (
            f'<p:sldMaster {SPACES}><p:cSld name="Blue">{tree(shape)}</p:cSld></p:sldMaster>'
        ),
        "ppt/slideMasters/_rels/m.xml.rels": relations(
            rImg=("image", "../media/image1.jpg"),
            l=("slideLayout", "../slideLayouts/slideLayout1.xml"),
        ),
    }
    for number in range(1, slides + 1):
        show = 'show="0"' if number > slides - hidden else ""
        more[f"ppt/slides/slide{number}.xml"] = (
            f"<p:sld {SPACES} {show} {attribute}><p:cSld>{tree('')}</p:cSld></p:sld>"
        )
        kind = {} if unused else {"l": ("slideLayout", "../slideLayouts/slideLayout1.xml")}
        more[f"ppt/slides/_rels/slide{number}.xml.rels"] = relations(
            rImg=("image", "../media/image1.jpg"), **kind
        )
    return deck(path, [""] * slides, more=more)


def test_masters_and_layouts_once_with_the_slides_that_show_them(path):
    read = read_document(masters(path), "deck.pptx")
    assert [page.kind for page in read.pages[3:]] == [PageKind.LAYOUT, PageKind.MASTER]
    assert [(page.title, page.shown_on, page.hidden_on) for page in read.pages[3:]] == [
        ("Title", 3, 1),
        ("Blue", 3, 1),
    ]
    assert [one.source for one in read.images] == ["layout", "master"]
    assert [page.is_hidden for page in read.pages[:3]] == [False, False, True]
    assert len(read.pages[0].marks) == 2


def test_master_that_no_slide_shows(path):
    read = read_document(masters(path, showing=False), "deck.pptx")
    assert [one.unseen for one in read.images] == ["on a layout or master that no slide shows"] * 2


def test_placeholders_take_their_place_from_the_layout(tmp_path):
    """A picture that python-pptx inserts into a placeholder states no place of its own."""
    made = Presentation()
    slide = made.slides.add_slide(made.slide_layouts[8])
    holder = next(one for one in slide.placeholders if one.placeholder_format.type == 18)
    (tmp_path / "a.jpg").write_bytes(picture(900, 900))
    placed = holder.insert_picture(str(tmp_path / "a.jpg"))
    made.save(tmp_path / "deck.pptx")
    (image,) = images_in(tmp_path / "deck.pptx")
    expected = 900 * (1 - placed.crop_left - placed.crop_right) / (placed.width / INCH)
    assert image.density.x == pytest.approx(expected)


def test_a_deck_of_a_general_library(tmp_path):
    made = Presentation()
    truth = []
    for number in range(4):
        slide = made.slides.add_slide(made.slide_layouts[6])
        for place in range(3):
            px_w, px_h = 200 + 70 * place, 150 + 40 * number
            file = tmp_path / f"{number} {place}.png"
            file.write_bytes(picture(px_w, px_h, "PNG", seed=10 * number + place))
            shape = slide.shapes.add_picture(
                str(file), Inches(1), Inches(place), Inches(1 + place), Inches(1.5)
            )
            shape.crop_right = 0.1 * place
            shape.rotation = 15 * place
            truth.append(
                (number + 1, px_w, px_h, px_w * (1 - 0.1 * place) / (1 + place), px_h / 1.5)
            )
    made.save(tmp_path / "deck.pptx")
    found = [
        (one.page_number, one.px_w, one.px_h, one.density.x, one.density.y)
        for one in images_in(tmp_path / "deck.pptx")
    ]
    assert found == [pytest.approx(one) for one in truth]


def test_theme_backgrounds_and_style_fills(path):
    theme = (
        f"<a:theme {SPACES}><a:themeElements><a:fmtScheme><a:fillStyleLst><a:solidFill/>"
        f"{blip_fill(tag='a:blipFill')}</a:fillStyleLst><a:bgFillStyleLst>"
        f"{blip_fill(tag='a:blipFill', mode=TILED)}</a:bgFillStyleLst>"
        "</a:fmtScheme></a:themeElements></a:theme>"
    )
    styled = (
        f'<p:sp><p:spPr>{xfrm(0, 0, 3, 2)}</p:spPr><p:style><a:fillRef idx="2"/></p:style></p:sp>'
    )
    nothing = f"<p:cSld>{tree('')}</p:cSld>"
    more = {
        "ppt/slides/slide1.xml": (
            f'<p:sld {SPACES}><p:cSld><p:bg><p:bgRef idx="1001"/></p:bg>'
            f"{tree(styled)}</p:cSld></p:sld>"
        ),
        "ppt/slides/_rels/slide1.xml.rels": relations(l=("slideLayout", "../slideLayouts/l.xml")),
        "ppt/slideLayouts/l.xml": f"<p:sldLayout {SPACES}>{nothing}</p:sldLayout>",
        "ppt/slideLayouts/_rels/l.xml.rels": relations(m=("slideMaster", "../slideMasters/m.xml")),
        "ppt/slideMasters/m.xml": f"<p:sldMaster {SPACES}>{nothing}</p:sldMaster>",
        "ppt/slideMasters/_rels/m.xml.rels": relations(t=("theme", "../theme/theme1.xml")),
        "ppt/theme/theme1.xml": theme,
        "ppt/theme/_rels/theme1.xml.rels": relations(rImg=("image", "../media/a.png")),
    }
    deck(path, [""], media={"a.png": picture(300, 200, "PNG", dpi=(96, 96))}, more=more)
    found = {one.source: (round(one.density.x), round(one.density.y)) for one in images_in(path)}
    assert found == {"background": (192, 192), "fill": (100, 100)}


def test_charts_diagrams_and_notes(path):
    chart = (
        f"<p:graphicFrame>{xfrm(0, 0, 3, 2, name='p:xfrm')}<a:graphic><a:graphicData>"
        '<c:chart r:id="rChart"/></a:graphicData></a:graphic></p:graphicFrame>'
    )
    more = {
        "ppt/charts/chart1.xml": (
            f"<c:chartSpace {SPACES}><c:spPr>{blip_fill(tag='a:blipFill')}</c:spPr></c:chartSpace>"
        ),
        "ppt/charts/_rels/chart1.xml.rels": relations(rImg=("image", "../media/image1.jpg")),
        "ppt/notesSlides/n1.xml": (
            f"<p:notes {SPACES}><p:cSld>{tree(pic(xfrm(0, 0, 1, 1)))}</p:cSld></p:notes>"
        ),
        "ppt/notesSlides/_rels/n1.xml.rels": relations(rImg=("image", "../media/image1.jpg")),
    }
    rels = {
        "rChart": ("chart", "../charts/chart1.xml"),
        "rNotes": ("notesSlide", "../notesSlides/n1.xml"),
    }
    read = read_document(deck(path, [chart], slide_rels=rels, more=more), "deck.pptx")
    assert [(one.source, round(one.density.x)) for one in read.images] == [
        ("chart", 100),
        ("notes", 300),
    ]
    notes = read.pages[read.images[1].page_number - 1]
    assert (notes.kind, notes.number) == (PageKind.NOTES, 1)


def test_shapes_drawn_into_a_chart_and_merged_cells(path):
    chart = (
        f"<p:graphicFrame>{xfrm(1, 1, 4, 2, name='p:xfrm')}<a:graphic><a:graphicData>"
        '<c:chart r:id="rChart"/></a:graphicData></a:graphic></p:graphicFrame>'
    )
    cell = "<a:tcPr>" + blip_fill(tag="a:blipFill") + "</a:tcPr>"
    table = (
        f"<p:graphicFrame>{xfrm(1, 1, 6, 2, name='p:xfrm')}<a:graphic><a:graphicData><a:tbl>"
        f'<a:tblGrid><a:gridCol w="{INCH}"/><a:gridCol w="{2 * INCH}"/></a:tblGrid>'
        f'<a:tr h="{INCH}"><a:tc gridSpan="2" rowSpan="2">{cell}</a:tc><a:tc hMerge="1">{cell}'
        f'</a:tc></a:tr><a:tr h="{INCH}"><a:tc vMerge="1">{cell}</a:tc></a:tr></a:tbl>'
        "</a:graphicData></a:graphic></p:graphicFrame>"
    )
    shape = pic(xfrm(0, 0, 9, 9))
    anchor = (
        f"<c:userShapes {SPACES}><c:relSizeAnchor><c:from><c:x>0.25</c:x><c:y>0</c:y></c:from>"
        f"<c:to><c:x>0.75</c:x><c:y>0.5</c:y></c:to>{shape}</c:relSizeAnchor></c:userShapes>"
    )
    more = {
        "ppt/charts/chart1.xml": f"<c:chartSpace {SPACES}/>",
        "ppt/charts/_rels/chart1.xml.rels": relations(
            u=("chartUserShapes", "../drawings/drawing1.xml")
        ),
        "ppt/drawings/drawing1.xml": anchor,
        "ppt/drawings/_rels/drawing1.xml.rels": relations(rImg=("image", "../media/image1.jpg")),
    }
    rels = {"rChart": ("chart", "../charts/chart1.xml")}
    images = images_in(deck(path, [chart + table], slide_rels=rels, more=more))
    assert [(one.source, round(one.density.x), round(one.density.y)) for one in images] == [
        ("chart", 150, 200),
        ("table cell", 100, 100),
    ]


def test_what_the_settings_say(path):
    more = {
        "ppt/presProps.xml": (
            f'<p:presentationPr {SPACES}><p:extLst><p:ext uri="1"><p:discardImageEditData val="1"/>'
            '</p:ext><p:ext uri="2"><p:defaultImageDpi val="150"/></p:ext></p:extLst>'
            "</p:presentationPr>"
        ),
        "ppt/_rels/presentation.xml.rels": relations(
            s1=("slide", "slides/slide1.xml"), pp=("presProps", "presProps.xml")
        ),
    }
    marked = blip_fill().replace("<a:blip", '<a:blip cstate="screen"')
    path = deck(path, [pic(xfrm(0, 0, 1, 1), marked)], more=more, root=f'{FLAG}="0"')
    assert read_document(path, "deck.pptx").whole["saving"] == {
        "shrinks": False,
        "default_ppi": 150,
        "discards_edits": True,
        "marked_ppi": {"150": 1},
    }


def test_what_travels_along(path):
    more = {"ppt/media/old.png": picture(40, 30, "PNG"), "docProps/thumbnail.jpeg": picture(9, 9)}
    more["ppt/media/again.jpg"] = picture()
    more["_rels/.rels"] = relations(
        r1=("officeDocument", "ppt/presentation.xml"), t=("thumbnail", "docProps/thumbnail.jpeg")
    )
    read = read_document(deck(path, [pic(xfrm(0, 0, 1, 1))], more=more), "deck.pptx")
    assert [(one["part"], one["kind"]) for one in read.whole["leftovers"]] == [
        ("ppt/media/old.png", "unused"),
        ("ppt/media/again.jpg", "unused"),
    ]
    (again,) = read.whole["repeated"]
    assert again["parts"] == ["ppt/media/image1.jpg", "ppt/media/again.jpg"]


def test_large_headers_are_read_as_far_as_they_go(path):
    """A profile of 300 kB stands before the size of a JPEG; most of the file is not unpacked."""
    noise = numpy.random.default_rng(3).integers(0, 256, 300_000, "uint8").tobytes()
    media = {"a.jpg": picture(900, 600, icc_profile=noise), "b.tif": picture(900, 600, "TIFF")}
    second = pic(xfrm(0, 0, 3, 2), blip_fill("rTif"))
    rels = {"rTif": ("image", "../media/b.tif")}
    deck(path, [pic(xfrm(0, 0, 3, 2)) + second], media=media, slide_rels=rels)
    assert densities(path) == [(300.0, 300.0), (300.0, 300.0)]
    assert [one.filters for one in images_in(path)] == ["jpeg", "tiff"]
