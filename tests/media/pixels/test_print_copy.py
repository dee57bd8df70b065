"""Copies against other libraries: Pillow's resampling and colour management, libtiff's tiffinfo."""

import re
import subprocess
from dataclasses import replace
from pathlib import Path

import numpy as np
import pytest
import pyvips
import tifffile
from PIL import Image, ImageCms
from skimage import data as bundled

from harnet.core.copies.recipe import (
    Compression,
    CopyColour,
    CopyFormat,
    Kernel,
    Padding,
    PadEdges,
    PixelBox,
    Recipe,
    bits_of_copy,
    channels_of_copy,
    checked,
    plain_copy,
)
from harnet.core.errors import ValueOutOfRange
from harnet.media.bounded import work_apart
from harnet.media.errors import UnreadableFile
from harnet.media.facts.read import facts_of
from harnet.media.pixels.colour import GENERIC_CMYK, read_profile
from harnet.media.pixels.print_copy import copy_image, save_copy
from harnet.studio.copies.copies import order_of
from tests.support.pictures import photo


def whole(**others):
    """A copy of all of a picture of 60 × 40 px, pixel for pixel."""
    return Recipe(
        crop=PixelBox(0, 0, 60, 40), px_w=60, px_h=40, density_x=300, density_y=300, **others
    )


def copied(path: Path, recipe: Recipe, target: Path, profile: Path | None = None) -> np.ndarray:
    """The copy's pixels as Pillow reads them back."""
    facts = facts_of(path)
    is_bilevel = bits_of_copy(recipe, facts) == 1
    save_copy(copy_image(path, facts, recipe, profile), recipe, target, is_bilevel)
    with Image.open(target) as image:
        return np.asarray(image)


def off(one: np.ndarray, other: np.ndarray) -> tuple[float, int]:
    """Mean and largest difference of samples."""
    apart = np.abs(one.astype(int) - other.astype(int))
    return float(apart.mean()), int(apart.max())


@pytest.fixture(params=["astronaut", "coffee"])
def photograph(request, tmp_path):
    # scikit-image's bundled photographs (public domain or CC0)
    path = tmp_path / "photograph.png"
    Image.fromarray(getattr(bundled, request.param)()).save(path)
    return path


def resized_by_pillow(path, size, kernel):
    with Image.open(path) as image:
        return np.asarray(image.resize(size, kernel))


class TestResampling:
    @pytest.mark.parametrize("share", [0.8, 0.5, 0.37, 0.1])
    @pytest.mark.parametrize(
        "kernel, pillow",
        [
            (Kernel.LANCZOS3, Image.Resampling.LANCZOS),
            (Kernel.AUTO, Image.Resampling.LANCZOS),
            (Kernel.CUBIC, Image.Resampling.BICUBIC),
            (Kernel.LINEAR, Image.Resampling.BILINEAR),
        ],
    )
    def test_shrinking_agrees_with_pillow(self, photograph, tmp_path, kernel, pillow, share):
        plain = plain_copy(facts_of(photograph), 300)
        width, height = round(plain.px_w * share), round(plain.px_h * share)
        recipe = replace(plain, px_w=width, px_h=height, kernel=kernel, format=CopyFormat.PNG)
        ours = copied(photograph, recipe, tmp_path / "copy.png")
        mean, most = off(ours, resized_by_pillow(photograph, (width, height), pillow))
        # Both weigh in fixed point with other rounding; a level on average is unseen.
        assert mean < (0.5 if share > 0.3 else 0.8) and most <= 24

    @pytest.mark.parametrize("share", [1.01, 1.7, 3])
    @pytest.mark.parametrize(
        "kernel, pillow, allowed",
        [
            (Kernel.LINEAR, Image.Resampling.BILINEAR, 0.4),
            (Kernel.CUBIC, Image.Resampling.BICUBIC, 0.4),
            # keeps edges on purpose, so it is near the plain cubic and not the same
            (Kernel.AUTO, Image.Resampling.BICUBIC, 4),
        ],
    )
    def test_enlarging_agrees_with_pillow(
        self, photograph, tmp_path, kernel, pillow, allowed, share
    ):
        plain = plain_copy(facts_of(photograph), 300)
        width, height = round(plain.px_w * share), round(plain.px_h * share)
        recipe = replace(plain, px_w=width, px_h=height, kernel=kernel, format=CopyFormat.PNG)
        ours = copied(photograph, recipe, tmp_path / "copy.png")
        mean, _ = off(ours, resized_by_pillow(photograph, (width, height), pillow))
        assert mean < allowed

    def test_nearest_only_repeats_pixels(self, tmp_path):
        Image.fromarray(photo(30, 20)).save(tmp_path / "a.png")
        recipe = Recipe(
            crop=PixelBox(0, 0, 30, 20),
            px_w=90,
            px_h=60,
            density_x=300,
            density_y=300,
            kernel=Kernel.NEAREST,
        )
        ours = copied(tmp_path / "a.png", recipe, tmp_path / "copy.tif")
        assert (ours == photo(30, 20).repeat(3, axis=0).repeat(3, axis=1)).all()

    def test_a_crop_that_is_not_resampled_is_exact(self, tmp_path):
        Image.fromarray(photo()).save(tmp_path / "a.png")
        recipe = Recipe(
            crop=PixelBox(20, 30, 100, 80), px_w=100, px_h=80, density_x=300, density_y=300
        )
        ours = copied(tmp_path / "a.png", recipe, tmp_path / "copy.tif")
        assert (ours == photo()[30:110, 20:120]).all()

    def test_the_crop_is_of_the_upright_picture(self, tmp_path):
        exif = Image.Exif()
        exif[274] = 6
        Image.fromarray(photo()).save(tmp_path / "a.tif", exif=exif)
        recipe = Recipe(
            crop=PixelBox(0, 0, 200, 300), px_w=200, px_h=300, density_x=300, density_y=300
        )
        ours = copied(tmp_path / "a.tif", recipe, tmp_path / "copy.tif")
        assert (ours == np.rot90(photo(), -1)).all()

    def test_what_cannot_be_seen_does_not_bleed_into_what_can(self, tmp_path):
        pixels = np.zeros((40, 40, 4), "uint8")
        pixels[..., 0] = 255
        pixels[:, 20:] = (0, 255, 0, 0)
        pixels[:, :20, 3] = 255
        Image.fromarray(pixels).save(tmp_path / "a.png")
        recipe = Recipe(
            crop=PixelBox(0, 0, 40, 40),
            px_w=13,
            px_h=13,
            density_x=300,
            density_y=300,
            format=CopyFormat.PNG,
        )
        ours = copied(tmp_path / "a.png", recipe, tmp_path / "copy.png")
        seen = ours[ours[..., 3] > 40]
        assert seen[..., 0].min() > 250 and seen[..., 1].max() < 5


SOURCES = ["RGB", "L", "1", "P", "CMYK", "RGBA", "LA", "I;16", "LAB"]


@pytest.fixture
def source(request, tmp_path):
    path = tmp_path / "source.tif"
    if request.param == "I;16":
        Image.fromarray(photo(300, 200, 1).astype("uint16") * 257).save(path)
    elif request.param == "LAB":
        Image.frombytes("LAB", (300, 200), photo().tobytes()).save(path)
    else:
        Image.fromarray(photo()).convert(request.param).save(path)
    return path


class TestEveryFileThatIsAllowed:
    @pytest.mark.parametrize("source", SOURCES, indirect=True)
    @pytest.mark.parametrize("colour", list(CopyColour))
    @pytest.mark.parametrize("form", ["tif none", "tif LZW big", "tif Deflate", "png", "jpg"])
    def test_holds_what_the_recipe_says(self, source, colour, form, tmp_path):
        facts = facts_of(source)
        ending, *options = form.split()
        recipe = replace(
            plain_copy(facts, 300),
            px_w=150,
            px_h=100,
            colour=colour,
            format=CopyFormat(ending),
            compression=Compression(options[0]) if options else Compression.DEFLATE,
            is_big_endian="big" in options,
            bits=8 if ending == "jpg" else None,
            flatten="#7a1f3d" if ending == "jpg" or colour is CopyColour.CMYK else None,
            padding=Padding(left=3, top=4, right=5, bottom=6, colour="#0b5f6b"),
        )
        keeps = colour is CopyColour.KEEP
        if ending == "png" and (
            colour is CopyColour.CMYK or (keeps and facts.colour.value in ("cmyk", "lab"))
        ):
            pytest.skip("PNG cannot hold CMYK and no Lab")
        if ending == "jpg" and keeps and facts.colour.value == "lab":
            pytest.skip("JPEG cannot hold Lab")
        copied(source, recipe, tmp_path / f"copy.{ending}")
        found = facts_of(tmp_path / f"copy.{ending}")
        assert (found.px_w, found.px_h) == (158, 110)
        assert found.density_x == pytest.approx(300, abs=0.001)
        assert found.bits == bits_of_copy(recipe, facts)
        assert found.channels == channels_of_copy(recipe, facts)
        assert found.alpha == (facts.alpha and recipe.flatten is None)
        wanted = {CopyColour.CMYK: "cmyk", CopyColour.GREY: "grey", CopyColour.SRGB: "rgb"}
        if not keeps:
            assert found.colour.value == wanted[colour]
        if colour is CopyColour.CMYK:
            assert found.icc == read_profile(GENERIC_CMYK.read_bytes(), "generic").name

    @pytest.mark.parametrize(
        "compression, is_big, scheme, magic",
        [
            (Compression.NONE, False, "None", b"II*\0"),
            (Compression.LZW, False, "LZW", b"II*\0"),
            (Compression.DEFLATE, False, "Deflate", b"II*\0"),
            (Compression.NONE, True, "None", b"MM\0*"),
            (Compression.LZW, True, "LZW", b"MM\0*"),
            (Compression.DEFLATE, True, "Deflate", b"MM\0*"),
        ],
    )
    def test_tiffs_as_libtiff_sees_them(self, tmp_path, compression, is_big, scheme, magic):
        Image.fromarray(photo()).save(tmp_path / "a.png")
        recipe = Recipe(
            crop=PixelBox(0, 0, 300, 200),
            px_w=300,
            px_h=200,
            density_x=240,
            density_y=120,
            compression=compression,
            is_big_endian=is_big,
        )
        ours = copied(tmp_path / "a.png", recipe, tmp_path / "copy.tif")
        assert (ours == photo()).all()
        assert (tmp_path / "copy.tif").read_bytes()[:4] == magic
        said = subprocess.run(
            ["tiffinfo", tmp_path / "copy.tif"], capture_output=True, text=True, check=True
        ).stdout
        assert re.search(rf"Compression Scheme: \w*{scheme}", said)
        assert "Image Width: 300 Image Length: 200" in said
        assert re.search(r"Resolution: 240, 120 pixels/inch", said)

    def test_nothing_else_of_the_original_goes_along(self, tmp_path):
        exif = Image.Exif()
        exif[271], exif[315] = "a camera", "somebody"
        Image.fromarray(photo()).save(tmp_path / "a.jpg", exif=exif)
        recipe = Recipe(
            crop=PixelBox(0, 0, 300, 200),
            px_w=300,
            px_h=200,
            density_x=240,
            density_y=240,
            format=CopyFormat.JPEG,
        )
        copied(tmp_path / "a.jpg", recipe, tmp_path / "copy.jpg")
        with Image.open(tmp_path / "copy.jpg") as image:
            assert 315 not in image.getexif() and 271 not in image.getexif()
            assert image.info["dpi"] == (240, 240)

    def test_the_same_recipe_gives_the_same_bytes(self, photograph, tmp_path):
        for form in CopyFormat:
            recipe = replace(plain_copy(facts_of(photograph), 300), px_w=200, px_h=200, format=form)
            for name in ("one", "two"):
                copied(photograph, recipe, tmp_path / name)
            assert (tmp_path / "one").read_bytes() == (tmp_path / "two").read_bytes()


class TestColour:
    """Against littleCMS as Pillow uses it: relative colorimetric, black point compensation."""

    def transformed(self, path, source, target, mode):
        with Image.open(path) as image:
            return np.asarray(
                ImageCms.profileToProfile(
                    image,
                    source,
                    target,
                    renderingIntent=ImageCms.Intent.RELATIVE_COLORIMETRIC,
                    outputMode=mode,
                    flags=ImageCms.Flags.BLACKPOINTCOMPENSATION,
                )
            )

    def test_to_cmyk(self, photograph, tmp_path):
        recipe = replace(plain_copy(facts_of(photograph), 300), colour=CopyColour.CMYK)
        recipe = replace(recipe, format=CopyFormat.TIFF)
        ours = copied(photograph, recipe, tmp_path / "copy.tif")
        srgb = ImageCms.createProfile("sRGB")
        theirs = self.transformed(photograph, srgb, str(GENERIC_CMYK), "CMYK")
        mean, most = off(ours, theirs)
        # libvips goes by way of 16-bit Lab, Pillow straight: two levels of 255 on average at most
        assert mean < 2 and most <= 16

    def test_to_a_profile_that_was_supplied(self, photograph, tmp_path):
        supplied = tmp_path / "supplied.icc"
        other = pyvips.Image.black(1, 1, bands=3).copy(interpretation="srgb")
        inked = other.icc_transform("cmyk", input_profile="srgb")
        supplied.write_bytes(bytes(inked.get("icc-profile-data")))
        assert supplied.read_bytes() != GENERIC_CMYK.read_bytes()
        recipe = replace(plain_copy(facts_of(photograph), 300), colour=CopyColour.CMYK)
        recipe = replace(recipe, format=CopyFormat.TIFF)
        ours = copied(photograph, recipe, tmp_path / "copy.tif", supplied)
        theirs = self.transformed(photograph, ImageCms.createProfile("sRGB"), str(supplied), "CMYK")
        assert off(ours, theirs)[0] < 2

    def test_from_an_embedded_profile_to_srgb(self, photograph, tmp_path):
        wide = GENERIC_CMYK.with_name("rommrgb.icc")
        with Image.open(photograph) as image:
            image.save(tmp_path / "wide.tif", icc_profile=wide.read_bytes())
        path = tmp_path / "wide.tif"
        recipe = replace(plain_copy(facts_of(path), 300), colour=CopyColour.SRGB)
        ours = copied(path, recipe, tmp_path / "copy.tif")
        theirs = self.transformed(path, str(wide), ImageCms.createProfile("sRGB"), "RGB")
        mean, _ = off(ours, theirs)
        assert mean < 2
        assert off(ours, np.asarray(Image.open(path)))[0] > 3, "it was really converted"

    def test_to_grey_keeps_greys_and_orders_colours_by_their_lightness(self, tmp_path):
        ramp = np.repeat(np.arange(0, 256, 5, dtype="uint8")[None, :, None], 3, axis=2)
        path = tmp_path / "a.png"
        Image.fromarray(np.repeat(ramp, 8, axis=0)).save(path)
        recipe = replace(plain_copy(facts_of(path), 300), colour=CopyColour.GREY)
        ours = copied(path, recipe, tmp_path / "copy.tif")
        assert off(ours, ramp[..., 0])[1] <= 1

    def test_a_profile_must_be_one_for_cmyk(self):
        with pytest.raises(UnreadableFile, match="not an ICC profile"):
            read_profile(b"hello", "notes.icc")
        rgb = GENERIC_CMYK.with_name("default_rgb.icc").read_bytes()
        with pytest.raises(UnreadableFile, match="for RGB, not for CMYK"):
            read_profile(rgb, "screen.icc")
        with pytest.raises(UnreadableFile, match="not an ICC profile"):
            read_profile(GENERIC_CMYK.read_bytes()[:-10], "cut.icc")


class TestPaddingAndFlattening:
    def test_mirrored_edges_are_numpys(self, tmp_path):
        Image.fromarray(photo(60, 40)).save(tmp_path / "a.png")
        padding = Padding(left=10, top=12, right=14, bottom=16, edges=PadEdges.MIRROR)
        recipe = whole(padding=padding)
        ours = copied(tmp_path / "a.png", recipe, tmp_path / "copy.tif")
        wanted = np.pad(photo(60, 40), ((12, 16), (10, 14), (0, 0)), mode="symmetric")
        assert (ours == wanted).all()

    def test_a_colour_around_the_picture(self, tmp_path):
        Image.fromarray(photo(60, 40)).save(tmp_path / "a.png")
        padding = Padding(left=1, top=2, right=3, bottom=4, colour="#0b5f6b")
        recipe = whole(padding=padding)
        ours = copied(tmp_path / "a.png", recipe, tmp_path / "copy.tif")
        assert tuple(ours[0, 0]) == tuple(ours[-1, -1]) == (0x0B, 0x5F, 0x6B)
        assert (ours[2:-4, 1:-3] == photo(60, 40)).all()

    def test_alpha_laid_onto_a_colour(self, tmp_path):
        pixels = np.zeros((10, 10, 4), "uint8")
        pixels[:5] = (255, 255, 255, 255)
        Image.fromarray(pixels).save(tmp_path / "a.png")
        recipe = Recipe(
            crop=PixelBox(0, 0, 10, 10),
            px_w=10,
            px_h=10,
            density_x=300,
            density_y=300,
            flatten="#7a1f3d",
        )
        ours = copied(tmp_path / "a.png", recipe, tmp_path / "copy.tif")
        assert ours.shape == (10, 10, 3)
        assert tuple(ours[9, 9]) == (0x7A, 0x1F, 0x3D) and tuple(ours[0, 0]) == (255, 255, 255)


class TestOneBitArt:
    @pytest.fixture
    def plan(self, tmp_path):
        """A chequered plan of 1 200 px: fields of 60 px, as 1-bit TIFF."""
        y, x = np.mgrid[0:1200, 0:1200]
        path = tmp_path / "plan.tif"
        Image.fromarray(((x // 60 + y // 60) % 2 * 255).astype("uint8")).convert("1").save(path)
        return path

    @pytest.mark.parametrize("form", ["tif", "png"])
    @pytest.mark.parametrize("px", [400, 300, 2400])
    def test_it_stays_1_bit_and_its_edges_where_they_are(self, plan, form, px, tmp_path):
        facts = facts_of(plan)
        recipe = replace(
            plain_copy(facts, 1200),
            px_w=px,
            px_h=px,
            format=CopyFormat(form),
            may_interpolate=True,
        )
        target = tmp_path / f"copy.{form}"
        pixels = copied(plan, recipe, target)
        found = facts_of(target)
        assert (found.colour.value, found.bits) == ("bilevel", 1)
        # Pillow's area average of the same plan, cut at the middle
        grey = Image.open(plan).convert("L").resize((px, px), Image.Resampling.BOX)
        wanted = np.asarray(grey) > 127
        assert (pixels.astype(bool) != wanted).mean() < 0.01

    def test_more_bits_are_made_where_they_are_asked_for(self, plan, tmp_path):
        facts = facts_of(plan)
        recipe = replace(plain_copy(facts, 1200), px_w=400, px_h=400, bits=8)
        copied(plan, recipe, tmp_path / "grey.tif")
        assert facts_of(tmp_path / "grey.tif").colour.value == "grey"

    def test_jpeg_says_why_it_cannot_hold_it(self, plan):
        facts = facts_of(plan)
        with pytest.raises(ValueOutOfRange, match="JPEG cannot hold 1-bit art"):
            checked(replace(plain_copy(facts, 1200), format=CopyFormat.JPEG), facts)


def test_a_full_disk_is_told(tmp_path):
    Image.fromarray(photo()).save(tmp_path / "a.png")
    # A device that answers every write with “no space left”.
    (tmp_path / "copy.tif").symlink_to("/dev/full")
    facts = facts_of(tmp_path / "a.png")
    order = order_of(tmp_path / "a.png", facts, plain_copy(facts, 300), None, "a.png")
    with pytest.raises(UnreadableFile, match=r"a\.png: the disk is too full"):
        work_apart(
            "harnet.media.pixels.print_copy",
            order | {"target": str(tmp_path / "copy.tif")},
            name="a.png",
            seconds=30,
            memory_bytes=4_000_000_000,
        )


def test_a_copy_of_100_megapixels_stays_under_400_mb(tmp_path):
    path = tmp_path / "huge.tif"
    pixels = tifffile.memmap(path, shape=(10_000, 10_000, 3), dtype="uint8", photometric="rgb")
    pixels[::1000] = 200
    pixels.flush()
    facts = facts_of(path)
    recipe = replace(plain_copy(facts, 300), px_w=7_000, px_h=7_000)
    order = order_of(path, facts, recipe, None, "huge.tif") | {"target": str(tmp_path / "copy.tif")}
    told = []
    answer = work_apart(
        "tests.support.endless", order | {"ask": "copy"}, name="huge.tif", seconds=120,
        memory_bytes=12_000_000_000, tell=told.append,
    )  # fmt: skip
    with Image.open(tmp_path / "copy.tif") as image:
        assert image.size == (7_000, 7_000)
    assert told == sorted(told) and told[-1] >= 90, "it said how far it was"
    assert 20_000 < answer["peak_kb"] < 400_000
