"""The two invented print houses: each demand with a PDF on either side of it."""

import pytest

from harnet.core.measure.geometry import Box
from harnet.core.measure.units import MM_PER_INCH
from harnet.core.output.pdf_settings import PdfColour, PdfSettings, PdfStandard
from harnet.core.output.treatment import treatment_of
from harnet.media.pagedrawing.plan import PagePlan, TextPart
from harnet.media.pagedrawing.text_lines import TextStyle
from harnet.media.pdf.writing.finish import Finish
from harnet.media.pdf.writing.write import write_pdf
from harnet.media.pixels.colour import GENERIC_CMYK
from harnet.standins.print_houses import NORTHQUAY, SKERRY_PRESS, Demands, Intake
from harnet.studio.outside.print_house import IntakeError
from tests.support.parts import part

BLEED_PT = 3 * 72 / MM_PER_INCH
X4 = Finish(standard=PdfStandard.X4, intent=GENERIC_CMYK, is_inked=True, language="en")
INKS = PdfSettings(colour=PdfColour.INTENT, standard=PdfStandard.X4)


@pytest.fixture
def made(make_picture, tmp_path):
    """A PDF with a picture of 300 px, as wide as it has to be for a density."""

    def make(ppi=300.0, bleed_pt=BLEED_PT, finish=X4, settings=INKS, pages=1, **picture):
        width = 300 / ppi * 72
        frame = Box(20, 20, width, width * 2 / 3)
        one = part(make_picture("a.png", **picture), frame)
        words = TextPart(Box(20, 320, 100, 20), 0, "Tarnholm", TextStyle())
        path = tmp_path / "sent.pdf"
        plans = [
            PagePlan(
                number=n + 1, width_pt=300, height_pt=400, bleed_pt=bleed_pt, parts=(one, words)
            )
            for n in range(pages)
        ]

        def treatment(each):
            return treatment_of(each.facts, each.placement, settings)

        write_pdf(plans, "Sent", path, treatment=treatment, finish=finish)
        return path

    return make


class TestSkerryPress:
    def test_what_is_in_order_is_accepted_and_it_says_what_was_looked_at(self, made):
        answer = SKERRY_PRESS.take(made())
        assert answer.accepted and answer.reasons == ()
        assert answer.looked_at == ("1 page", "1 picture", "lowest density 300 ppi")

    @pytest.mark.parametrize("ppi, accepted", [(250, True), (249, False)])
    def test_density(self, made, ppi, accepted):
        answer = SKERRY_PRESS.take(made(ppi))
        assert answer.accepted is accepted
        if not accepted:
            assert answer.reasons == ("Page 1: a picture of 300 × 200 px has 249 ppi, not 250.",)

    @pytest.mark.parametrize("ppi, accepted", [(800, True), (790, False)])
    def test_1_bit_art_has_a_density_of_its_own(self, made, ppi, accepted):
        assert SKERRY_PRESS.take(made(ppi, mode="1")).accepted is accepted

    def test_bleed(self, made):
        answer = SKERRY_PRESS.take(made(bleed_pt=BLEED_PT - 1))
        assert answer.reasons == ("Page 1 has 2.6 mm bleed, not 3.",)

    def test_standard_output_intent_and_inks(self, made):
        answer = SKERRY_PRESS.take(made(finish=Finish(), settings=PdfSettings()))
        assert answer.reasons == (
            "The file does not say that it is PDF/X-4.",
            "There is no output intent with a profile.",
            "Page 1: a picture of 300 × 200 px is RGB.",
        )

    def test_a_font_that_is_not_embedded(self, made, tmp_path):
        from reportlab.pdfgen.canvas import Canvas  # noqa: PLC0415

        path = tmp_path / "loose.pdf"
        canvas = Canvas(str(path))
        canvas.drawString(10, 10, "Tarnholm")
        canvas.save()
        assert "The font Helvetica is not embedded." in SKERRY_PRESS.take(path).reasons


class TestNorthquay:
    def test_a_plain_pdf_without_bleed_will_do(self, made):
        assert NORTHQUAY.take(made(60, 0, Finish(), PdfSettings())).accepted

    def test_its_reasons(self, made):
        path = made(59, 0, Finish(crop_marks=True), PdfSettings(), pages=5)
        reasons = NORTHQUAY.take(path).reasons
        assert "5 pages; at most 4 are taken." in reasons
        assert "Page 1 has room for marks around it." in reasons
        assert "Page 5: a picture of 300 × 200 px has 59 ppi, not 60." in reasons

    def test_the_two_want_different_things(self, made):
        path = made(100, 0, Finish(), PdfSettings())
        assert (NORTHQUAY.take(path).accepted, SKERRY_PRESS.take(path).accepted) == (True, False)


def test_a_file_that_is_too_large_is_not_taken(made):
    house = Intake(
        "small",
        "A small house",
        Demands(least_ppi=1, least_bilevel_ppi=1, bleed_mm=0, most_bytes=1000),
    )
    with pytest.raises(IntakeError, match="takes no file above 1 kB"):
        house.take(made())


def test_what_is_no_pdf_is_not_taken(tmp_path):
    path = tmp_path / "no.pdf"
    path.write_bytes(b"%PDF-1.7 and then nothing")
    with pytest.raises(IntakeError, match="could not open"):
        NORTHQUAY.take(path)
