"""The edges of reading PDFs: covers, tiles, glyphs, inherited resources, damage, odd operands.

Written operator by operator, so that what is expected is known by construction.
"""

import subprocess

import pikepdf
import pytest
from pikepdf import Array, Dictionary, Name

from harnet.core.targets.shipped import target_named
from harnet.media.pdf.reading.images import pages_with_images
from harnet.studio.documents.check import check_document
from tests.support.pdfs import ByHand, listed_by_poppler

PLACE = "q 72 0 0 48 100 100 cm /X Do Q"
"""300 × 200 px on an inch: 300 ppi."""
COVER = "90 90 90 70 re f"
COATED = target_named("coated")


@pytest.fixture
def hand(tmp_path):
    hand = ByHand(tmp_path / "hand.pdf")
    hand.resources.XObject["/X"] = hand.image()
    return hand


def seen(hand, content):
    return [image.unseen for image in hand.painted(content)]


def state(hand, **entries):
    hand.resources.ExtGState = Dictionary(G=Dictionary(**entries))


class TestCovered:
    @pytest.mark.parametrize(
        "content, first",
        [
            (f"{PLACE} {COVER}", "covered"),
            (f"{COVER} {PLACE}", ""),
            # Only most of it.
            (f"{PLACE} 90 90 70 70 re f", ""),
            (f"{PLACE} 0 1 -1 0 0 0 cm 90 -180 70 90 re f", "covered"),
            # Turned a little: it may reach less far than its bounds.
            (f"{PLACE} .98 .17 -.17 .98 0 0 cm 0 0 400 400 re f", ""),
            # A ring, and a rectangle that is only stroked.
            (f"{PLACE} 90 90 90 70 re 110 110 20 20 re f*", ""),
            (f"{PLACE} 90 90 90 70 re S", ""),
            (f"{PLACE} 90 90 90 70 re B", "covered"),
            # Clipped to less, by a rectangle and by something else.
            (f"{PLACE} 0 0 120 400 re W n {COVER}", ""),
            (f"{PLACE} 0 0 400 400 re W n {COVER}", "covered"),
            (f"{PLACE} 0 0 m 400 0 l 0 400 l h W n {COVER}", ""),
            # What is seen of it is covered, the rest is clipped away.
            (f"q 0 0 120 400 re W n {PLACE} Q 90 90 40 70 re f", "covered"),
            (f"{PLACE} q 90 0 0 70 90 90 cm /X Do Q", "covered"),
            (f"{PLACE} q 60 0 0 70 90 90 cm /X Do Q", ""),
        ],
    )
    def test_by_what_is_opaque_for_certain(self, hand, content, first):
        assert seen(hand, content)[0] == first

    @pytest.mark.parametrize(
        "entries, first, second",
        [
            ({"ca": 0.5}, "", ""),
            ({"ca": 0}, "", "fully transparent"),
            ({"BM": Name.Multiply}, "", ""),
            ({"op": True}, "", ""),
            ({"ca": 1, "BM": Name.Normal}, "covered", ""),
        ],
    )
    def test_a_graphics_state_lets_through_or_hides(self, hand, entries, first, second):
        state(hand, **entries)
        content = f"{PLACE} /G gs {COVER} q 1 0 0 1 0 120 cm {PLACE} Q"
        assert seen(hand, content) == [first, second]

    @pytest.mark.parametrize("kind", ["SMask", "Mask", "ImageMask"])
    def test_masked_images_cover_nothing(self, hand, kind):
        image = hand.image()
        if kind == "ImageMask":
            image.ImageMask, image.BitsPerComponent = True, 1
            del image.ColorSpace
        else:
            image[f"/{kind}"] = hand.image(30, 20)
        hand.resources.XObject["/M"] = image
        assert seen(hand, f"{PLACE} q 90 0 0 70 90 90 cm /M Do Q")[0] == ""

    def test_a_group_that_is_see_through_covers_nothing(self, hand):
        form = hand.form(COVER.encode(), Group=Dictionary(S=Name.Transparency))
        hand.resources.XObject["/F"] = form
        assert seen(hand, f"{PLACE} /F Do") == ["covered"]
        state(hand, ca=0.4)
        assert seen(hand, f"{PLACE} /G gs /F Do") == [""]

    def test_an_ink_that_leaves_no_mark_covers_nothing(self, hand):
        none = Array([Name.Separation, Name("/None"), Name.DeviceGray, Dictionary()])
        hand.resources.ColorSpace = Dictionary(N=none)
        assert seen(hand, f"{PLACE} /N cs 1 scn {COVER}") == [""]

    def test_what_is_called_covered_leaves_no_trace_in_popplers_drawing(self, hand):
        seen(hand, f"{PLACE} 1 g {COVER}")
        made = subprocess.run(
            ["pdftoppm", "-r", "72", "-gray", hand.path], capture_output=True, check=True
        )
        assert set(made.stdout.split(b"\n255\n", 1)[1]) == {255}


class TestTiles:
    def pattern(self, hand, matrix=(1, 0, 0, 1, 0, 0), step=50, place="0 0"):
        cell = hand.form(f"q 12 0 0 8 {place} cm /X Do Q".encode())
        del cell["/Subtype"]
        for name, value in {
            "PatternType": 1,
            "PaintType": 1,
            "TilingType": 1,
            "BBox": Array([0, 0, step, step]),
            "XStep": step,
            "YStep": step,
            "Matrix": Array(list(matrix)),
            "Resources": Dictionary(XObject=Dictionary(X=hand.image())),
        }.items():
            cell[f"/{name}"] = value
        hand.resources.Pattern = Dictionary(P=cell)

    @pytest.mark.parametrize(
        "matrix, fill, unseen",
        [
            # The first tile lies far off the page; others fall into what is painted.
            ((1, 0, 0, 1, -5000, -5000), "100 100 100 100 re f", ""),
            ((1, 0, 0, 1, 7000, 30), "100 100 100 100 re f", ""),
            ((0.7, 0.7, -0.7, 0.7, -3000, 50), "100 100 100 100 re f", ""),
            # Nothing that is painted lies on the page.
            ((1, 0, 0, 1, 0, 0), "900 900 100 100 re f", "off the page"),
            # So little is painted that no tile's image falls into it.
            ((1, 0, 0, 1, 0, 0), "120 120 20 20 re f", "clipped away"),
            ((1, 0, 0, 1, 0, 0), "100 100 20 20 re f", ""),
        ],
    )
    def test_those_that_fall_into_what_is_painted_are_judged(self, hand, matrix, fill, unseen):
        self.pattern(hand, matrix)
        [image] = hand.painted(f"/Pattern cs /P scn {fill}")
        assert image.unseen == unseen
        if not unseen:
            left, bottom = image.matrix.e, image.matrix.f
            assert -20 < left < 420 and -20 < bottom < 420

    def test_a_pattern_behind_a_stencil(self, hand):
        self.pattern(hand)
        stencil = hand.image(10, 10)
        stencil.ImageMask, stencil.BitsPerComponent = True, 1
        del stencil.ColorSpace
        hand.resources.XObject["/S"] = stencil
        content = "/Pattern cs /P scn q 100 0 0 100 100 100 cm /S Do Q"
        sizes = [(image.px_w, image.px_h) for image in hand.painted(content)]
        assert sizes == [(10, 10), (300, 200)]


class TestGlyphs:
    def font(self, hand, **changes):
        glyph = hand.pdf.make_stream(b"500 0 d0 q 500 0 0 500 0 0 cm /X Do Q")
        entries = {
            "Type": Name.Font,
            "Subtype": Name.Type3,
            "FontMatrix": Array([0.001, 0, 0, 0.001, 0, 0]),
            "CharProcs": Dictionary(a=hand.pdf.make_indirect(glyph)),
            "Encoding": Dictionary(Differences=Array([97, Name.a])),
            "FirstChar": 97,
            "Widths": Array([500]),
            **changes,
        }
        return Dictionary(**{name: value for name, value in entries.items() if value is not None})

    def test_a_showing_off_the_page_hides_no_later_one(self, hand):
        hand.resources.Font = Dictionary(T=self.font(hand))
        content = "BT /T 24 Tf 900 50 Td (aa) Tj -850 0 Td (a) Tj ET"
        [image] = hand.painted(content)
        assert (image.unseen, image.matrix.e) == ("", pytest.approx(50))
        [image] = hand.painted("BT /T 24 Tf 900 50 Td (aa) Tj ET")
        assert image.unseen == "off the page"

    def test_a_clipped_showing_hides_no_later_one(self, hand):
        hand.resources.Font = Dictionary(T=self.font(hand))
        shown = "BT /T 24 Tf 50 50 Td (a) Tj ET"
        assert seen(hand, f"q 200 200 9 9 re W n {shown} Q {shown}") == [""]

    @pytest.mark.parametrize("encoding", ["WinAnsiEncoding", "MacRomanEncoding"])
    def test_an_encoding_by_its_name(self, hand, encoding):
        hand.resources.Font = Dictionary(T=self.font(hand, Encoding=Name(f"/{encoding}")))
        # The font has no resources of its own: the page's serve.
        assert len(hand.painted("BT /T 24 Tf 50 50 Td (a) Tj ET")) == 1

    def test_a_font_that_a_graphics_state_sets(self, hand):
        font = hand.pdf.make_indirect(self.font(hand))
        state(hand, Font=Array([font, 24]))
        assert len(hand.painted("BT /G gs 50 50 Td (a) Tj ET")) == 1

    def test_a_form_takes_fonts_and_patterns_of_its_page(self, hand):
        hand.resources.Font = Dictionary(T=self.font(hand))
        hand.resources.XObject["/F"] = hand.form(
            b"BT /T 24 Tf 50 50 Td (a) Tj ET", Resources=Dictionary(XObject=Dictionary())
        )
        assert len(hand.painted("/F Do")) == 1
        TestTiles().pattern(hand)
        hand.resources.XObject["/F"] = hand.form(
            b"/Pattern cs /P scn 0 0 90 90 re f", Resources=Dictionary(Font=Dictionary())
        )
        assert len(hand.painted("/F Do")) == 1

    def test_glyphs_without_images_cost_nothing(self, hand):
        """Text in a font of outlines is passed over, so that long manuals are read quickly."""
        outline = hand.pdf.make_stream(b"500 0 d0 0 0 500 500 re f")
        glyphs = Dictionary(a=hand.pdf.make_indirect(outline))
        hand.resources.Font = Dictionary(T=self.font(hand, CharProcs=glyphs))
        assert hand.painted("BT /T 24 Tf 50 50 Td (aaaa) Tj ET " + PLACE)[0].density.x == 300


class TestOperands:
    @pytest.mark.parametrize(
        "content",
        [
            "q 9 9 72 0 0 48 100 100 cm /X Do Q",
            "q 72 0 0 48 100 100 cm 5 /X Do Q",
            "q 1 7 7 300 300 re W n 72 0 0 48 100 100 cm /X Do Q",
            "q (a) /b 72 0 0 48 100 100 cm 1 2 3 /X Do Q",
        ],
    )
    def test_the_last_ones_count_as_for_every_renderer(self, hand, content):
        [image] = hand.painted(content)
        assert (image.density.x, image.unseen) == (pytest.approx(300), "")
        # poppler draws the same
        assert [row[3] for row in listed_by_poppler(hand.path)] == [300]

    def test_too_few_do_nothing(self, hand):
        assert len(hand.painted("q 72 0 cm Do 5 Do Q")) == 0


class TestLayers:
    @pytest.mark.parametrize(
        "expression, is_seen",
        [
            ("on", True),
            ("off", False),
            (["Not", "off"], True),
            (["And", "on", "off"], False),
            (["Or", "on", "off"], True),
            (["And", ["Or", "off", "on"], ["Not", "off"]], True),
        ],
    )
    def test_visibility_expressions_go_before_groups(self, hand, expression, is_seen):
        groups = {
            name: hand.pdf.make_indirect(Dictionary(Type=Name.OCG, Name=name))
            for name in ("on", "off")
        }
        hand.pdf.Root.OCProperties = Dictionary(
            OCGs=Array(list(groups.values())), D=Dictionary(OFF=Array([groups["off"]]))
        )

        def written(part):
            if isinstance(part, str):
                return groups[part]
            return Array([Name(f"/{part[0]}"), *map(written, part[1:])])

        ve = written(expression if isinstance(expression, list) else ["And", expression])
        other = groups["off" if is_seen else "on"]
        membership = Dictionary(Type=Name.OCMD, VE=ve, OCGs=Array([other]))
        hand.resources.Properties = Dictionary(M=membership)
        [unseen] = seen(hand, f"/OC /M BDC {PLACE} EMC")
        assert unseen == ("" if is_seen else "on a layer that is switched off")

    @pytest.mark.parametrize(
        "flags, unseen",
        [(32, "in a hidden annotation"), (36, ""), (4, ""), (6, "in a hidden annotation")],
    )
    def test_notes_that_are_neither_viewed_nor_printed_are_not_seen(self, hand, flags, unseen):
        look = hand.form(PLACE.encode(), Resources=Dictionary(XObject=Dictionary(X=hand.image())))
        look.BBox = Array([0, 0, 400, 400])
        note = Dictionary(
            Type=Name.Annot,
            Subtype=Name.Stamp,
            Rect=Array([0, 0, 400, 400]),
            F=flags,
            AP=Dictionary(N=hand.pdf.make_indirect(look)),
        )
        hand.page.obj.Annots = Array([note])
        assert seen(hand, "") == [unseen]


class TestDamage:
    """What leads nowhere, or cannot be read, is told; all the rest is read on."""

    def report(self, hand):
        return check_document(hand.path, "hand.pdf", COATED).report

    def told(self, hand):
        found = [one for one in self.report(hand).findings if one.rule_id == "content-not-followed"]
        return found[0].sentence if found else ""

    @pytest.mark.parametrize(
        "content",
        [
            f"{PLACE} /Gone Do",
            f"{PLACE} /Pattern cs /Gone scn 0 0 9 9 re f",
        ],
    )
    def test_names_that_stand_for_nothing(self, hand, content):
        hand.resources.Pattern = Dictionary(Other=Dictionary(PatternType=2))
        assert len(hand.painted(content)) == 1
        assert "missing from the file" in self.told(hand)

    def test_contents_that_are_gone(self, hand):
        hand.painted(PLACE)
        data = hand.path.read_bytes()
        with pikepdf.open(hand.path) as pdf:
            number = pdf.pages[0].obj.Contents.objgen[0]
        hand.path.write_bytes(data.replace(b"/Contents %d 0 R" % number, b"/Contents 99 0 R"))
        assert "missing from the file" in self.told(hand)

    def test_a_stream_that_cannot_be_unpacked_loses_only_itself(self, hand):
        good = hand.pdf.make_stream(PLACE.encode())
        bad = hand.pdf.make_stream(b"not deflated at all")
        bad.Filter = Name.FlateDecode
        hand.page.obj.Contents = Array([good, hand.pdf.make_indirect(bad), good])
        hand.pdf.save(hand.path)
        assert len(images_of(hand)) == 2
        assert "cannot be read" in self.told(hand)

    @pytest.mark.parametrize(
        "broken", [b"BI /W 5 /H 5 ID", b"<< /A", b"[ 1 2", b"<41 zz", b")", b"(never closed"]
    )
    def test_what_no_parser_takes_loses_only_itself(self, hand, broken):
        content = PLACE.encode() + b"\n" + broken
        hand.page.obj.Contents = Array(
            [hand.pdf.make_stream(content), hand.pdf.make_stream(PLACE.encode())]
        )
        hand.pdf.save(hand.path)
        assert len(images_of(hand)) >= 1

    def test_an_integer_of_forty_digits(self, hand):
        hand.painted(PLACE)
        data = hand.path.read_bytes()
        assert b"/Width 300" in data
        hand.path.write_bytes(data.replace(b"/Width 300", b"/Width " + b"9" * 40))
        report = self.report(hand)
        assert {one.rule_id for one in report.findings} & {"content-not-followed", "pdf-damaged"}

    def test_a_page_that_is_gone_from_the_tree(self, hand, tmp_path):
        pdf = hand.pdf
        pdf.add_blank_page(page_size=(200, 200))
        hand.painted(PLACE)
        data = hand.path.read_bytes()
        with pikepdf.open(hand.path) as opened:
            kids = [page.objgen[0] for page in opened.Root.Pages.Kids]
        old, new = b"%d 0 R ]" % kids[1], b"77 0 R ]"
        assert old in data
        hand.path.write_bytes(data.replace(old, new))
        assert "pdf-damaged" in {one.rule_id for one in self.report(hand).findings}

    def test_a_wrong_generation_in_the_table(self, hand):
        hand.painted(PLACE)
        data = hand.path.read_bytes()
        with pikepdf.open(hand.path) as opened:
            number = opened.pages[0].Resources.XObject.X.objgen[0]
        table = data.index(b"xref\n")
        rows = data.index(b"0000000000 65535", table)
        at = rows + 20 * number + 11
        hand.path.write_bytes(data[:at] + b"00007" + data[at + 5 :])
        report = self.report(hand)
        lost = not report.pictures
        rules = {one.rule_id for one in report.findings}
        assert not lost or rules & {"content-not-followed", "pdf-damaged"}


def images_of(hand):
    with pikepdf.open(hand.path) as pdf:
        [(_, images)] = pages_with_images(pdf, "hand.pdf")
        return images
