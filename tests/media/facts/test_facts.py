"""Facts from headers, against files that other libraries wrote and what those say of them."""

import io
import re
import struct
import subprocess
import tracemalloc
import zlib

import numpy as np
import pytest
import tifffile
from PIL import Image, ImageCms
from skimage import data as bundled

from harnet.core.pictures.picture import Colour, DensityUnit, Kind
from harnet.media.facts.read import facts_of
from harnet.media.pixels.colour import GENERIC_CMYK, read_profile
from tests.support.pictures import photo

SRGB = ImageCms.ImageCmsProfile(ImageCms.createProfile("sRGB"))


def saved(tmp_path, name, mode="RGB", size=(300, 200), **options):
    path = tmp_path / name
    image = Image.fromarray(photo(*size)).convert(mode)
    if mode in ("RGBA", "LA"):
        # An alpha that is opaque throughout is left out by some writers.
        image.putalpha(Image.fromarray(photo(*size, channels=1)))
    image.save(path, **options)
    return path


class TestAgainstPillow:
    """Pillow reads the same header by itself; the two must agree."""

    @pytest.mark.parametrize(
        "name, mode, colour, channels",
        [
            ("a.jpg", "RGB", Colour.RGB, 3),
            ("a.jpg", "L", Colour.GREY, 1),
            ("a.jpg", "CMYK", Colour.CMYK, 4),
            ("a.png", "RGB", Colour.RGB, 3),
            ("a.png", "RGBA", Colour.RGB, 4),
            ("a.png", "L", Colour.GREY, 1),
            ("a.png", "LA", Colour.GREY, 2),
            ("a.png", "P", Colour.PALETTE, 1),
            ("a.png", "1", Colour.BILEVEL, 1),
            ("a.tif", "RGB", Colour.RGB, 3),
            ("a.tif", "RGBA", Colour.RGB, 4),
            ("a.tif", "L", Colour.GREY, 1),
            ("a.tif", "CMYK", Colour.CMYK, 4),
            ("a.tif", "LAB", Colour.LAB, 3),
            ("a.tif", "P", Colour.PALETTE, 1),
            ("a.tif", "1", Colour.BILEVEL, 1),
            ("a.gif", "P", Colour.PALETTE, 1),
            ("a.bmp", "RGB", Colour.RGB, 3),
            ("a.bmp", "P", Colour.PALETTE, 1),
            ("a.bmp", "1", Colour.BILEVEL, 1),
            ("a.webp", "RGB", Colour.RGB, 3),
            ("a.webp", "RGBA", Colour.RGB, 4),
            ("a.avif", "RGB", Colour.RGB, 3),
        ],
    )
    def test_size_colour_and_channels(self, tmp_path, name, mode, colour, channels):
        if mode == "LAB":
            path = tmp_path / name
            Image.frombytes("LAB", (300, 200), photo().tobytes()).save(path)
        else:
            path = saved(tmp_path, name, mode)
        facts = facts_of(path)
        with Image.open(path) as image:
            assert (facts.px_w, facts.px_h) == image.size == (300, 200)
            assert facts.format == image.format.lower()
        assert (facts.kind, facts.colour, facts.channels) == (Kind.RASTER, colour, channels)
        # Of a palette the bits of an index: Pillow's table for this GIF has 128 colours.
        assert facts.bits == (1 if mode == "1" else 7 if name == "a.gif" else 8)
        assert facts.alpha == (mode in ("RGBA", "LA"))
        assert facts.size_bytes == path.stat().st_size
        assert facts.unpacked_bytes == (38 * 200 if mode == "1" else 300 * 200 * channels)

    @pytest.mark.parametrize("name", ["a.jpg", "a.png", "a.tif", "a.bmp"])
    @pytest.mark.parametrize("ppi", [72, 150, 300, 1200])
    def test_density_tag(self, tmp_path, name, ppi):
        path = saved(tmp_path, name, dpi=(ppi, ppi))
        facts = facts_of(path)
        with Image.open(path) as image:
            assert facts.density_x == pytest.approx(float(image.info["dpi"][0]), abs=0.01)
        assert facts.density_x == pytest.approx(ppi, abs=0.02)

    @pytest.mark.parametrize("name", ["a.png", "a.gif", "a.webp", "a.avif", "a.jpg"])
    def test_without_a_tag_there_is_none(self, tmp_path, name):
        facts = facts_of(saved(tmp_path, name))
        assert (facts.density_x, facts.density_y) == (None, None)

    @pytest.mark.parametrize("orientation", range(1, 9))
    @pytest.mark.parametrize("name", ["a.jpg", "a.tif", "a.png", "a.webp"])
    def test_orientation(self, tmp_path, name, orientation):
        exif = Image.Exif()
        exif[274] = orientation
        path = saved(tmp_path, name, exif=exif, dpi=(300, 150))
        facts = facts_of(path)
        upright = (300, 200) if orientation < 5 else (200, 300)
        assert (facts.px_w, facts.px_h) == upright
        if name == "a.tif":
            tags = (facts.density_x, facts.density_y)
            assert tags == ((300, 150) if orientation < 5 else (150, 300))

    def test_profile_name(self, tmp_path):
        for name in ("a.jpg", "a.png", "a.tif", "a.webp"):
            facts = facts_of(saved(tmp_path, name, icc_profile=SRGB.tobytes()))
            assert facts.icc == ImageCms.getProfileDescription(SRGB).strip(), name
        assert facts_of(saved(tmp_path, "plain.jpg")).icc is None

    @pytest.mark.parametrize("quality", [30, 50, 75, 90, 95])
    def test_jpeg_quality_is_estimated(self, tmp_path, quality):
        facts = facts_of(saved(tmp_path, "a.jpg", quality=quality))
        assert facts.jpeg_quality == pytest.approx(quality, abs=2)

    @pytest.mark.parametrize(
        "stated, frames", [(0, 1), (1, 1), (3, 3), (900, 1), (2**31, 1), (2**32 - 1, 1)]
    )
    def test_a_number_of_frames_that_no_png_can_have_counts_as_one(self, tmp_path, stated, frames):
        path = tmp_path / "a.png"
        Image.fromarray(photo(8, 6)).save(path)
        body = b"acTL" + struct.pack(">II", stated, 0)
        chunk = struct.pack(">I", 8) + body + struct.pack(">I", zlib.crc32(body))
        data = path.read_bytes()
        path.write_bytes(data[:33] + chunk + data[33:])
        assert facts_of(path).frames == frames

    def test_frames(self, tmp_path):
        pages = [Image.fromarray(photo(40, 30, seed=seed)) for seed in range(3)]
        for name in ("a.tif", "a.gif", "a.webp", "a.png"):
            path = tmp_path / name
            pages[0].save(path, save_all=True, append_images=pages[1:])
            with Image.open(path) as image:
                assert facts_of(path).frames == image.n_frames == 3, name

    def test_gif_with_a_see_through_colour(self, tmp_path):
        image = Image.fromarray(photo(40, 30)).convert("P")
        image.save(tmp_path / "a.gif", transparency=image.getpixel((5, 5)))
        assert facts_of(tmp_path / "a.gif").alpha

    def test_lossless_and_lossy_webp(self, tmp_path):
        assert not facts_of(saved(tmp_path, "a.webp", lossless=True)).lossy
        assert facts_of(saved(tmp_path, "b.webp")).lossy

    def test_jpeg_inside_a_tiff_is_lossy(self, tmp_path):
        facts = facts_of(saved(tmp_path, "a.tif", compression="jpeg"))
        assert (facts.lossy, facts.compression) == (True, "JPEG")
        assert not facts_of(saved(tmp_path, "b.tif", compression="tiff_lzw")).lossy

    @pytest.mark.parametrize("name", ["astronaut", "coffee", "camera"])
    def test_bundled_photographs(self, tmp_path, name):
        # scikit-image's bundled photographs (public domain or CC0)
        pixels = getattr(bundled, name)()
        Image.fromarray(pixels).save(tmp_path / "p.jpg", quality=90)
        facts = facts_of(tmp_path / "p.jpg")
        assert (facts.px_h, facts.px_w) == pixels.shape[:2]


class TestAgainstTifffile:
    @pytest.mark.parametrize("byteorder", ["<", ">"])
    @pytest.mark.parametrize("is_big", [False, True])
    @pytest.mark.parametrize("dtype, bits", [("uint8", 8), ("uint16", 16)])
    def test_depth_order_and_size_of_offsets(self, tmp_path, byteorder, is_big, dtype, bits):
        path = tmp_path / "a.tif"
        pixels = photo().astype(dtype)
        tifffile.imwrite(
            path,
            pixels,
            byteorder=byteorder,
            bigtiff=is_big,
            photometric="rgb",
            resolution=(118.11, 59.055),
            resolutionunit="CENTIMETER",
        )
        facts = facts_of(path)
        assert (facts.bits, facts.colour, facts.channels) == (bits, Colour.RGB, 3)
        # TIFF 6.0, ResolutionUnit 3: per centimetre
        assert facts.density_x == pytest.approx(300, abs=0.01)
        assert facts.density_y == pytest.approx(150, abs=0.01)
        assert facts.unpacked_bytes == 300 * 200 * 3 * bits // 8

    def test_no_unit_is_no_density(self, tmp_path):
        # TIFF 6.0, ResolutionUnit 1: no absolute unit
        tifffile.imwrite(tmp_path / "a.tif", photo(), resolution=(300, 300), resolutionunit="NONE")
        assert facts_of(tmp_path / "a.tif").density_x is None


def jfif(unit, x, y):
    segment = b"JFIF\0\1\2" + struct.pack(">BHH", unit, x, y) + b"\0\0"
    out = io.BytesIO()
    Image.fromarray(photo(40, 30)).save(out, "JPEG")
    plain = out.getvalue()
    first = 2 + 2 + struct.unpack(">H", plain[4:6])[0]
    return b"\xff\xd8\xff\xe0" + struct.pack(">H", len(segment) + 2) + segment + plain[first:]


class TestUnitsInHeaders:
    @pytest.mark.parametrize(
        "unit, x, y, expected",
        [
            # JFIF, ISO/IEC 10918-5: 0 aspect only, 1 per inch, 2 per centimetre
            (0, 300, 300, (None, None)),
            (1, 300, 150, (300, 150)),
            (2, 118, 118, (299.72, 299.72)),
            (1, 0, 0, (None, None)),
        ],
    )
    def test_jfif(self, tmp_path, unit, x, y, expected):
        path = tmp_path / "a.jpg"
        path.write_bytes(jfif(unit, x, y))
        facts = facts_of(path)
        assert (facts.density_x, facts.density_y) == pytest.approx(expected)

    def test_exif_density_counts_where_jfif_has_none(self, tmp_path):
        exif = Image.Exif()
        exif[282], exif[283], exif[296] = 240.0, 240.0, 2
        out = io.BytesIO()
        Image.fromarray(photo(40, 30)).save(out, "JPEG", exif=exif)
        (tmp_path / "a.jpg").write_bytes(out.getvalue())
        assert facts_of(tmp_path / "a.jpg").density_x == 240

    @pytest.mark.parametrize("unit, expected", [(1, 299.9994), (0, None)])
    def test_png_per_metre_or_only_a_ratio(self, tmp_path, unit, expected):
        # PNG, ISO/IEC 15948, pHYs
        body = struct.pack(">IIB", 11811, 11811, unit)
        chunk = (
            struct.pack(">I", 9) + b"pHYs" + body + struct.pack(">I", zlib.crc32(b"pHYs" + body))
        )
        out = io.BytesIO()
        Image.fromarray(photo(40, 30)).save(out, "PNG")
        plain = out.getvalue()
        (tmp_path / "a.png").write_bytes(plain[:33] + chunk + plain[33:])
        density = facts_of(tmp_path / "a.png").density_x
        assert density == (None if expected is None else pytest.approx(expected))

    def test_16_bit_png(self, tmp_path):
        Image.fromarray(photo(40, 30, 1).astype("uint16") * 257).save(tmp_path / "a.png")
        facts = facts_of(tmp_path / "a.png")
        assert (facts.bits, facts.colour, facts.unpacked_bytes) == (16, Colour.GREY, 2400)

    def test_progressive_jpeg(self, tmp_path):
        facts = facts_of(saved(tmp_path, "a.jpg", progressive=True))
        assert (facts.px_w, facts.px_h) == (300, 200)

    def test_the_content_decides_not_the_name(self, tmp_path):
        path = saved(tmp_path, "a.png")
        path.rename(tmp_path / "a.jpg")
        assert facts_of(tmp_path / "a.jpg").format == "png"


class TestSvg:
    @pytest.mark.parametrize(
        "attributes, expected",
        [
            ('width="40mm" height="20mm"', (113.39, 56.69)),
            ('width="96" height="48"', (72, 36)),
            ('width="2in" viewBox="0 0 10 5"', (144, 72)),
            ('viewBox="0 0 96 192"', (72, 144)),
            ('width="100%" height="100%" viewBox="0 0 96 96"', (72, 72)),
            ("", (225, 112.5)),
        ],
    )
    def test_natural_size(self, tmp_path, attributes, expected):
        path = tmp_path / "a.svg"
        path.write_text(
            f'<svg xmlns="http://www.w3.org/2000/svg" {attributes}><path d="M0 0"/></svg>'
        )
        facts = facts_of(path)
        assert (facts.width_pt, facts.height_pt) == pytest.approx(expected, abs=0.01)
        assert (facts.kind, facts.colour, facts.px_w) == (Kind.VECTOR, Colour.VECTOR, None)

    def test_references_inside_the_file_are_fine(self, tmp_path):
        path = tmp_path / "a.svg"
        path.write_text(
            '<svg xmlns="http://www.w3.org/2000/svg" xmlns:xlink="http://www.w3.org/1999/xlink">'
            '<linearGradient id="g"/><rect fill="url(#g)"/><rect style="fill:url( \'#g\' )"/>'
            '<use xlink:href="#g"/></svg>'
        )
        assert facts_of(path).format == "svg"


def test_a_header_of_200_megapixels_is_read_without_its_pixels(tmp_path):
    path = tmp_path / "huge.tif"
    tifffile.memmap(path, shape=(10_000, 20_000), dtype="uint8", photometric="minisblack")
    tracemalloc.start()
    facts = facts_of(path)
    peak = tracemalloc.get_traced_memory()[1]
    tracemalloc.stop()
    assert facts.megapixels == 200
    assert np.isclose(facts.unpacked_bytes, 2e8)
    assert peak < 5_000_000


class TestAgainstTiffinfo:
    """libtiff's own tool says the same of files that other libraries wrote."""

    def said(self, path):
        run = subprocess.run(["tiffinfo", path], capture_output=True, text=True, check=True)
        return run.stdout

    @pytest.mark.parametrize("orientation", range(1, 9))
    def test_orientation_and_density_per_axis(self, tmp_path, orientation):
        path = tmp_path / "a.tif"
        tags = [(274, "H", 1, orientation, True)]
        tifffile.imwrite(
            path,
            photo(),
            photometric="rgb",
            resolution=(300, 150),
            resolutionunit="INCH",
            extratags=tags,
        )
        said, facts = self.said(path), facts_of(path)
        assert "Resolution: 300, 150 pixels/inch" in said
        # TIFF 6.0, Orientation: where the 0th row and the 0th column are
        rows = ["top", "top", "bottom", "bottom", "lhs", "rhs", "rhs", "lhs"]
        assert f"Orientation: row 0 {rows[orientation - 1]}" in said
        assert facts.orientation == orientation
        lies = orientation > 4
        assert (facts.px_w, facts.px_h) == ((200, 300) if lies else (300, 200))
        assert (facts.density_x, facts.density_y) == ((150, 300) if lies else (300, 150))

    @pytest.mark.parametrize(
        "mode, bits, samples, photometric",
        [
            ("1", 1, 1, "min-is-black"),
            ("L", 8, 1, "min-is-black"),
            ("I;16", 16, 1, "min-is-black"),
            ("P", 8, 1, "palette color"),
            ("RGB", 8, 3, "RGB color"),
            ("RGBA", 8, 4, "RGB color"),
            ("CMYK", 8, 4, "separated"),
        ],
    )
    def test_colour_and_depth(self, tmp_path, mode, bits, samples, photometric):
        path = tmp_path / "a.tif"
        if mode == "I;16":
            Image.fromarray(photo(300, 200, 1).astype("uint16") * 257).save(path)
        else:
            saved(tmp_path, "a.tif", mode)
        said, facts = self.said(path), facts_of(path)
        assert photometric in said
        # What is left out of the file, and so of what is said, counts as 1.
        assert f"Bits/Sample: {bits}" in said or bits == 1
        assert f"Samples/Pixel: {samples}" in said or samples == 1
        assert (facts.bits, facts.channels) == (bits, samples)

    def test_pages(self, tmp_path):
        pages = [Image.fromarray(photo(40, 30, seed=seed)) for seed in range(4)]
        pages[0].save(tmp_path / "a.tif", save_all=True, append_images=pages[1:])
        said = self.said(tmp_path / "a.tif")
        assert (
            len(re.findall("TIFF Directory at", said)) == facts_of(tmp_path / "a.tif").frames == 4
        )

    def test_cmyk_with_and_without_a_profile(self, tmp_path):
        profile = GENERIC_CMYK.read_bytes()
        with_profile = saved(tmp_path, "a.tif", "CMYK", icc_profile=profile)
        assert f"ICC Profile: <present>, {len(profile)} bytes" in self.said(with_profile)
        assert facts_of(with_profile).icc == read_profile(profile, "generic").name
        without = saved(tmp_path, "b.tif", "CMYK")
        assert "ICC Profile" not in self.said(without) and facts_of(without).icc is None


class TestTransparencyOfGifs:
    def test_frames_that_are_painted_over_make_nothing_transparent(self, tmp_path):
        """A first frame that covers all, then one that leaves out what did not change."""
        path = tmp_path / "moving.gif"
        first, second = Image.new("RGB", (40, 30), "red"), Image.new("RGB", (40, 30), "red")
        second.paste("green", (5, 5, 15, 15))
        first.save(path, save_all=True, append_images=[second], duration=100)
        data = bytearray(path.read_bytes())
        blocks = [at for at in range(len(data)) if data[at : at + 3] == b"\x21\xf9\x04"]
        data[blocks[-1] + 3] |= 1
        path.write_bytes(data)
        facts = facts_of(path)
        assert (facts.frames, facts.alpha) == (2, False)
        with Image.open(path) as image:
            # Pillow on the picture that is printed, the first frame
            assert image.convert("RGBA").getextrema()[3] == (255, 255)

    def test_a_first_frame_that_is_transparent_is(self, tmp_path):
        path = tmp_path / "clear.gif"
        Image.new("P", (40, 30), 1).save(path, transparency=1)
        assert facts_of(path).alpha


class TestDensityUnits:
    """The tag as the file has it: whole pixels per metre, centimetre or inch."""

    @pytest.mark.parametrize(
        "name, options, unit, written",
        [
            ("a.png", {"dpi": (300, 300)}, DensityUnit.METRE, 11_811),
            ("a.jpg", {"dpi": (300, 300)}, DensityUnit.INCH, 300),
            ("a.tif", {"dpi": (300, 300)}, DensityUnit.INCH, 300),
            ("a.tif", {"resolution_unit": 3, "resolution": 118}, DensityUnit.CENTIMETRE, 118),
            ("a.bmp", {"dpi": (96, 96)}, DensityUnit.METRE, 3780),
        ],
    )
    def test_as_written(self, tmp_path, name, options, unit, written):
        found = facts_of(saved(tmp_path, name, **options))
        assert found.density_unit is unit
        assert found.density_x / unit.per_inch == pytest.approx(written, abs=0.5)

    def test_jfif_counts_by_the_centimetre(self, tmp_path):
        path = saved(tmp_path, "a.jpg", dpi=(118, 118))
        data = bytearray(path.read_bytes())
        # JFIF: the unit stands 7 bytes behind its name
        data[data.index(b"JFIF\0") + 7] = 2
        path.write_bytes(data)
        found = facts_of(path)
        assert found.density_unit is DensityUnit.CENTIMETRE
        assert found.density_x == pytest.approx(118 * 2.54)

    def test_without_a_tag_there_is_no_unit(self, tmp_path):
        assert facts_of(saved(tmp_path, "a.gif", "P")).density_unit is None
        assert facts_of(saved(tmp_path, "a.png")).density_unit is None


class TestPalettes:
    @pytest.mark.parametrize(
        "name, colours, bits",
        [
            *(("a.png", colours, bits) for colours, bits in ((2, 1), (4, 2), (16, 4), (200, 8))),
            # Pillow's smallest table of a GIF has four colours.
            *(("a.gif", colours, bits) for colours, bits in ((2, 2), (4, 2), (16, 4), (200, 8))),
        ],
    )
    def test_their_bits_are_those_of_an_index(self, tmp_path, name, colours, bits):
        """Pillow writes no more bits than the colours need."""
        grey = np.arange(300 * 200).reshape(200, 300) % colours
        image = Image.fromarray(grey.astype("uint8"), "P")
        image.putpalette([value for index in range(colours) for value in (index, 0, 255 - index)])
        image.save(tmp_path / name, **({"bits": bits} if name == "a.png" else {}))
        found = facts_of(tmp_path / name)
        assert (found.colour, found.bits) == (Colour.PALETTE, bits)


def test_unpacked_1_bit_pixels_stand_eight_to_a_byte(tmp_path):
    # 301 pixels a row are 38 bytes
    found = facts_of(saved(tmp_path, "a.png", "1", size=(301, 200)))
    assert (found.bits, found.unpacked_bytes) == (1, 38 * 200)
