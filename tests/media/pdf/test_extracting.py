"""Images of a PDF as files, against `pdfimages -all` (poppler), Pillow and the arrays they hold."""

import base64
import csv
import io
import subprocess
import zlib

import numpy
import pikepdf
import pytest
import pyvips
from PIL import Image, ImageCms, ImageDraw

from harnet.media.errors import UnreadableFile
from harnet.studio.documents.making.extracting import TABLE_NAME, extract_images
from tests.support.pdfs import ByHand
from tests.support.pictures import photo

Name, Array = pikepdf.Name, pikepdf.Array


@pytest.fixture
def by_hand(tmp_path):
    return ByHand(tmp_path / "a.pdf")


def add(made, data, size, name="I", **more):
    """An image with these bytes, drawn 1 inch per 200 pixels across the page."""
    stream = pikepdf.Stream(made.pdf, data)
    stream.Type, stream.Subtype = Name.XObject, Name.Image
    stream.Width, stream.Height = size
    for key, value in more.items():
        stream[f"/{key}"] = value
    made.resources.XObject[f"/{name}"] = made.pdf.make_indirect(stream)
    return stream


def extracted(made, tmp_path, content=None, **options):
    width = int(next(iter(made.resources.XObject.values())).Width) if made.resources.XObject else 1
    made.painted(content or f"{width * 72 / 200} 0 0 100 20 20 cm /I Do".encode())
    folder = tmp_path / "files"
    folder.mkdir()
    return folder, extract_images(made.path, "a.pdf", folder, **options)


def by_poppler(path, tmp_path):
    folder = tmp_path / "poppler"
    folder.mkdir()
    subprocess.run(["pdfimages", "-all", path, folder / "i"], check=True)
    return sorted(folder.iterdir())


def coded(image, form, **options):
    out = io.BytesIO()
    image.save(out, form, **options)
    return out.getvalue()


SIZE = (60, 40)
PHOTO = photo(*SIZE, seed=3)


class TestBytesAsTheyAre:
    @pytest.mark.parametrize("mode", ["L", "RGB", "CMYK"])
    def test_jpeg(self, by_hand, tmp_path, mode):
        data = coded(Image.fromarray(PHOTO).convert(mode), "JPEG", quality=80)
        space = {"L": Name.DeviceGray, "RGB": Name.DeviceRGB, "CMYK": Name.DeviceCMYK}[mode]
        more = {"Decode": Array([1, 0] * 4)} if mode == "CMYK" else {}
        add(
            by_hand, data, SIZE, Filter=Name.DCTDecode, BitsPerComponent=8, ColorSpace=space, **more
        )
        folder, [one] = extracted(by_hand, tmp_path)
        assert one.file == "page 1 image 01.jpg"
        assert (folder / one.file).read_bytes() == data
        assert (folder / one.file).read_bytes() == by_poppler(by_hand.path, tmp_path)[
            0
        ].read_bytes()

    def test_jpeg_within_text(self, by_hand, tmp_path):
        """As reportlab stores a JPEG: its bytes spelt in letters, without parameters."""
        data = coded(Image.fromarray(PHOTO), "JPEG")
        spelt = base64.a85encode(data) + b"~>"
        filters = Array([Name.ASCII85Decode, Name.DCTDecode])
        add(
            *(by_hand, spelt, SIZE),
            Filter=filters,
            BitsPerComponent=8,
            ColorSpace=Name.DeviceRGB,
        )
        folder, [one] = extracted(by_hand, tmp_path)
        assert (folder / one.file).read_bytes() == data
        [theirs] = by_poppler(by_hand.path, tmp_path)
        assert theirs.read_bytes() == data

    def test_jpeg_within_deflate(self, by_hand, tmp_path):
        data = coded(Image.fromarray(PHOTO), "JPEG")
        filters = Array([Name.FlateDecode, Name.DCTDecode])
        add(
            *(by_hand, zlib.compress(data), SIZE),
            **{"Filter": filters, "BitsPerComponent": 8, "ColorSpace": Name.DeviceRGB},
        )
        folder, [one] = extracted(by_hand, tmp_path)
        assert (folder / one.file).read_bytes() == data

    def test_jpeg_2000(self, by_hand, tmp_path):
        data = coded(Image.fromarray(PHOTO), "JPEG2000")
        add(by_hand, data, SIZE, Filter=Name.JPXDecode)
        folder, [one] = extracted(by_hand, tmp_path)
        assert one.file.endswith(".jp2")
        assert (folder / one.file).read_bytes() == data

    @pytest.mark.parametrize("is_black_1", [False, True])
    @pytest.mark.parametrize("is_turned", [False, True])
    @pytest.mark.parametrize("compression", ["group3", "group4"])
    def test_fax_data_as_tiff(self, by_hand, tmp_path, compression, is_turned, is_black_1):
        bilevel = Image.new("1", SIZE, 1)
        ImageDraw.Draw(bilevel).ellipse((5, 5, 30, 30), fill=0)
        tiff = coded(bilevel, "TIFF", compression=compression)
        with Image.open(io.BytesIO(tiff)) as read:
            [start], [length] = read.tag_v2[273], read.tag_v2[279]
        parms = pikepdf.Dictionary(
            K=-1 if compression == "group4" else 0, Columns=SIZE[0], BlackIs1=is_black_1
        )
        more = {"Decode": Array([1, 0])} if is_turned else {}
        add(
            *(by_hand, tiff[start : start + length], SIZE),
            **{"Filter": Name.CCITTFaxDecode, "DecodeParms": parms, "BitsPerComponent": 1},
            **{"ColorSpace": Name.DeviceGray, **more},
        )
        folder, [one] = extracted(by_hand, tmp_path)
        path = folder / one.file
        assert tiff[start : start + length] in path.read_bytes()
        with Image.open(path) as found:
            pixels = numpy.asarray(found.convert("L"))
            assert found.info["dpi"] == pytest.approx((200, 28.8), abs=0.01)
        # poppler smooths what it draws, so that single pixels at edges differ.
        alike = (pixels > 127) == (drawn(by_hand.path, tmp_path) > 127)
        assert alike.mean() > 0.95, "black where poppler draws black"


def drawn(path, tmp_path):
    """What poppler draws of an image of `SIZE` alone on its page, pixel for pixel, in grey."""
    with pikepdf.open(path) as pdf:
        page = pdf.pages[0]
        page.MediaBox = Array([0, 0, *SIZE])
        page.Contents = pdf.make_stream(f"{SIZE[0]} 0 0 {SIZE[1]} 0 0 cm /I Do".encode())
        pdf.save(tmp_path / "alone.pdf")
    command = ["pdftoppm", "-r", "72", "-gray", "-aa", "no", "-singlefile"]
    subprocess.run([*command, tmp_path / "alone.pdf", tmp_path / "alone"], check=True)
    return numpy.asarray(Image.open(tmp_path / "alone.pgm"))


def packed(values, bits):
    """Samples of shape (height, width * channels) in rows of whole bytes."""
    if bits == 16:
        return values.astype(">u2").tobytes()
    if bits == 8:
        return values.astype(numpy.uint8).tobytes()
    each = (values[:, :, None] >> numpy.arange(bits - 1, -1, -1)) & 1
    return numpy.packbits(each.reshape(len(values), -1).astype(numpy.uint8), axis=1).tobytes()


class TestWithoutLoss:
    @pytest.mark.parametrize("bits", [1, 2, 4, 8, 16])
    @pytest.mark.parametrize("is_turned", [False, True])
    def test_grey(self, by_hand, tmp_path, bits, is_turned):
        values = numpy.random.default_rng(bits).integers(0, 2**bits, (40, 60))
        more = {"Decode": Array([1, 0])} if is_turned else {}
        add(
            *(by_hand, packed(values, bits), SIZE),
            **{"BitsPerComponent": bits, "ColorSpace": Name.DeviceGray, **more},
        )
        folder, [one] = extracted(by_hand, tmp_path)
        found = pyvips.Image.new_from_file(str(folder / one.file)).numpy().squeeze()
        most = 65535 if bits == 16 else 255
        wanted = values * most // (2**bits - 1)
        assert numpy.array_equal(found, most - wanted if is_turned else wanted)
        if bits < 16:
            with Image.open(folder / one.file) as read:
                assert (bits < 8) == (read.tile[0].args not in ("L",)), "no more bits than it had"

    @pytest.mark.parametrize("bits", [8, 16])
    def test_rgb_with_its_profile_and_density(self, by_hand, tmp_path, bits):
        profile = ImageCms.ImageCmsProfile(ImageCms.createProfile("sRGB")).tobytes()
        values = numpy.random.default_rng(bits).integers(0, 2**bits, (40, 180))
        icc = by_hand.pdf.make_stream(profile)
        icc.N = 3
        add(
            *(by_hand, packed(values, bits), SIZE),
            **{"BitsPerComponent": bits, "ColorSpace": Array([Name.ICCBased, icc])},
        )
        folder, [one] = extracted(by_hand, tmp_path)
        image = pyvips.Image.new_from_file(str(folder / one.file))
        assert numpy.array_equal(image.numpy().reshape(40, 180), values)
        assert image.get("icc-profile-data") == profile
        assert (image.xres * 25.4, image.yres * 25.4) == pytest.approx((200, 28.8), abs=0.02)
        poppler = pyvips.Image.new_from_file(str(by_poppler(by_hand.path, tmp_path)[0]))
        if bits == 8:
            assert numpy.array_equal(poppler.numpy(), image.numpy())

    def test_cmyk_as_tiff(self, by_hand, tmp_path):
        values = numpy.random.default_rng(4).integers(0, 256, (40, 240))
        add(
            *(by_hand, packed(values, 8), SIZE),
            **{"BitsPerComponent": 8, "ColorSpace": Name.DeviceCMYK},
        )
        folder, [one] = extracted(by_hand, tmp_path)
        with Image.open(folder / one.file) as found:
            assert found.mode == "CMYK"
            assert numpy.array_equal(numpy.asarray(found).reshape(40, 240), values)

    @pytest.mark.parametrize("bits", [1, 2, 4, 8])
    @pytest.mark.parametrize("base", ["/DeviceRGB", "/DeviceGray", "/DeviceCMYK"])
    def test_palettes(self, by_hand, tmp_path, base, bits):
        channels = {"/DeviceRGB": 3, "/DeviceGray": 1, "/DeviceCMYK": 4}[base]
        chance = numpy.random.default_rng(bits)
        count = 2**bits
        palette = chance.integers(0, 256, (count, channels)).astype(numpy.uint8)
        values = chance.integers(0, count, (40, 60))
        space = Array([Name.Indexed, Name(base), count - 1, pikepdf.String(palette.tobytes())])
        add(by_hand, packed(values, bits), SIZE, BitsPerComponent=bits, ColorSpace=space)
        folder, [one] = extracted(by_hand, tmp_path)
        found = pyvips.Image.new_from_file(str(folder / one.file)).numpy()
        assert numpy.array_equal(found.reshape(40, 60, channels), palette[values])

    def test_a_tint_is_dark_where_its_ink_is(self, by_hand, tmp_path):
        values = numpy.random.default_rng(4).integers(0, 256, (40, 60))
        function = pikepdf.Dictionary(
            FunctionType=2, Domain=[0, 1], N=1, C0=[0, 0, 0, 0], C1=[0, 0.5, 1, 0]
        )
        space = Array([Name.Separation, Name("/Lamp"), Name.DeviceCMYK, function])
        add(by_hand, packed(values, 8), SIZE, BitsPerComponent=8, ColorSpace=space)
        folder, [one] = extracted(by_hand, tmp_path)
        found = pyvips.Image.new_from_file(str(folder / one.file)).numpy().squeeze()
        assert numpy.array_equal(found, 255 - values)
        assert one.image.colour == "spot"

    def test_an_inline_image(self, by_hand, tmp_path):
        values = numpy.random.default_rng(4).integers(0, 256, (4, 18))
        data = packed(values, 8)
        dictionary = f"BI /W 6 /H 4 /CS /RGB /BPC 8 /L {len(data)} ID ".encode()
        content = b"q 72 0 0 48 0 0 cm " + dictionary + data + b" EI Q"
        folder, [one] = extracted(by_hand, tmp_path, content)
        found = pyvips.Image.new_from_file(str(folder / one.file)).numpy()
        assert numpy.array_equal(found.reshape(4, 18), values)
        assert one.row["ppi_min"] == 6


class TestMasksAsAlpha:
    @pytest.mark.parametrize("scale", [1, 2])
    def test_a_soft_mask(self, by_hand, tmp_path, scale):
        alpha = numpy.random.default_rng(1).integers(0, 256, (40 * scale, 60 * scale))
        mask = add(
            *(by_hand, packed(alpha, 8), (60 * scale, 40 * scale), "M"),
            **{"BitsPerComponent": 8, "ColorSpace": Name.DeviceGray},
        )
        data = coded(Image.fromarray(PHOTO), "JPEG")
        del by_hand.resources.XObject["/M"]
        add(
            *(by_hand, data, SIZE),
            **{"Filter": Name.DCTDecode, "BitsPerComponent": 8, "ColorSpace": Name.DeviceRGB},
            SMask=by_hand.pdf.make_indirect(mask),
        )
        folder, [one] = extracted(by_hand, tmp_path, with_alpha=True)
        with Image.open(folder / one.file) as found:
            assert (found.mode, found.size) == ("RGBA", SIZE)
            channels = numpy.asarray(found).astype(int)
        of_jpeg = numpy.asarray(Image.open(io.BytesIO(data))).astype(int)
        assert abs(channels[:, :, :3] - of_jpeg).max() <= 2, "two decoders of one JPEG"
        if scale == 1:
            assert numpy.array_equal(channels[:, :, 3], alpha)
        else:
            assert channels[:, :, 3].mean() == pytest.approx(alpha.mean(), abs=3)

    def test_a_stencil_beside_it_and_a_masked_colour(self, by_hand, tmp_path):
        hides = numpy.random.default_rng(1).integers(0, 2, (40, 60))
        mask = add(by_hand, packed(hides, 1), SIZE, "M", ImageMask=True, BitsPerComponent=1)
        del by_hand.resources.XObject["/M"]
        values = numpy.random.default_rng(2).integers(0, 3, (40, 60))
        common = {"BitsPerComponent": 8, "ColorSpace": Name.DeviceGray}
        add(by_hand, packed(values, 8), SIZE, Mask=by_hand.pdf.make_indirect(mask), **common)
        add(by_hand, packed(values, 8), SIZE, "J", Mask=Array([1, 1]), **common)
        content = b"60 0 0 40 0 0 cm /I Do /J Do"
        folder, [first, second] = extracted(by_hand, tmp_path, content, with_alpha=True)
        alphas = [numpy.asarray(Image.open(folder / one.file))[:, :, 1] for one in (first, second)]
        assert numpy.array_equal(alphas[0], numpy.where(hides, 0, 255))
        assert numpy.array_equal(alphas[1], numpy.where(values == 1, 0, 255))


class TestWhichAndTheTable:
    def test_one_file_for_an_image_that_is_painted_twice(self, by_hand, tmp_path):
        by_hand.resources.XObject["/I"] = by_hand.image()
        content = b"q 216 0 0 144 0 0 cm /I Do Q q 72 0 0 48 0 0 cm /I Do Q"
        folder, found = extracted(by_hand, tmp_path, content)
        assert [one.file for one in found] == ["page 1 image 01.png"] * 2
        with Image.open(folder / found[0].file) as image:
            assert image.info["dpi"] == pytest.approx((100, 100), abs=0.1), "its largest use"
        with (folder / TABLE_NAME).open() as table:
            rows = list(csv.DictReader(table))
        assert [row["ppi_min"] for row in rows] == ["100.0", "300.0"]
        assert {row["file"] for row in rows} == {found[0].file}

    def test_only_those_chosen(self, by_hand, tmp_path):
        for name in ("I", "J"):
            by_hand.resources.XObject[f"/{name}"] = by_hand.image()
        content = b"q 216 0 0 144 0 0 cm /I Do Q q 72 0 0 48 200 200 cm /J Do Q"
        _, found = extracted(by_hand, tmp_path, content, chosen=[(1, 2)])
        assert [one.file for one in found] == ["page 1 image 02.png"]

    def test_pages_that_are_not_there(self, by_hand, tmp_path):
        by_hand.resources.XObject["/I"] = by_hand.image()
        with pytest.raises(UnreadableFile, match="there are pages 1 to 1, not 2-3"):
            extracted(by_hand, tmp_path, pages="2-3")

    @pytest.mark.parametrize(
        ("data", "more", "why"),
        [
            (b"short", {"BitsPerComponent": 8}, "its samples are incomplete"),
            (b"no jpeg", {"Filter": Name.JPXDecode}, None),
            (b"\0" * 2400, {"BitsPerComponent": 3}, "it has 3 bits a channel"),
        ],
    )
    def test_what_cannot_be_decoded_is_told(self, by_hand, tmp_path, data, more, why):
        add(by_hand, data, SIZE, ColorSpace=Name.DeviceGray, **more)
        _, [one] = extracted(by_hand, tmp_path, with_alpha=True)
        assert (one.file == "") == (why is not None)
        if why is not None:
            assert one.how == why
