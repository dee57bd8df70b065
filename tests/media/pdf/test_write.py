"""The PDF that leaves: pixels kept, checked with poppler, qpdf, Pillow and pdfium."""

import subprocess
from contextlib import contextmanager

import numpy as np
import pikepdf
import pypdfium2
import pytest
import pyvips
from PIL import Image, ImageCms

from harnet.core.layout.placing import Content, Fit, Placement, Source
from harnet.core.layout.shape import Shape
from harnet.core.measure.geometry import Box
from harnet.core.output.page_images import ImageSettings
from harnet.core.output.pdf_settings import PdfSettings, PictureMode
from harnet.core.output.treatment import treatment_of
from harnet.core.pictures.picture import Colour
from harnet.media.facts.read import facts_of
from harnet.media.pagedrawing.page_image import read_back_image, write_page_image
from harnet.media.pagedrawing.plan import LinePart, PagePlan, PicturePart, RectanglePart, TextPart
from harnet.media.pagedrawing.text_lines import TextStyle, lines_of, width_of
from harnet.media.pdf.reading.images import painted_images
from harnet.media.pdf.writing.readback import read_back
from harnet.media.pdf.writing.write import write_pdf
from harnet.store.blobs import sha256_of
from tests.support.parts import part
from tests.support.pdfs import agrees_with_poppler
from tests.support.pictures import photo


def plan(*parts, number=1, bleed_pt=9.0):
    return PagePlan(number=number, width_pt=300, height_pt=400, bleed_pt=bleed_pt, parts=parts)


@pytest.fixture
def out(tmp_path):
    return tmp_path / "out.pdf"


@contextmanager
def only_image(path):
    """The one image of a PDF's first page."""
    with pikepdf.open(path) as pdf:
        [image] = [x for x in pdf.pages[0].Resources.XObject.values() if x.Subtype == "/Image"]
        yield image


class TestPixels:
    @pytest.mark.parametrize("mode", ["RGB", "L", "CMYK"])
    @pytest.mark.parametrize("progressive", [False, True])
    def test_jpeg_data_passes_through_byte_for_byte(self, make_picture, out, mode, progressive):
        path = make_picture(mode=mode, progressive=progressive)
        [promise] = write_pdf([plan(part(path))], "t", out)
        assert promise.how == "passed through unchanged"
        with only_image(out) as image:
            assert image.read_raw_bytes() == path.read_bytes()

    def test_poppler_hands_the_same_jpeg_back(self, make_picture, out, tmp_path):
        path = make_picture()
        write_pdf([plan(part(path))], "t", out)
        subprocess.run(["pdfimages", "-j", out, tmp_path / "got"], check=True)
        assert (tmp_path / "got-000.jpg").read_bytes() == path.read_bytes()

    @pytest.mark.parametrize(
        "name, mode",
        [
            ("a.png", "RGB"),
            ("a.png", "L"),
            ("a.png", "1"),
            ("a.png", "P"),
            ("a.tif", "CMYK"),
            ("a.tif", "1"),
            ("a.gif", "P"),
            ("a.bmp", "RGB"),
            ("a.webp", "RGB"),
        ],
    )
    def test_all_else_is_lossless(self, make_picture, out, name, mode):
        path = make_picture(name, mode=mode, **({"lossless": True} if name == "a.webp" else {}))
        write_pdf([plan(part(path))], "t", out)
        with only_image(out) as image, Image.open(path) as original:
            got = pikepdf.PdfImage(image).as_pil_image()
            assert got.mode == original.mode
            shown, wanted = (one.convert("RGB") if mode == "P" else one for one in (got, original))
            assert np.array_equal(np.asarray(shown), np.asarray(wanted))

    @pytest.mark.parametrize("colours, bits", [(2, 2), (4, 2), (13, 4), (16, 4), (17, 8), (256, 8)])
    @pytest.mark.parametrize("width", [300, 301])
    def test_a_palette_stays_one(self, tmp_path, out, colours, bits, width):
        path = tmp_path / "tickets.png"
        rgb = np.random.default_rng(colours).permutation(256 * 6).reshape(-1, 6)[:256, :3] % 256
        places = (photo(width, 200, channels=1).astype(int) * colours // 256).astype("uint8")
        places.flat[:colours] = np.arange(colours)
        picture = Image.fromarray(places, "P")
        picture.putpalette(rgb.astype("uint8").tobytes())
        picture.save(path)
        write_pdf([plan(part(path))], "t", out)
        with only_image(out) as image:
            assert image.ColorSpace[0] == "/Indexed"
            assert (int(image.BitsPerComponent), int(image.ColorSpace[2])) == (bits, colours - 1)
        subprocess.run(["pdfimages", "-png", out, tmp_path / "got"], check=True)
        with Image.open(tmp_path / "got-000.png") as got, Image.open(path) as wanted:
            assert np.array_equal(np.asarray(got.convert("RGB")), np.asarray(wanted.convert("RGB")))
        assert [one.colour for one in painted_images(out)[1]] == [Colour.PALETTE]

    def test_a_palette_with_holes_keeps_its_mask_and_its_profile(self, tmp_path, out):
        profile = ImageCms.ImageCmsProfile(ImageCms.createProfile("sRGB")).tobytes()
        path = tmp_path / "tickets.png"
        picture = Image.fromarray(photo()).quantize(7)
        picture.save(path, transparency=bytes([0, 128]), icc_profile=profile)
        write_pdf([plan(part(path))], "t", out)
        with only_image(out) as image:
            assert image.ColorSpace[1][1].read_bytes() == profile
            mask = np.frombuffer(image.SMask.read_bytes(), "uint8").reshape(200, 300)
        with Image.open(path) as original:
            wanted = np.asarray(original.convert("RGBA"))
        assert np.array_equal(mask, wanted[..., 3])

    def test_16_bit_stays_16_bit(self, out, tmp_path):
        path = tmp_path / "keeper-1931.tif"
        pixels = (photo(channels=1).astype("uint16") << 8) + 77
        Image.fromarray(pixels).save(path)
        write_pdf([plan(part(path))], "t", out)
        with only_image(out) as image:
            got = np.frombuffer(image.read_bytes(), ">u2").reshape(200, 300)
            assert image.BitsPerComponent == 16
        assert np.array_equal(got, pixels)

    def test_alpha_becomes_a_soft_mask(self, out, tmp_path):
        path = tmp_path / "a.png"
        rgba = np.dstack([photo(), photo(channels=1, seed=4)])
        Image.fromarray(rgba).save(path)
        write_pdf([plan(part(path))], "t", out)
        with only_image(out) as image:
            mask = np.frombuffer(image.SMask.read_bytes(), "uint8").reshape(200, 300)
        assert np.array_equal(mask, rgba[..., 3])
        assert len(painted_images(out)[1]) == 1

    def test_profiles_are_kept(self, make_picture, out):
        profile = ImageCms.ImageCmsProfile(ImageCms.createProfile("sRGB")).tobytes()
        for name in ("a.jpg", "a.png"):
            write_pdf([plan(part(make_picture(name, icc_profile=profile)))], "t", out)
            with only_image(out) as image:
                assert image.ColorSpace[1].read_bytes() == profile

    def test_cmyk_jpegs_from_pillow_are_marked_as_inverted(self, make_picture, out):
        paths = [make_picture(name, mode="CMYK") for name in ("one.jpg", "two.jpg")]
        paths[1].write_bytes(paths[1].read_bytes() + b" ")
        write_pdf([plan(*map(part, paths))], "t", out)
        with pikepdf.open(out) as pdf:
            images = list(pdf.pages[0].Resources.XObject.values())
            assert [list(image.Decode) for image in images] == [[1, 0] * 4] * 2

    @pytest.mark.parametrize("orientation", range(1, 9))
    def test_orientation_is_drawn_upright(self, tmp_path, out, orientation):
        exif = Image.Exif()
        exif[274] = orientation
        quarters = np.zeros((80, 120, 3), "uint8")
        quarters[:40, :60], quarters[:40, 60:], quarters[40:, :60] = (255, 0, 0), (0, 255, 0), 255
        path = tmp_path / "a.jpg"
        Image.fromarray(quarters).save(path, exif=exif, quality=95)
        write_pdf([plan(part(path, Box(0, 0, 300, 400), fit=Fit.STRETCH), bleed_pt=0)], "t", out)
        with pypdfium2.PdfDocument(out) as pdf:
            shown = np.asarray(pdf[0].render(scale=0.2).to_pil().resize((60, 80)), float)
        upright = pyvips.Image.new_from_file(str(path)).autorot()
        wanted = upright.resize(60 / upright.width, vscale=80 / upright.height).numpy()
        assert np.abs(shown - wanted).mean() < 12


def by(settings):
    return lambda one: treatment_of(one.facts, one.placement, settings)


class TestModes:
    """Trimmed and light PDFs; poppler and Pillow read what is in them."""

    TRIM = PdfSettings(mode=PictureMode.TRIM, to_ppi=150, threshold=1.5, quality=90)

    @pytest.mark.parametrize("mode", ["RGB", "L"])
    def test_only_what_is_above_the_threshold_is_downsampled(self, make_picture, out, mode):
        # In a frame of 2 in: 600 px are 300 ppi, above 225; 400 px are 200 ppi, below.
        dense = part(make_picture("dense.png", 600, 400, mode=mode), Box(0, 0, 144, 96))
        enough = part(make_picture("enough.jpg", 400, 267, mode=mode), Box(0, 100, 144, 96))
        promises = write_pdf([plan(dense, enough)], "t", out, treatment=by(self.TRIM))
        assert [promise.px_w for promise in promises] == [300, 400]
        assert promises[0].how == "downsampled from 600 × 400 to 300 × 200 px, JPEG of quality 90"
        listed = poppler_list(out)
        assert [(row["width"], row["enc"], row["x-ppi"]) for row in listed] == [
            ("300", "jpeg", "150"),
            ("400", "jpeg", "200"),
        ]
        assert subprocess.run(["qpdf", "--check", out], capture_output=True).returncode == 0

    def test_the_pixels_are_pillows_within_what_jpeg_loses(self, make_picture, out, tmp_path):
        path = make_picture("dense.png", 600, 400)
        write_pdf([plan(part(path, Box(0, 0, 144, 96)))], "t", out, treatment=by(self.TRIM))
        subprocess.run(["pdfimages", "-png", out, tmp_path / "got"], check=True)
        got = np.asarray(Image.open(tmp_path / "got-000.png")).astype(float)
        wanted = Image.open(path).resize((300, 200), Image.LANCZOS)
        assert np.abs(got - np.asarray(wanted)).mean() < 4

    def test_alpha_stays_lossless_beside_jpeg(self, out, tmp_path):
        rgba = np.dstack([photo(600, 400), np.full((400, 600), 255, "uint8")])
        rgba[:, :300, 3] = 0
        Image.fromarray(rgba).save(tmp_path / "cut.png")
        write_pdf(
            [plan(part(tmp_path / "cut.png", Box(0, 0, 144, 96)))],
            "t",
            out,
            treatment=by(self.TRIM),
        )
        with only_image(out) as image:
            assert image.Filter == "/DCTDecode" and image.SMask.Filter == "/FlateDecode"
            mask = np.asarray(pikepdf.PdfImage(image.SMask).as_pil_image())
        assert (mask.shape[1], mask[:, :140].max(), mask[:, 160:].min()) == (300, 0, 255)

    def test_16_bit_becomes_8_bit_where_it_becomes_jpeg(self, out, tmp_path):
        grey = np.linspace(0, 65535, 600, dtype="uint16")[None, :].repeat(400, 0)
        Image.fromarray(grey).save(tmp_path / "deep.png")
        one = part(tmp_path / "deep.png", Box(0, 0, 144, 96))
        write_pdf(
            [plan(one)],
            "t",
            out,
            treatment=by(PdfSettings(mode=PictureMode.LIGHT, to_ppi=150, quality=70)),
        )
        with only_image(out) as image:
            assert (image.Filter, image.BitsPerComponent) == ("/DCTDecode", 8)
            got = np.asarray(pikepdf.PdfImage(image).as_pil_image())[0].astype(float)
        assert np.abs(got - np.linspace(0, 255, 300)).max() < 4

    @pytest.mark.parametrize("dense", [True, False])
    def test_light_stores_inks_as_jpeg_that_all_readers_agree_on(self, tmp_path, out, dense):
        rgb = Image.fromarray(photo(600, 400))
        path = tmp_path / "inks.tif"
        rgb.convert("CMYK").save(path)
        frame = Box(0, 0, 144, 96) if dense else Box(0, 0, 288, 192)
        light = PdfSettings(mode=PictureMode.LIGHT, to_ppi=150, quality=90)
        [promise] = write_pdf([plan(part(path, frame), bleed_pt=0)], "t", out, treatment=by(light))
        assert promise.how.endswith("JPEG of quality 90")
        wanted = np.asarray(rgb.resize((promise.px_w, promise.px_h), Image.LANCZOS), float)
        with only_image(out) as image:
            assert (image.Filter, image.ColorSpace) == ("/DCTDecode", "/DeviceCMYK")
        # Samples as poppler, and as Ghostscript, takes them for inks.
        subprocess.run(["pdfimages", "-tiff", out, tmp_path / "got"], check=True)
        inks = np.asarray(Image.open(tmp_path / "got-000.tif")).astype(float)
        assert np.abs(inks[..., :3] - (255 - wanted)).mean() < 4 and inks[..., 3].max() < 16
        scale = promise.px_w / frame.width
        ghost = ["gs", "-q", "-dNOPAUSE", "-dBATCH", "-sDEVICE=tiff32nc", f"-r{72 * scale:.6f}"]
        subprocess.run([*ghost, f"-sOutputFile={tmp_path / 'g.tif'}", out], check=True)
        page = np.asarray(Image.open(tmp_path / "g.tif")).astype(float)
        shown = page[: promise.px_h, : promise.px_w]
        assert np.abs(shown[..., :3] - (255 - wanted)).mean() < 6 and shown[..., 3].max() < 24
        # And as pdfium shows them: the same picture, not its negative.
        with pypdfium2.PdfDocument(out) as pdf:
            seen = np.asarray(pdf[0].render(scale=scale).to_pil().convert("RGB"), float)
        assert np.abs(seen[: promise.px_h, : promise.px_w] - wanted).mean() < 30

    def test_uses_that_need_the_same_pixels_share_them(self, make_picture, out):
        path = make_picture("dense.png", 600, 400)
        parts = [
            part(path, Box(0, y, width, width * 2 / 3))
            for y, width in [(0, 144), (100, 144), (200, 72)]
        ]
        write_pdf([plan(*parts)], "t", out, treatment=by(self.TRIM))
        with pikepdf.open(out) as pdf:
            images = [x.objgen for x in pdf.pages[0].Resources.XObject.values()]
        assert len(images) == 3 and len(set(images)) == 2

    def test_turned_originals_keep_their_proportion(self, tmp_path, out):
        path = tmp_path / "turned.jpg"
        exif = Image.Exif()
        exif[274] = 6
        Image.fromarray(photo(600, 400)).save(path, exif=exif)
        [promise] = write_pdf(
            [plan(part(path, Box(0, 0, 96, 144)))], "t", out, treatment=by(self.TRIM)
        )
        # Stored lying on its side: 400 upright px across become 200.
        assert (promise.px_w, promise.px_h) == (300, 200)
        assert promise.density.x == pytest.approx(150)

    def test_light_weighs_less_than_trimmed_than_kept(self, make_picture, tmp_path):
        path = make_picture("dense.png", 1200, 800)
        sizes = []
        for name, settings in [
            ("kept", PdfSettings()),
            ("trimmed", self.TRIM),
            ("light", PdfSettings(mode=PictureMode.LIGHT, to_ppi=72, quality=60)),
        ]:
            write_pdf(
                [plan(part(path, Box(0, 0, 144, 96)))], "t", tmp_path / name, treatment=by(settings)
            )
            sizes.append((tmp_path / name).stat().st_size)
        assert sizes == sorted(sizes, reverse=True)
        assert sizes[2] < sizes[1] / 2 < sizes[0] / 10

    def test_the_same_input_gives_the_same_bytes(self, make_picture, tmp_path):
        path = make_picture("dense.png", 600, 400)
        made = []
        for name in ("one.pdf", "two.pdf"):
            write_pdf(
                [plan(part(path, Box(0, 0, 144, 96)))],
                "t",
                tmp_path / name,
                treatment=by(self.TRIM),
            )
            made.append((tmp_path / name).read_bytes())
        assert made[0] == made[1]


def poppler_list(path):
    """The rows of `pdfimages -list`, by their heads."""
    lines = subprocess.run(
        ["pdfimages", "-list", path], capture_output=True, text=True, check=True
    ).stdout.splitlines()
    heads = lines[0].split()
    return [dict(zip(heads, line.split(), strict=False)) for line in lines[2:]]


class TestPlaces:
    def test_density_boxes_and_structure(self, make_picture, out):
        turned = part(make_picture("a.jpg"), rotation_deg=33)
        uneven = part(make_picture("b.png"), content=Content(0.3, 0.5, -10, -20))
        promises = write_pdf([plan(turned, uneven), plan(turned, number=2)], "Quay", out)
        painted = agrees_with_poppler(out)
        for promise, image in zip(promises, painted, strict=True):
            assert image.density.x == pytest.approx(promise.density.x, rel=1e-6)
            assert image.density.y == pytest.approx(promise.density.y, rel=1e-6)
        found = read_back(out)
        assert [page.trim_size_pt for page in found.pages] == [(300, 400), (300, 400)]
        boxes = subprocess.run(["pdfinfo", "-box", out], capture_output=True, text=True).stdout
        assert "TrimBox:             9.00     9.00   309.00   409.00" in boxes
        assert subprocess.run(["qpdf", "--check", out], capture_output=True).returncode == 0

    def test_a_picture_used_twice_is_held_once(self, make_picture, out):
        one = part(make_picture())
        write_pdf([plan(one), plan(one, number=2)], "t", out)
        with pikepdf.open(out) as pdf:
            held = [x for x in pdf.objects if getattr(x, "Subtype", None) == "/Image"]
        assert len(held) == 1

    def test_the_matrix_on_the_page_is_the_placements(self, make_picture, out):
        one = part(make_picture(), rotation_deg=-12)
        write_pdf([plan(one)], "t", out)
        [image] = painted_images(out)[1]
        # PDF measures upwards from the bleed's lower left corner.
        for (x, y), (u, v) in (((0, 1), (0, 0)), ((1, 0), (1, 1))):
            on_page = one.placement.matrix.applied(u, v)
            in_pdf = image.matrix.applied(x, y)
            assert in_pdf == pytest.approx((on_page[0] + 9, 400 + 9 - on_page[1]), abs=0.01)

    def test_what_lies_outside_the_frame_is_not_seen(self, tmp_path, out):
        path = tmp_path / "red.png"
        Image.fromarray(np.full((50, 50, 3), (255, 0, 0), "uint8")).save(path)
        large = part(path, Box(100, 100, 50, 50), content=Content(10, 10, -200, -200))
        write_pdf([plan(large, bleed_pt=0)], "t", out)
        with pypdfium2.PdfDocument(out) as pdf:
            shown = np.asarray(pdf[0].render(scale=1).to_pil())
        red = (shown == (255, 0, 0)).all(axis=2)
        assert red[102:148, 102:148].all()
        assert not red[:98].any() and not red[:, 153:].any()


CREST = """<svg xmlns="http://www.w3.org/2000/svg" width="80" height="40" viewBox="0 0 80 40">
<rect width="80" height="40" fill="#0b5f6b"/><circle cx="20" cy="20" r="10" fill="#ff0000"/>
</svg>"""


class TestVectorAndText:
    def test_svg_stays_vector(self, tmp_path, out):
        path = tmp_path / "crest.svg"
        path.write_text(CREST)
        one = part(path, Box(50, 100, 160, 80), fit=Fit.STRETCH)
        [promise] = write_pdf([plan(one, bleed_pt=0)], "t", out)
        assert (promise.how, promise.density) == ("vector, unchanged", None)
        assert painted_images(out)[1] == []
        with pypdfium2.PdfDocument(out) as pdf:
            shown = np.asarray(pdf[0].render(scale=1).to_pil())
        assert tuple(shown[140, 90]) == (255, 0, 0)
        assert tuple(shown[110, 190]) == (11, 95, 107)
        assert tuple(shown[95, 90]) == (255, 255, 255)

    def test_text_stays_text_in_an_embedded_font(self, out):
        words = TextPart(Box(30, 30, 200, 60), 0, "Boats leave — at ten", TextStyle())
        write_pdf([plan(words), plan(words, number=2)], "t", out)
        text = subprocess.run(["pdftotext", out, "-"], capture_output=True, text=True).stdout
        assert text.count("Boats leave — at ten") == 2
        fonts = subprocess.run(["pdffonts", out], capture_output=True, text=True).stdout
        rows = fonts.splitlines()[2:]
        assert len(rows) == 1 and "SourceSerif4" in rows[0] and " yes yes yes " in rows[0]

    def test_rectangles(self, out):
        box = RectanglePart(
            frame=Box(100, 100, 50, 50),
            rotation_deg=0,
            fill="#0b6f78",
            stroke="#7a1f3d",
            stroke_pt=4,
        )
        write_pdf([plan(box, bleed_pt=0)], "t", out)
        with pypdfium2.PdfDocument(out) as pdf:
            shown = np.asarray(pdf[0].render(scale=1).to_pil())
        assert tuple(shown[125, 125]) == (11, 111, 120)
        assert tuple(shown[125, 100]) == (122, 31, 61)

    def test_lines_break_within_their_frame(self):
        style = TextStyle(align="right")
        lines = lines_of("one two three four five six\nseven", style, 60)
        assert " ".join(line.text for line in lines) == "one two three four five six seven"
        assert all(width_of(line.text, style) <= 60 for line in lines)
        assert all(line.x_pt + width_of(line.text, style) == pytest.approx(60) for line in lines)

    def test_a_missing_picture_leaves_a_mark_and_is_promised_as_missing(self, make_picture, out):
        one = part(make_picture())
        gone = PicturePart(
            item_id=1,
            name=one.name,
            sha256=one.sha256,
            path=None,
            facts=one.facts,
            placement=one.placement,
        )
        [promise] = write_pdf([plan(gone)], "t", out)
        assert promise.how.startswith("missing") and painted_images(out)[1] == []


class TestPageImage:
    def test_pixels_and_density_tag(self, make_picture, tmp_path):
        path = tmp_path / "page.png"
        write_page_image(plan(part(make_picture())), ImageSettings(density_ppi=150), path)
        found = read_back_image(path)
        assert (found.px_w, found.px_h) == (625, 833)
        # PNG counts whole pixels per metre
        assert found.density_x == pytest.approx(150, abs=0.02)

    def test_dense_pictures_are_resampled_like_pillow_does(self, tmp_path):
        # Lanczos against Lanczos: libvips and Pillow differ by rounding and edges only.
        path = tmp_path / "dense.png"
        Image.fromarray(photo(1200, 800)).save(path)
        one = part(path, Box(0, 0, 300, 200), fit=Fit.STRETCH)
        write_page_image(
            PagePlan(number=1, width_pt=300, height_pt=200, bleed_pt=0, parts=(one,)),
            ImageSettings(density_ppi=72),
            tmp_path / "page.png",
        )
        with Image.open(path) as image:
            wanted = np.asarray(image.resize((300, 200), Image.Resampling.LANCZOS), float)
        got = np.asarray(Image.open(tmp_path / "page.png"), float)
        assert np.abs(got - wanted)[4:-4, 4:-4].mean() < 2.0

    def test_a_tilted_one_bit_picture_is_drawn_in_greys(self, make_picture, tmp_path):
        path = make_picture("chart.png", 1200, 800, mode="1")
        write_page_image(
            plan(part(path, rotation_deg=5)), ImageSettings(density_ppi=100), tmp_path / "page.png"
        )
        values = np.unique(np.asarray(Image.open(tmp_path / "page.png")))
        assert len(values) > 20


class TestFramesAndLinks:
    def test_a_text_frame_leads_somewhere(self, tmp_path):
        style = TextStyle(link="https://tarnholm.example/boats")
        text = TextPart(Box(20, 30, 100, 40), 0.0, "Boats", style)
        write_pdf(
            [PagePlan(number=1, width_pt=200, height_pt=300, bleed_pt=9, parts=(text,))],
            "t",
            tmp_path / "a.pdf",
        )
        with pikepdf.open(tmp_path / "a.pdf") as pdf:
            (link,) = pdf.pages[0].Annots
            assert str(link.A.URI) == "https://tarnholm.example/boats"
            # bleed 9: y grows upwards from the media box's foot
            assert [float(side) for side in link.Rect] == pytest.approx([29, 239, 129, 279])

    @pytest.mark.parametrize("shape, share", [("rectangle", 1.0), ("ellipse", np.pi / 4)])
    def test_a_frames_shape_clips_its_picture(self, tmp_path, shape, share):
        Image.new("RGB", (100, 100), "black").save(tmp_path / "a.png")
        facts = facts_of(tmp_path / "a.png")
        placement = Placement(
            source=Source(px_w=100, px_h=100),
            frame=Box(20, 20, 160, 160),
            content=Content(1.6, 1.6),
            rotation_deg=30.0,
            shape=Shape(shape),
        )
        part = PicturePart(
            item_id=1,
            name="a.png",
            sha256=sha256_of(tmp_path / "a.png"),
            path=tmp_path / "a.png",
            facts=facts,
            placement=placement,
        )
        write_pdf(
            [PagePlan(number=1, width_pt=200, height_pt=200, bleed_pt=0, parts=(part,))],
            "t",
            tmp_path / "a.pdf",
        )
        with pypdfium2.PdfDocument(tmp_path / "a.pdf") as pdf:
            pixels = pdf[0].render(scale=2).to_numpy()[..., 0]
        # arithmetic: an ellipse covers π/4 of its box
        assert (pixels < 128).mean() == pytest.approx(share * 160 * 160 / 200**2, rel=0.02)

    def test_a_line_is_a_stroke(self, tmp_path):
        line = LinePart(Box(20, 90, 160, 20), 90.0, "#000000", 4.0)
        write_pdf(
            [PagePlan(number=1, width_pt=200, height_pt=200, bleed_pt=0, parts=(line,))],
            "t",
            tmp_path / "a.pdf",
        )
        with pypdfium2.PdfDocument(tmp_path / "a.pdf") as pdf:
            pixels = pdf[0].render(scale=1).to_numpy()[..., 0]
        assert pixels[100, 100] == 0 and pixels[100, 30] == 255 and pixels[25, 100] == 0
