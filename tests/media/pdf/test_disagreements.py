"""Where Harnet and poppler's `pdfimages -list` differ, case by case: docs/disagreements.md.

poppler is the one of Debian 12, 22.12.
"""

import re
from pathlib import Path

import pikepdf
import pytest

from harnet.media.pdf.reading.images import painted_images
from tests.support.pdfs import ByHand, listed_by_poppler

WRITTEN = Path(__file__).parents[3] / "docs" / "disagreements.md"
PLACE = b"q 72 0 0 48 20 20 cm /X Do Q"
Dictionary, Array, Name = pikepdf.Dictionary, pikepdf.Array, pikepdf.Name


def user_unit(hand):
    hand.page.obj.UserUnit = 2
    hand.resources.XObject.X = hand.image()
    return PLACE


def soft_mask(hand):
    hand.resources.XObject.X = hand.image(SMask=hand.image(30, 20))
    return PLACE


def soft_mask_of_the_graphics_state(hand):
    mask = hand.form(PLACE, Resources=Dictionary(XObject=Dictionary(X=hand.image(30, 20))))
    mask.Group = Dictionary(S=Name.Transparency, CS=Name.DeviceGray)
    state = Dictionary(SMask=Dictionary(Type=Name.Mask, S=Name.Luminosity, G=mask))
    hand.resources.ExtGState = Dictionary(M=state)
    hand.resources.XObject.X = hand.image()
    return b"/M gs " + PLACE


def stencil_behind_a_picture(hand):
    mask = hand.image(30, 20)
    mask.ImageMask, mask.BitsPerComponent = True, 1
    del mask.ColorSpace
    hand.resources.XObject.X = hand.image(Mask=mask)
    return PLACE


def off_the_page(hand):
    hand.resources.XObject.X = hand.image()
    return b"q 72 0 0 48 900 20 cm /X Do Q"


def clipped_away(hand):
    hand.resources.XObject.X = hand.image()
    return b"q 200 200 10 10 re W n 72 0 0 48 20 20 cm /X Do Q"


def outside_a_forms_box(hand):
    form = hand.form(PLACE, Resources=Dictionary(XObject=Dictionary(X=hand.image())))
    form.BBox = Array([300, 300, 310, 310])
    hand.resources.XObject.F = form
    return b"/F Do"


def outside_the_crop_box(hand):
    hand.page.obj.CropBox = Array([200, 200, 400, 400])
    hand.resources.XObject.X = hand.image()
    return PLACE


def layer_switched_off(hand):
    layer = hand.pdf.make_indirect(Dictionary(Type=Name.OCG, Name="Notes"))
    hand.pdf.Root.OCProperties = Dictionary(OCGs=Array([layer]), D=Dictionary(OFF=Array([layer])))
    hand.resources.XObject.X = hand.image(OC=layer)
    return PLACE


def annotated(hand, flags):
    look = hand.form(PLACE, Resources=Dictionary(XObject=Dictionary(X=hand.image())))
    look.BBox = Array([0, 0, 100, 100])
    rect = Array([10, 10, 210, 210])
    note = Dictionary(
        Type=Name.Annot, Subtype=Name.Stamp, Rect=rect, F=flags, AP=Dictionary(N=look)
    )
    hand.page.obj.Annots = Array([hand.pdf.make_indirect(note)])
    return b""


def hidden_annotation(hand):
    return annotated(hand, 2)


def tiling_pattern(hand):
    pattern = hand.form(PLACE, Resources=Dictionary(XObject=Dictionary(X=hand.image())))
    pattern.PatternType, pattern.PaintType, pattern.TilingType = 1, 1, 1
    pattern.XStep = pattern.YStep = 100
    hand.resources.Pattern.P = pattern
    return b"/Pattern cs /P scn 0 0 400 400 re f"


def type_3_glyph(hand):
    glyph = hand.form(b"500 0 0 0 500 500 d1 q 300 0 0 200 0 0 cm /X Do Q")
    image = hand.image()
    image.ImageMask, image.BitsPerComponent = True, 1
    del image.ColorSpace
    font = Dictionary(
        Type=Name.Font,
        Subtype=Name.Type3,
        FontMatrix=Array([0.01, 0, 0, 0.01, 0, 0]),
        FontBBox=Array([0, 0, 500, 500]),
        CharProcs=Dictionary(a=glyph),
        Encoding=Dictionary(Differences=Array([97, Name.a])),
        FirstChar=97,
        LastChar=97,
        Widths=Array([500]),
        Resources=Dictionary(XObject=Dictionary(X=image)),
    )
    hand.resources.Font = Dictionary(T=hand.pdf.make_indirect(font))
    return b"BT /T 12 Tf 30 40 Td (aaa) Tj ET"


def no_width_no_height(hand):
    hand.resources.XObject.X = hand.image()
    return b"q 0 0 0 0 20 20 cm /X Do Q"


def covered(hand):
    hand.resources.XObject.X = hand.image()
    return PLACE + b" 10 10 100 80 re f"


def fully_transparent(hand):
    hand.resources.XObject.X = hand.image()
    hand.resources.ExtGState = Dictionary(G=Dictionary(ca=0))
    return b"/G gs " + PLACE


def form_without_a_box(hand):
    form = hand.form(PLACE, Resources=Dictionary(XObject=Dictionary(X=hand.image())))
    if "/BBox" in form:
        del form["/BBox"]
    hand.resources.XObject.F = form
    return b"/F Do"


def note_that_is_neither_viewed_nor_printed(hand):
    return annotated(hand, 32)


WHOLE = (300, 200)
# What poppler lists, and what Harnet finds: pixels, ppi across, why it is not seen.
CASES = {
    user_unit: ([(WHOLE, 300)], [(WHOLE, 150, "")]),
    soft_mask: ([(WHOLE, 300), ((30, 20), 30)], [(WHOLE, 300, "")]),
    soft_mask_of_the_graphics_state: ([((30, 20), 30), (WHOLE, 300)], [(WHOLE, 300, "")]),
    stencil_behind_a_picture: ([(WHOLE, 300), ((30, 20), 30)], [(WHOLE, 300, "")]),
    off_the_page: ([(WHOLE, 300)], [(WHOLE, 300, "off the page")]),
    clipped_away: ([(WHOLE, 300)], [(WHOLE, 300, "clipped away")]),
    outside_a_forms_box: ([(WHOLE, 300)], [(WHOLE, 300, "clipped away")]),
    outside_the_crop_box: ([(WHOLE, 300)], [(WHOLE, 300, "off the page")]),
    layer_switched_off: ([], [(WHOLE, 300, "on a layer that is switched off")]),
    hidden_annotation: ([], [(WHOLE, 150, "in a hidden annotation")]),
    tiling_pattern: ([], [(WHOLE, 300, "")]),
    type_3_glyph: ([], [(WHOLE, 600, "")]),
    no_width_no_height: ([(WHOLE, "inf")], []),
    covered: ([(WHOLE, 300)], [(WHOLE, 300, "covered")]),
    fully_transparent: ([(WHOLE, 300)], [(WHOLE, 300, "fully transparent")]),
    form_without_a_box: ([], [(WHOLE, 300, "")]),
    note_that_is_neither_viewed_nor_printed: ([], [(WHOLE, 150, "in a hidden annotation")]),
}


def both(tmp_path, build):
    hand = ByHand(tmp_path / "case.pdf")
    found = hand.painted(build(hand))
    return listed_by_poppler(hand.path, with_masks=True), found


@pytest.mark.parametrize("build", CASES, ids=lambda build: build.__name__)
def test_each_differs_as_it_is_written(tmp_path, build):
    listed, found = both(tmp_path, build)
    poppler, ours = CASES[build]
    assert [((row[1], row[2]), row[3]) for row in listed] == poppler
    told = [((one.px_w, one.px_h), round(one.density.x), one.unseen) for one in found]
    assert told == ours


def test_the_written_list_is_whole():
    rows = re.findall(r"^\| ([^|]+?) \|", WRITTEN.read_text(), re.MULTILINE)
    named = {re.sub(r"\W+", "_", row.replace("'", "")).strip("_").lower() for row in rows[2:]}
    assert named == {build.__name__ for build in CASES}


def unused(hand):
    hand.resources.XObject.X = hand.image()
    return b""


def painted_twice(hand):
    hand.resources.XObject.X = hand.image()
    return PLACE + b" " + PLACE


def strips(hand):
    hand.resources.XObject.X = hand.image(300, 50)
    return b" ".join(b"q 72 0 0 12 20 %d cm /X Do Q" % (20 + 12 * step) for step in range(4))


def a_form_in_itself(hand):
    form = hand.form(PLACE + b" /F Do")
    form.Resources = Dictionary(XObject=Dictionary(X=hand.image(), F=form))
    hand.resources.XObject.F = form
    return b"/F Do"


def skewed(hand):
    hand.resources.XObject.X = hand.image()
    return b"q 72 30 40 48 20 20 cm /X Do Q"


def shown_annotation(hand):
    return annotated(hand, 4)


@pytest.mark.parametrize(
    "build", [unused, painted_twice, strips, a_form_in_itself, skewed, shown_annotation]
)
def test_what_might_differ_and_does_not(tmp_path, build):
    listed, found = both(tmp_path, build)
    assert [row[1:] for row in listed] == [
        (one.px_w, one.px_h, round(one.density.x), round(one.density.y)) for one in found
    ]
    assert len(painted_images(tmp_path / "case.pdf")[1]) == len(listed)
