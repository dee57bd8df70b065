"""Every image a PDF paints, against `pdfimages -list` (poppler) and by hand.

poppler rounds densities to whole numbers, so a density agrees within half a ppi or one in the
last place that it prints.
"""

import base64
import io
import subprocess

import cairosvg
import img2pdf
import numpy
import pikepdf
import pytest
from fpdf import FPDF
from matplotlib.figure import Figure
from matplotlib.transforms import Affine2D
from PIL import Image
from reportlab.lib.utils import ImageReader
from reportlab.pdfgen.canvas import Canvas
from weasyprint import HTML

from harnet.core.pictures.picture import Colour
from harnet.media.pdf.reading.images import painted_images
from tests.support.pdfs import ByHand, agrees_with_poppler
from tests.support.pictures import photo

_POPPLER_COLOURS = {"gray": "grey", "index": "palette", "sep": "spot", "devn": "spot"}


def picture(mode="RGB", size=(300, 200), form="PNG", seed=1, **options):
    out = io.BytesIO()
    Image.fromarray(photo(*size, seed=seed)).convert(mode).save(out, form, **options)
    out.seek(0)
    return out


class TestThreeWriters:
    def test_reportlab_with_rotation_repeats_inline_and_alpha(self, tmp_path):
        path = tmp_path / "a.pdf"
        canvas = Canvas(str(path))
        for angle in (0, 20, 90, 217):
            canvas.saveState()
            canvas.translate(250, 400)
            canvas.rotate(angle)
            canvas.drawImage(ImageReader(picture()), 0, 0, 120, 60)
            canvas.restoreState()
        canvas.drawImage(ImageReader(picture("RGBA")), 20, 20, 50, 90, mask="auto")
        canvas.drawInlineImage(Image.open(picture("L")), 300, 20, 40, 40)
        canvas.showPage()
        canvas.drawImage(ImageReader(picture("CMYK", form="JPEG")), 0, 0, 500, 300)
        canvas.showPage()
        canvas.save()
        painted = agrees_with_poppler(path)
        assert [image.colour.value for image in painted[-2:]] == ["grey", "cmyk"]

    def test_reportlab_with_nested_forms(self, tmp_path):
        path = tmp_path / "a.pdf"
        canvas = Canvas(str(path))
        canvas.beginForm("inner")
        canvas.scale(0.5, 0.5)
        canvas.drawImage(ImageReader(picture()), 0, 0, 200, 100)
        canvas.endForm()
        canvas.beginForm("outer")
        canvas.rotate(30)
        canvas.scale(3, 2)
        canvas.doForm("inner")
        canvas.endForm()
        canvas.translate(100, 100)
        canvas.doForm("outer")
        canvas.doForm("inner")
        canvas.save()
        painted = agrees_with_poppler(path)
        # 300 px over 200 · 0.5 · 3 = 300 pt: 72 ppi; 200 px over 100 · 0.5 · 2 = 100 pt: 144 ppi
        assert (painted[0].density.x, painted[0].density.y) == pytest.approx((72, 144), rel=1e-4)

    def test_fpdf2_with_rotation_and_every_colour(self, tmp_path):
        path = tmp_path / "a.pdf"
        pdf = FPDF(unit="mm")
        for mode, form in (
            ("RGB", "JPEG"),
            ("L", "PNG"),
            ("RGBA", "PNG"),
            ("1", "PNG"),
            ("P", "PNG"),
        ):
            pdf.add_page()
            pdf.image(picture(mode, form=form), 10, 10, w=100)
            with pdf.rotation(33, 60, 60):
                pdf.image(picture(mode, form=form, seed=2), 20, 120, w=50, h=90)
        pdf.output(str(path))
        agrees_with_poppler(path)

    @pytest.mark.parametrize("mode", ["RGB", "L", "1", "CMYK"])
    def test_img2pdf(self, tmp_path, mode):
        path = tmp_path / "a.pdf"
        form = "JPEG" if mode == "CMYK" else "PNG"
        layout = img2pdf.get_layout_fun((img2pdf.mm_to_pt(100), img2pdf.mm_to_pt(80)))
        path.write_bytes(img2pdf.convert(picture(mode, form=form).read(), layout_fun=layout))
        [image] = agrees_with_poppler(path)
        expected = {"RGB": "rgb", "L": "grey", "1": "bilevel", "CMYK": "cmyk"}[mode]
        assert image.colour.value == expected

    def test_pillow(self, tmp_path):
        path = tmp_path / "a.pdf"
        Image.fromarray(photo()).save(path, resolution=150)
        [image] = agrees_with_poppler(path)
        assert image.density.x == pytest.approx(150, rel=0.001)


class TestOtherPrograms:
    """Producers that share no code with those above."""

    def test_cairo(self, tmp_path):
        """SVG drawn to PDF by cairo: scaled, turned, with alpha."""
        path = tmp_path / "a.pdf"
        data = base64.b64encode(picture("RGBA").read()).decode()
        image = f'<image width="120" height="80" xlink:href="data:image/png;base64,{data}"'
        svg = (
            '<svg xmlns="http://www.w3.org/2000/svg" width="400" height="400"'
            ' xmlns:xlink="http://www.w3.org/1999/xlink">'
            f'{image}/>{image} transform="translate(200 200) rotate(30) scale(1.5 1)"/></svg>'
        )
        cairosvg.svg2pdf(bytestring=svg.encode(), write_to=str(path))
        agrees_with_poppler(path)

    def test_chromium(self, tmp_path):
        """A page of the web as Debian's Chromium prints it."""
        page, path = tmp_path / "page.html", tmp_path / "a.pdf"
        for name, mode in (("one.jpg", "RGB"), ("two.png", "RGBA"), ("three.png", "L")):
            form = "JPEG" if name.endswith("jpg") else "PNG"
            (tmp_path / name).write_bytes(picture(mode, form=form).read())
        page.write_text(
            '<img src="one.jpg" width="300"><img src="two.png" style="transform: rotate(20deg)"'
            ' width="200" height="99"><div style="width: 90px; height: 40px; overflow: hidden">'
            '<img src="three.png" width="400"></div>'
        )
        flags = ("--headless", "--no-sandbox", "--disable-gpu", "--no-pdf-header-footer")
        subprocess.run(
            ["/usr/bin/chromium-headless-shell", *flags, f"--print-to-pdf={path}", page.as_uri()],
            check=True,
            capture_output=True,
            timeout=120,
        )
        painted = agrees_with_poppler(path)
        # 300 pixels over 300 CSS pixels of 1/96 inch.
        assert painted[0].density.x == pytest.approx(96, rel=0.01)

    def test_matplotlib(self, tmp_path):
        """Pixels as they are, scaled, skewed and turned; a colour map makes a palette."""
        path = tmp_path / "a.pdf"
        figure = Figure(figsize=(6, 4))
        for place, mode in enumerate(("RGB", "L", "RGBA"), 1):
            axes = figure.add_subplot(1, 3, place)
            shear = Affine2D().rotate_deg(20 * place).skew_deg(10, 0) + axes.transData
            pixels = numpy.asarray(Image.open(picture(mode, size=(90, 60 + place))))
            axes.imshow(pixels, interpolation="none", cmap="viridis", transform=shear)
        figure.figimage(photo(50, 40), 20, 30)
        figure.savefig(path)
        assert len(agrees_with_poppler(path)) == 4

    def test_weasyprint(self, tmp_path):
        """A page of HTML set for print: turned, scaled, as a vector's picture."""
        path = tmp_path / "a.pdf"
        png, jpeg = (
            f"data:image/{form.lower()};base64,"
            + base64.b64encode(picture(form=form, seed=seed).read()).decode()
            for seed, form in enumerate(("PNG", "JPEG"))
        )
        page = f'''<style>@page {{ size: A4 }} img {{ width: 60mm; display: block }}</style>
            <img src="{png}"><img src="{jpeg}" style="transform: rotate(25deg) scale(1.4, 0.6)">
            <p style="break-before: page"><img src="{png}" style="width: 20mm; height: 90mm">
            <svg width="200" height="100"><image href="{jpeg}" width="120" height="80"/></svg>'''
        HTML(string=page).write_pdf(path)
        assert len(agrees_with_poppler(path)) == 4

    def test_ghostscript_and_poppler_writing_a_pdf_anew(self, tmp_path):
        """A PDF of reportlab's as Ghostscript distils it, and as poppler and cairo print it."""
        source = tmp_path / "source.pdf"
        canvas = Canvas(str(source), pagesize=(400, 400))
        for angle in (0, 35):
            canvas.saveState()
            canvas.translate(200, 100)
            canvas.rotate(angle)
            canvas.drawImage(ImageReader(picture(seed=angle + 1)), 0, 0, 72, 60)
            canvas.restoreState()
        canvas.drawImage(ImageReader(picture("RGBA", seed=9)), 20, 200, 90, 60, mask="auto")
        canvas.save()
        ppi = [(image.density.x, image.density.y) for image in painted_images(source)[1]]
        distilled, printed = tmp_path / "distilled.pdf", tmp_path / "printed.pdf"
        flags = ("-q", "-dNOPAUSE", "-dBATCH", "-dSAFER", "-sDEVICE=pdfwrite")
        keep = ("-dDownsampleColorImages=false", "-dDownsampleGrayImages=false")
        subprocess.run(["gs", *flags, *keep, "-o", distilled, source], check=True)
        subprocess.run(["pdftocairo", "-pdf", source, printed], check=True)
        for path in (distilled, printed):
            found = [(one.density.x, one.density.y) for one in agrees_with_poppler(path)]
            for axis in (0, 1):
                expected = sorted(pair[axis] for pair in ppi)
                assert sorted(pair[axis] for pair in found) == pytest.approx(expected, rel=0.01)


@pytest.fixture
def by_hand(tmp_path):
    return ByHand(tmp_path / "hand.pdf")


class TestByHand:
    def test_user_unit_scales_all_lengths(self, by_hand):
        # ISO 32000-2, table 31: UserUnit, in multiples of 1/72 inch
        by_hand.page.obj.UserUnit = 2
        by_hand.resources.XObject.A = by_hand.image()
        [image] = by_hand.painted(b"q 100 0 0 100 0 0 cm /A Do Q")
        assert (image.width_pt, image.density.x) == pytest.approx((200, 108))

    def test_skew_is_judged_in_its_worst_direction(self, by_hand):
        by_hand.resources.XObject.A = by_hand.image(300, 300)
        [image] = by_hand.painted(b"q 72 0 72 72 0 0 cm /A Do Q")
        assert image.density.worst == pytest.approx(300 / ((5**0.5 + 1) / 2))
        assert image.density.worst < min(image.density.x, image.density.y)

    def test_an_image_mask_counts_as_one_bit(self, by_hand):
        by_hand.resources.XObject.A = by_hand.image(ImageMask=True, BitsPerComponent=1)
        [image] = by_hand.painted(b"q 72 0 0 72 0 0 cm /A Do Q")
        assert (image.colour, image.bits) == (Colour.BILEVEL, 1)

    def test_soft_masks_and_explicit_masks_do_not_count(self, by_hand):
        mask = by_hand.image()
        by_hand.resources.XObject.A = by_hand.image(SMask=mask)
        stencil = by_hand.image(ImageMask=True, BitsPerComponent=1)
        by_hand.resources.XObject.B = by_hand.image(Mask=stencil)
        assert len(by_hand.painted(b"/A Do /B Do")) == 2

    def test_inline_images_with_short_names(self, by_hand):
        content = b"q 36 0 0 36 0 0 cm BI /W 4 /H 2 /BPC 8 /CS /RGB ID " + b"x" * 24 + b" EI Q"
        [image] = by_hand.painted(content)
        assert (image.px_w, image.px_h, image.colour) == (4, 2, Colour.RGB)
        assert image.density.x == pytest.approx(8)

    def test_a_tiling_pattern_is_entered_each_time_it_fills(self, by_hand):
        inner = pikepdf.Dictionary(XObject=pikepdf.Dictionary(A=by_hand.image()))
        pattern = by_hand.form(
            b"q 50 0 0 50 0 0 cm /A Do Q",
            PatternType=1,
            Resources=inner,
            Matrix=pikepdf.Array([2, 0, 0, 2, 0, 0]),
        )
        by_hand.resources.Pattern.P = pattern
        # The pattern's space hangs on the page's, not on the matrix in force when it is used.
        content = b"q 9 0 0 9 0 0 cm /Pattern cs /P scn 0 0 5 5 re f Q 1 0 0 rg 0 0 5 5 re f"
        [image] = by_hand.painted(content)
        assert image.width_pt == pytest.approx(100)

    def test_forms_that_call_themselves_come_to_an_end(self, by_hand):
        form = by_hand.form(b"/A Do /F Do")
        names = pikepdf.Dictionary(A=by_hand.image(), F=form)
        form.Resources = pikepdf.Dictionary(XObject=names)
        by_hand.resources.XObject.F = form
        assert len(by_hand.painted(b"q 72 0 0 72 0 0 cm /F Do Q")) == 1

    def test_a_form_without_resources_uses_its_callers(self, by_hand):
        by_hand.resources.XObject.A = by_hand.image()
        by_hand.resources.XObject.F = by_hand.form(b"q 72 0 0 72 0 0 cm /A Do Q")
        assert len(by_hand.painted(b"/F Do")) == 1

    def test_resources_inherited_from_the_page_tree(self, by_hand):
        by_hand.resources.XObject.A = by_hand.image()
        by_hand.page.obj.Parent.Resources = by_hand.page.obj.Resources
        del by_hand.page.obj.Resources
        assert len(by_hand.painted(b"q 72 0 0 72 0 0 cm /A Do Q")) == 1

    def test_painting_order_and_repeats(self, by_hand):
        by_hand.resources.XObject.A = by_hand.image(10, 10)
        by_hand.resources.XObject.B = by_hand.image(20, 20)
        painted = by_hand.painted(b"/B Do /A Do q 5 0 0 5 0 0 cm /B Do Q")
        assert [image.px_w for image in painted] == [20, 10, 20]

    def test_what_paints_nothing_is_left_out(self, by_hand):
        by_hand.resources.XObject.A = by_hand.image()
        by_hand.resources.XObject.Z = by_hand.image(Width=0)
        content = b"q 0 0 0 72 0 0 cm /A Do Q /Z Do /Nowhere Do Q Q q 72 0 0 72 0 0 cm /A Do"
        assert len(by_hand.painted(content)) == 1

    @pytest.mark.parametrize(
        "space, expected",
        [
            (pikepdf.Name.DeviceCMYK, Colour.CMYK),
            (pikepdf.Array([pikepdf.Name.CalRGB, {}]), Colour.RGB),
            (pikepdf.Array([pikepdf.Name.Lab, {}]), Colour.LAB),
            (
                pikepdf.Array([pikepdf.Name.Indexed, pikepdf.Name.DeviceRGB, 1, b"\0" * 6]),
                Colour.PALETTE,
            ),
            (
                pikepdf.Array(
                    [pikepdf.Name.Separation, pikepdf.Name.Gold, pikepdf.Name.DeviceCMYK]
                ),
                Colour.SPOT,
            ),
        ],
    )
    def test_colour_spaces(self, by_hand, space, expected):
        by_hand.resources.XObject.A = by_hand.image(ColorSpace=space)
        assert by_hand.painted(b"q 72 0 0 72 0 0 cm /A Do Q")[0].colour is expected

    def test_a_profile_says_its_colour_by_its_channels(self, by_hand):
        profile = pikepdf.Stream(by_hand.pdf, b"")
        profile.N = 4
        space = pikepdf.Array([pikepdf.Name.ICCBased, by_hand.pdf.make_indirect(profile)])
        by_hand.resources.XObject.A = by_hand.image(ColorSpace=space)
        assert by_hand.painted(b"q 72 0 0 72 0 0 cm /A Do Q")[0].colour is Colour.CMYK
