"""What not visible of a PDF's images, and images in glyphs and annotations.

Written operator by operator, so that what is expected is known by construction.
"""

import pypdfium2
import pytest
from pikepdf import Array, Dictionary, Name

from harnet.core.pictures.picture import Colour
from harnet.media.pdf.opening.opened import opened_pdf
from harnet.media.pdf.reading.images import pages_with_images
from tests.support.pdfs import ByHand

PLACED = "q 72 0 0 48 100 100 cm /X Do Q"
"""300 × 200 px on an inch: 300 ppi."""


@pytest.fixture
def by_hand(tmp_path):
    return ByHand(tmp_path / "hand.pdf")


def seen(by_hand, content, **page):
    """Why each image not visible, empty where it can."""
    by_hand.resources.XObject["/X"] = by_hand.image()
    for name, value in page.items():
        by_hand.page.obj[f"/{name}"] = value
    return [image.unseen for image in by_hand.painted(content)]


class TestUnseen:
    @pytest.mark.parametrize(
        "content, unseen",
        [
            (PLACED, ""),
            ("0 0 50 50 re W n " + PLACED, "clipped away"),
            ("0 0 150 150 re W n " + PLACED, ""),
            ("0 0 50 50 re W* n " + PLACED, "clipped away"),
            ("q 0 0 50 50 re W n Q " + PLACED, ""),
            ("0 0 200 200 re W n 0 0 50 50 re W n " + PLACED, "clipped away"),
            # A path that is filled but does not clip.
            ("0 0 50 50 re f " + PLACED, ""),
            # A triangle through curves, whose bounds reach the image.
            ("0 0 m 50 300 200 300 300 0 c h W n " + PLACED, ""),
            ("1 0 0 1 500 0 cm " + PLACED, "off the page"),
            ("1 0 0 1 -99 0 cm " + PLACED, ""),
        ],
    )
    def test_clips_and_the_page(self, by_hand, content, unseen):
        assert seen(by_hand, content) == [unseen]

    def test_inline_images_among_paths_that_clip_and_paths_that_do_not(self, by_hand):
        inline = " q 72 0 0 72 %d 100 cm BI /W 1 /H 1 /CS /G /BPC 8 ID a EI Q "
        content = "0 0 50 50 re f 90 90 300 300 re W n 1 1 m 9 9 l S" + inline % 100
        content += "0 0 99 99 re f q 0 0 9 9 re W* n" + inline % 100 + "Q" + inline % 200
        assert [image.unseen for image in by_hand.painted(content)] == ["", "clipped away", ""]

    def test_the_crop_box_is_what_is_seen(self, by_hand):
        assert seen(by_hand, PLACED, CropBox=Array([0, 0, 90, 400])) == ["off the page"]

    def test_a_crop_box_larger_than_the_media_box_is_cut_to_it(self, by_hand):
        content = "1 0 0 1 350 0 cm " + PLACED
        assert seen(by_hand, content, CropBox=Array([-999, -999, 999, 999])) == ["off the page"]

    def test_a_forms_box_clips(self, by_hand):
        resources = Dictionary(XObject=Dictionary(X=by_hand.image()))
        for box, unseen in (([0, 0, 50, 50], "clipped away"), ([0, 0, 200, 200], "")):
            form = by_hand.form(PLACED, Resources=resources)
            form.BBox = Array(box)
            by_hand.resources.XObject["/F"] = form
            assert [image.unseen for image in by_hand.painted("/F Do")] == [unseen]

    def test_what_is_called_unseen_leaves_no_trace_on_the_page(self, by_hand):
        """pdfium draws the page; where everything is unseen the page is white."""
        by_hand.resources.XObject["/X"] = by_hand.image()
        content = "0 0 50 50 re W n " + PLACED + " 1 0 0 1 500 0 cm " + PLACED
        assert all(image.unseen for image in by_hand.painted(content))
        with pypdfium2.PdfDocument(by_hand.path) as pdf:
            assert pdf[0].render().to_numpy().min() == 255


class TestLayers:
    @pytest.fixture
    def layered(self, by_hand):
        """A page whose first layer is on and whose second is off."""
        pdf = by_hand.pdf
        on, off = (
            pdf.make_indirect(Dictionary(Type=Name.OCG, Name=name)) for name in ("shown", "not")
        )
        pdf.Root.OCProperties = Dictionary(OCGs=Array([on, off]), D=Dictionary(OFF=Array([off])))
        by_hand.resources.Properties = Dictionary(
            On=on,
            Off=off,
            Any=Dictionary(Type=Name.OCMD, OCGs=Array([on, off])),
            All=Dictionary(Type=Name.OCMD, OCGs=Array([on, off]), P=Name.AllOn),
        )
        return by_hand

    @pytest.mark.parametrize(
        "layer, unseen",
        [
            ("On", ""),
            ("Off", "on a layer that is switched off"),
            ("Any", ""),
            ("All", "on a layer that is switched off"),
        ],
    )
    def test_marked_content(self, layered, layer, unseen):
        content = f"/OC /{layer} BDC {PLACED} EMC q 1 0 0 1 90 0 cm {PLACED} Q"
        assert seen(layered, content) == [unseen, ""]

    def test_an_image_of_a_layer(self, layered):
        image = layered.image(OC=layered.resources.Properties.Off)
        layered.resources.XObject["/Y"] = image
        [found] = layered.painted("q 72 0 0 48 100 100 cm /Y Do Q")
        assert found.unseen == "on a layer that is switched off"

    def test_other_marks_inside_hide_nothing(self, layered):
        content = f"/OC /Off BDC /Span BMC EMC {PLACED} EMC /Span BMC {PLACED} EMC"
        assert seen(layered, content) == ["on a layer that is switched off", ""]


class TestGlyphs:
    def test_a_type_3_glyph_is_an_image_at_its_size(self, by_hand):
        """As bitmap fonts are: 50 px across a glyph of half an em, shown at 24 points."""
        glyph = by_hand.pdf.make_stream(
            b"500 0 0 0 500 500 d1 q 500 0 0 500 0 0 cm"
            b" BI /W 50 /H 50 /IM true /BPC 1 ID " + bytes(350) + b" EI Q"
        )
        by_hand.resources.Font = Dictionary(
            T=Dictionary(
                Type=Name.Font,
                Subtype=Name.Type3,
                FontBBox=Array([0, 0, 500, 500]),
                FontMatrix=Array([0.001, 0, 0, 0.001, 0, 0]),
                CharProcs=Dictionary(a=by_hand.pdf.make_indirect(glyph)),
                Encoding=Dictionary(Differences=Array([97, Name.a])),
                FirstChar=97,
                LastChar=97,
                Widths=Array([500]),
            )
        )
        found = by_hand.painted("BT /T 24 Tf 50 50 Td (aaa) Tj 0 -30 Td /T 12 Tf (a) Tj ET")
        # Half an em of 24 points is a sixth of an inch: 300 ppi; at 12 points 600.
        assert [image.density.x for image in found] == pytest.approx([300, 600])
        assert {image.colour for image in found} == {Colour.BILEVEL}
        assert {image.source for image in found} == {"glyph"}

    def test_glyphs_advance_by_their_widths_and_spaces(self, by_hand):
        proc = by_hand.pdf.make_stream(
            b"500 0 d0 q 500 0 0 500 0 0 cm BI /W 5 /H 5 /CS /G /BPC 8 ID " + bytes(25) + b" EI Q"
        )
        other = by_hand.pdf.make_stream(
            b"500 0 d0 q 500 0 0 500 0 0 cm BI /W 6 /H 5 /CS /G /BPC 8 ID " + bytes(30) + b" EI Q"
        )
        by_hand.resources.Font = Dictionary(
            T=Dictionary(
                Type=Name.Font,
                Subtype=Name.Type3,
                FontMatrix=Array([0.001, 0, 0, 0.001, 0, 0]),
                CharProcs=Dictionary(
                    a=by_hand.pdf.make_indirect(proc), b=by_hand.pdf.make_indirect(other)
                ),
                Encoding=Dictionary(Differences=Array([97, Name.a, Name.b])),
                FirstChar=97,
                Widths=Array([700, 500]),
            )
        )
        first, second = by_hand.painted("BT /T 10 Tf 2 Tc 50 Tz 20 40 Td [(a) -1000 (b)] TJ ET")
        # 20 + (7 + 2) · 0.5 + 10 · 0.5
        assert (first.matrix.e, second.matrix.e) == pytest.approx((20, 29.5))


class TestAnnotations:
    def note(self, by_hand, **more):
        look = by_hand.form(
            "q 100 0 0 50 0 0 cm /X Do Q",
            Resources=Dictionary(XObject=Dictionary(X=by_hand.image())),
        )
        look.BBox = Array([0, 0, 100, 50])
        note = Dictionary(
            Type=Name.Annot,
            Subtype=Name.Stamp,
            Rect=Array([100, 100, 172, 148]),
            AP=Dictionary(N=look),
            **more,
        )
        by_hand.page.obj.Annots = Array([by_hand.pdf.make_indirect(note)])
        return by_hand.painted("")

    def test_an_appearance_is_laid_into_its_rectangle(self, by_hand):
        [image] = self.note(by_hand)
        # 300 px on 72 points across, 200 px on 48 points down.
        assert (image.density.x, image.density.y) == pytest.approx((300, 300))
        assert (image.source, image.unseen) == ("annotation", "")
        assert (image.matrix.e, image.matrix.f) == pytest.approx((100, 100))

    def test_a_hidden_one_is_told(self, by_hand):
        [image] = self.note(by_hand, F=2)
        assert image.unseen == "in a hidden annotation"


def page_of(by_hand):
    """What is seen of the one page."""
    by_hand.resources.XObject["/X"] = by_hand.image()
    by_hand.painted(PLACED)
    with opened_pdf(by_hand.path) as pdf:
        [(page, _)] = pages_with_images(pdf, "hand.pdf")
    return page


def test_a_turned_page_and_its_unit_are_known(by_hand):
    by_hand.page.obj.Rotate, by_hand.page.obj.UserUnit = -90, 2
    page = page_of(by_hand)
    assert (page.turn_deg, page.box) == (270, (0, 0, 800, 800))
    [image] = by_hand.painted(PLACED)
    assert image.density.x == pytest.approx(150)


@pytest.mark.parametrize(
    "stated, expected",
    [
        ([10, 10, 390, 390], (10, 10, 390, 390)),
        # ISO 32000-2, 14.11.2.1: boxes are cut to the media box.
        ([10, 10, 900, 390], (10, 10, 400, 390)),
        ([390, 390, 10, 10], (10, 10, 390, 390)),
        ([500, 500, 900, 900], None),
        ([10, 10, 10, 390], None),
        ([10, 10], None),
    ],
)
def test_boxes_that_a_page_states(by_hand, stated, expected):
    by_hand.page.obj.TrimBox, by_hand.page.obj.BleedBox = Array(stated), Array(stated)
    page = page_of(by_hand)
    assert (page.trim, page.bleed) == (expected, expected)


def test_what_a_page_inherits(by_hand):
    """Turn and boxes from the nodes above, the nearest first; trim is never inherited."""
    tree = by_hand.pdf.Root.Pages
    tree.Rotate, tree.CropBox, tree.TrimBox = 90, Array([5, 5, 99, 99]), Array([7, 7, 90, 90])
    page = page_of(by_hand)
    assert (page.turn_deg, page.box, page.trim) == (90, (5, 5, 99, 99), None)
    by_hand.page.obj.CropBox = Array([6, 6, 80, 80])
    assert page_of(by_hand).box == (6, 6, 80, 80)
