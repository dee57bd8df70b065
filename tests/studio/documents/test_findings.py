"""What is found on PDFs made elsewhere: colour, profiles, palettes, boxes, bleed, transparency."""

import csv
import html
import json
import re

import pikepdf
import pypdf
import pytest
from PIL import Image
from reportlab.lib.utils import ImageReader
from reportlab.pdfgen.canvas import Canvas

from harnet.core.errors import ValueOutOfRange
from harnet.core.targets.shipped import target_named
from harnet.media.pagedrawing.sample import page_spot
from harnet.media.pdf.reading.images import pages_with_images
from harnet.studio.documents.check import check_document
from harnet.studio.documents.drawing import Drawings
from harnet.studio.documents.reporting.file import ENDINGS, write_report_file
from harnet.studio.documents.reporting.pdf import document_report_as_pdf
from harnet.studio.documents.reporting.report import report_as_json
from harnet.studio.documents.reporting.samples import spot_of
from tests.support.pdfs import ByHand
from tests.support.pictures import photo

COATED = target_named("coated")


@pytest.fixture
def by_hand(tmp_path):
    return ByHand(tmp_path / "hand.pdf")


def found_in(by_hand, content, target=COATED):
    by_hand.painted(content)
    report = check_document(by_hand.path, "hand.pdf", target).report
    return {one.rule_id: one for one in report.findings}


FULL = b"q 72 0 0 48 20 30 cm /X Do Q"


def image_of(by_hand, space):
    by_hand.resources.XObject.X = by_hand.image(ColorSpace=space)


class TestColour:
    def test_cmyk_without_a_profile(self, by_hand):
        image_of(by_hand, pikepdf.Name.DeviceCMYK)
        found = found_in(by_hand, FULL)
        assert "profile-missing" in found and "colour-unfit" not in found

    def test_a_default_space_stands_for_the_devices(self, by_hand):
        profile = by_hand.pdf.make_stream(b"")
        profile.N = 4
        space = pikepdf.Array([pikepdf.Name.ICCBased, profile])
        by_hand.resources.ColorSpace = pikepdf.Dictionary(DefaultCMYK=space)
        image_of(by_hand, pikepdf.Name.DeviceCMYK)
        assert "profile-missing" not in found_in(by_hand, FULL)

    @pytest.mark.parametrize(
        "intent, is_profiled",
        [
            ({"channels": 4}, True),
            ({"channels": 3}, False),
            ({"S": pikepdf.Name.GTS_PDFX, "OutputConditionIdentifier": "CGATS TR 001"}, True),
            ({"S": pikepdf.Name.GTS_PDFX}, False),
            ({}, False),
        ],
    )
    def test_the_output_intent_explains_the_figures(self, by_hand, intent, is_profiled):
        """ISO 32000-2, 14.11.5: a profile of the same colour model, or a registered condition."""
        stated = {key: value for key, value in intent.items() if key != "channels"}
        channels = intent.get("channels")
        values = pikepdf.Dictionary(Type=pikepdf.Name.OutputIntent, **stated)
        if channels:
            values.DestOutputProfile = by_hand.pdf.make_stream(b"", N=channels)
        by_hand.pdf.Root.OutputIntents = pikepdf.Array([values])
        image_of(by_hand, pikepdf.Name.DeviceCMYK)
        assert ("profile-missing" not in found_in(by_hand, FULL)) is is_profiled

    def test_a_palette(self, by_hand):
        palette = pikepdf.Array([pikepdf.Name.Indexed, pikepdf.Name.DeviceRGB, 1, b"\0" * 6])
        image_of(by_hand, palette)
        assert "palette-picture" in found_in(by_hand, FULL)

    def test_grey_is_fine(self, by_hand):
        image_of(by_hand, pikepdf.Name.DeviceGray)
        assert set(found_in(by_hand, FULL)) == {"trim-box-missing"}


class TestTransparency:
    @pytest.mark.parametrize(
        "state, mixes",
        [
            ({"ca": 0.5}, True),
            ({"ca": 1}, False),
            ({"CA": 0.99}, True),
            ({"BM": pikepdf.Name.Multiply}, True),
            ({"BM": pikepdf.Name.Normal}, False),
            ({"SMask": pikepdf.Name("/None")}, False),
        ],
    )
    def test_states_that_mix_colours(self, by_hand, state, mixes):
        image_of(by_hand, pikepdf.Name.DeviceGray)
        inner = pikepdf.Dictionary(ExtGState=pikepdf.Dictionary(G=pikepdf.Dictionary(**state)))
        by_hand.resources.XObject.F = by_hand.form(b"/G gs", Resources=inner)
        by_hand.painted(FULL)
        with pikepdf.open(by_hand.path) as pdf:
            [(page, _)] = pages_with_images(pdf, "hand.pdf")
        assert page.is_transparent is mixes

    def test_a_soft_mask_is_told_on_the_picture_where_the_target_takes_none(self, by_hand):
        by_hand.resources.XObject.X = by_hand.image(SMask=by_hand.image())
        found = found_in(by_hand, FULL, target_named("newsprint"))
        assert COATED.expects.allows_transparency
        assert {"transparency-forbidden", "page-transparent"} <= set(found)
        assert not {"transparency-forbidden", "page-transparent"} & set(found_in(by_hand, FULL))


class TestBoxes:
    AT_EDGE = b"q 200 0 0 200 %d 100 cm /X Do Q"

    @pytest.mark.parametrize(
        "left, trim, expected",
        [
            # The page is 400 pt wide. It ends at the page's edge, and nothing lies beyond.
            (0, None, {"bleed-missing"}),
            (20, None, set()),
            # The trim lies 10 pt inside; the picture stops at it, reaches half way, reaches all.
            (10, [10, 10, 390, 390], {"bleed-not-reached"}),
            (5, [10, 10, 390, 390], {"bleed-not-reached"}),
            (0, [10, 10, 390, 390], set()),
        ],
    )
    def test_pictures_at_the_edge(self, by_hand, left, trim, expected):
        by_hand.resources.XObject.X = by_hand.image(900, 900)
        if trim:
            by_hand.page.obj.TrimBox = pikepdf.Array(trim)
        found = found_in(by_hand, self.AT_EDGE % left)
        assert {one for one in found if one.startswith("bleed")} == expected
        assert ("trim-box-missing" in found) is (trim is None)

    def test_a_turned_page_names_the_side_as_it_is_seen(self, by_hand):
        by_hand.resources.XObject.X = by_hand.image(900, 900)
        by_hand.page.obj.TrimBox = pikepdf.Array([10, 10, 390, 390])
        by_hand.page.obj.Rotate = 90
        # At the left in user space, at the top once the page is turned clockwise.
        found = found_in(by_hand, self.AT_EDGE % 10)
        assert "top" in found["bleed-not-reached"].headline


class TestFonts:
    HELVETICA = pikepdf.Dictionary(
        Type=pikepdf.Name.Font, Subtype=pikepdf.Name.Type1, BaseFont=pikepdf.Name.Helvetica
    )

    @pytest.mark.parametrize(
        "content, is_found",
        [
            (b"BT /T 9 Tf (quay) Tj ET", True),
            (b"BT /T 9 Tf [(qu) 3 (ay)] TJ ET", True),
            (b"BT /T 9 Tf ET", False),
            # Text laid over a scan by text recognition is not painted.
            (b"BT /T 9 Tf 3 Tr (quay) Tj ET", False),
            (b"q BT 3 Tr ET Q BT /T 9 Tf (quay) Tj ET", True),
        ],
    )
    @pytest.mark.parametrize("where", ["page", "form"])
    def test_only_those_that_show_a_letter(self, by_hand, content, is_found, where):
        fonts = pikepdf.Dictionary(T=self.HELVETICA)
        if where == "page":
            by_hand.resources.Font = fonts
        else:
            inner = pikepdf.Dictionary(Font=fonts)
            by_hand.resources.XObject.F = by_hand.form(content, Resources=inner)
            content = b"/F Do"
        assert ("font-not-embedded" in found_in(by_hand, content)) is is_found

    def test_embedded_ones_are_fine(self, by_hand):
        file = by_hand.pdf.make_stream(b"glyphs")
        inside = pikepdf.Dictionary(self.HELVETICA)
        inside.FontDescriptor = pikepdf.Dictionary(FontFile3=file)
        # A composite font has its file in its descendant (ISO 32000-2, 9.7.6).
        outside = pikepdf.Dictionary(
            Type=pikepdf.Name.Font,
            Subtype=pikepdf.Name.Type0,
            BaseFont=pikepdf.Name.Quay,
            DescendantFonts=pikepdf.Array([pikepdf.Dictionary(inside)]),
        )
        by_hand.resources.Font = pikepdf.Dictionary(T=inside, U=outside)
        content = b"BT /T 9 Tf (quay) Tj /U 9 Tf (quay) Tj ET"
        assert "font-not-embedded" not in found_in(by_hand, content)


def test_density_and_stretching_are_told_with_the_figures(by_hand):
    by_hand.resources.XObject.X = by_hand.image()
    found = found_in(by_hand, b"q 360 0 0 240 20 30 cm /X Do Q q 72 0 0 60 20 300 cm /X Do Q")
    assert found["density-below-floor"].headline == "60 ppi, 240 short of 300"
    assert found["uneven-scale"].headline.startswith("300 by 240")
    assert found["density-below-floor"].name == "300 × 200 px"


def test_what_cannot_be_seen_is_not_judged(by_hand):
    by_hand.resources.XObject.X = by_hand.image()
    assert "density-below-floor" not in found_in(by_hand, b"q 360 0 0 240 900 30 cm /X Do Q")


class TestReports:
    @pytest.fixture
    def poster(self, tmp_path):
        path = tmp_path / "poster.pdf"
        canvas = Canvas(str(path), pagesize=(400, 500))
        for seed in (1, 2):
            image = ImageReader(Image.fromarray(photo(300, 200, seed=seed)))
            canvas.drawImage(image, 40, 150, 320, 213)
            canvas.drawString(50, 50, "Tarnholm")
            canvas.showPage()
        canvas.save()
        return path

    def test_the_pdf_says_what_the_json_says(self, poster):
        report = check_document(poster, "poster.pdf", COATED).report

        def drawn(number):
            path = poster.with_name("page.png")
            Image.fromarray(photo(400, 500, seed=number)).save(path)
            return path.read_bytes()

        pdf = poster.with_name("report.pdf")
        pdf.write_bytes(document_report_as_pdf(report, Drawings(drawn, drawn)))
        reader = pypdf.PdfReader(pdf)
        text = " ".join(" ".join(one.extract_text().split()) for one in reader.pages)
        values = report_as_json(report)
        assert len(values["findings"]) >= 4
        for finding in values["findings"]:
            assert " ".join(finding["headline"].split()) in text
            assert " ".join(finding["sentence"].split())[:60] in text
        # A picture of the spot beside each finding on a picture.
        spots = sum(len(one.images) for one in reader.pages)
        assert spots == sum(one["image"] is not None for one in values["findings"])

    def test_the_html_says_the_same_and_needs_nothing_beside_it(self, poster):
        report = check_document(poster, "poster <1>.pdf", COATED).report
        path = poster.with_name("report.html")
        write_report_file(report, poster, path)
        text = html.unescape(path.read_text())
        for finding in report_as_json(report)["findings"]:
            assert finding["headline"] in text and finding["sentence"] in text
        assert "poster <1>" not in path.read_text(), "names are escaped"
        sources = re.findall(r'(?:src|href)="([^"]{0,22})', path.read_text())
        assert sources and set(sources) == {"data:image/jpeg;base64"}

    def test_the_ending_says_the_form(self, poster):
        report = check_document(poster, "poster.pdf", COATED).report
        for ending in ENDINGS:
            write_report_file(report, poster, poster.with_name(f"report{ending}"))
        rows = list(csv.DictReader(poster.with_name("report.csv").open()))
        assert len(rows) == 2 and "blocking: " in rows[0]["findings"]
        assert json.loads(poster.with_name("report.json").read_text()) == report_as_json(report)
        assert poster.with_name("report.pdf").read_bytes().startswith(b"%PDF-")
        with pytest.raises(ValueOutOfRange, match=r"not “\.docx”"):
            write_report_file(report, poster, poster.with_name("report.docx"))

    def test_findings_point_to_pictures_by_their_place(self, poster):
        values = report_as_json(check_document(poster, "poster.pdf", COATED).report)
        placed = {one["image"] for one in values["findings"] if one["rule"].startswith("density")}
        assert placed == {1, 2}
        assert json.loads(json.dumps(values)) == values

    def test_a_spot_is_the_picture_with_some_page_around_it(self, poster):
        report = check_document(poster, "poster.pdf", COATED).report
        spot = spot_of(report.pictures[0], report.read.pages[0])
        # Drawn at 40 to 360 across and, from the top, at 137 to 350 down.
        assert spot.left < 40 and spot.left + spot.width > 360
        assert spot.top < 137 and spot.top + spot.height > 350
        assert spot.left >= 0 and spot.left + spot.width <= spot.page_w_pt == 400
        page = poster.with_name("page.png")
        Image.fromarray(photo(800, 1000)).save(page)
        part = (spot.left / 400, spot.top / 500, spot.width / 400, spot.height / 500)
        small = poster.with_name("spot.jpg")
        small.write_bytes(page_spot(page.read_bytes(), part, 100))
        with Image.open(small) as image:
            assert max(image.size) == 100
            assert image.width / image.height == pytest.approx(spot.width / spot.height, rel=0.03)
