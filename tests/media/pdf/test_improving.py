"""Improved copies of PDFs, against poppler, qpdf and Pillow."""

import hashlib
import io
import subprocess
from collections import Counter

import numpy
import pikepdf
import pytest
from hypothesis import HealthCheck, given, settings
from hypothesis import strategies as some
from PIL import Image, ImageCms

from harnet.core.documents.improving import (
    CopyColours,
    DocumentImageObject,
    Fate,
    ImproveSettings,
    Use,
    improved_px,
)
from harnet.core.documents.same_shot import Registration
from harnet.core.measure.geometry import Matrix
from harnet.core.targets.shipped import target_named
from harnet.media.errors import UnreadableFile
from harnet.media.pdf.improving import proving
from harnet.studio.documents.making import improving
from harnet.studio.documents.making.improving import make_copy, plan_improvement
from tests.support.pdfs import ByHand, listed_by_poppler
from tests.trials.registration import photographs

Name, Array = pikepdf.Name, pikepdf.Array
TARGET = target_named("coated")


def original_of(name):
    """A photograph three times as large as the open one, as a picture on a shelf would be."""
    image = Image.fromarray(photographs()[name]).convert("RGB")
    return image.resize((image.width * 3, image.height * 3), Image.Resampling.LANCZOS)


@pytest.fixture(scope="session")
def shelf(tmp_path_factory):
    folder = tmp_path_factory.mktemp("shelf")
    for name in ("astronaut", "coffee", "chelsea"):
        original_of(name).save(folder / f"{name}.jpg", quality=93)
    return sorted(folder.iterdir())


def poor(name, box=(0.1, 0.1, 0.9, 0.9), scale=0.25):
    """A part of that picture with few pixels; the box in shares of its edges."""
    image = original_of(name)
    edges = [share * edge for share, edge in zip(box, image.size * 2, strict=True)]
    size = [round((edges[at + 2] - edges[at]) * scale) for at in (0, 1)]
    return image.resize(size, Image.Resampling.LANCZOS, box=edges)


@pytest.fixture
def by_hand(tmp_path):
    return ByHand(tmp_path / "poor.pdf")


def add(made, image, name="I", **more):
    """An image of a PDF with these pixels, without loss unless its bytes are given."""
    data = more.pop("data", None) or image.tobytes()
    spaces = {"L": Name.DeviceGray, "RGB": Name.DeviceRGB, "CMYK": Name.DeviceCMYK}
    stream = pikepdf.Stream(made.pdf, data)
    stream.Type, stream.Subtype = Name.XObject, Name.Image
    stream.Width, stream.Height = image.size
    stream.BitsPerComponent = more.pop("bits", 8)
    if image.mode in spaces:
        stream.ColorSpace = spaces[image.mode]
    for key, value in more.items():
        stream[f"/{key}"] = value
    made.resources.XObject[f"/{name}"] = made.pdf.make_indirect(stream)
    return stream


def jpeg(image, quality=80):
    out = io.BytesIO()
    image.save(out, "JPEG", quality=quality)
    return out.getvalue()


def improved(made, shelf, tmp_path, content=None, **more):
    image = made.resources.XObject["/I"]
    height = 180 * int(image.Height) / int(image.Width)
    drawn = content or f"q 180 0 0 {height} 20 20 cm /I Do Q".encode()
    text = b" BT /F 12 Tf 20 380 Td (What is said stays) Tj ET"
    made.resources.Font = pikepdf.Dictionary(
        F=pikepdf.Dictionary(Type=Name.Font, Subtype=Name.Type1, BaseFont=Name.Helvetica)
    )
    made.painted(drawn + text)
    return on_file(made.path, shelf, tmp_path, **more)


def on_file(path, shelf, tmp_path, **more):
    wanted = ImproveSettings(target=TARGET, **more)
    plan = plan_improvement(path, path.name, shelf, wanted)
    copy, folder = tmp_path / "copy.pdf", tmp_path / "work"
    folder.mkdir()
    return copy, make_copy(plan, copy, folder)


def checked(path, copy):
    """What holds of every copy: sound, the same text, and all other streams byte for byte."""
    subprocess.run(["qpdf", "--check", copy], check=True, capture_output=True)
    texts = [
        subprocess.run(["pdftotext", one, "-"], check=True, capture_output=True).stdout
        for one in (path, copy)
    ]
    assert texts[0] == texts[1]
    counts = []
    for one in (path, copy):
        with pikepdf.open(one) as pdf:
            streams = [
                thing
                for thing in pdf.objects
                if isinstance(thing, pikepdf.Stream)
                and thing.get("/Subtype") != "/Image"
                and thing.get("/Type") not in ("/XRef", "/ObjStm")
            ]
            counts.append(Counter(hashlib.sha256(s.read_raw_bytes()).hexdigest() for s in streams))
    assert not counts[0] - counts[1], "every other stream of the first one is in the copy"


def drawn(path, ppi=60):
    run = subprocess.run(["pdftoppm", "-r", str(ppi), path], check=True, capture_output=True)
    return numpy.asarray(Image.open(io.BytesIO(run.stdout)).convert("RGB")).astype(float)


class TestColourSpaces:
    def test_rgb_as_jpeg(self, by_hand, shelf, tmp_path):
        image = poor("astronaut")
        add(by_hand, image, data=jpeg(image), Filter=Name.DCTDecode)
        copy, receipt = improved(by_hand, shelf, tmp_path)
        checked(by_hand.path, copy)
        [row] = receipt.rows
        assert (row["fate"], row["original"], row["how"]) == ("replaced", "astronaut.jpg", "JPEG")
        [(_, px_w, px_h, ppi_x, _)] = listed_by_poppler(copy)
        assert (px_w, px_h) == (row["new_px_w"], row["new_px_h"])
        assert ppi_x == pytest.approx(row["new_ppi"], abs=0.6)
        assert row["new_ppi"] == pytest.approx(450, abs=1), "at most 1.5 times the target"
        assert abs(drawn(by_hand.path) - drawn(copy)).mean() < 2

    @pytest.mark.parametrize("mode", ["L", "CMYK"])
    def test_grey_and_cmyk_stay_what_they_are(self, by_hand, shelf, tmp_path, mode):
        image = poor("astronaut")
        if mode == "CMYK":
            generic = "/usr/share/color/icc/ghostscript/default_cmyk.icc"
            srgb = ImageCms.createProfile("sRGB")
            image = ImageCms.profileToProfile(image, srgb, generic, outputMode="CMYK")
        else:
            image = image.convert("L")
        add(by_hand, image)
        copy, receipt = improved(by_hand, shelf, tmp_path)
        checked(by_hand.path, copy)
        assert receipt.rows[0]["fate"] == "replaced"
        with pikepdf.open(copy) as pdf:
            found = pdf.pages[0].images["/I"]
            assert found.ColorSpace == {"L": Name.DeviceGray, "CMYK": Name.DeviceCMYK}[mode]
            assert found.Filter == Name.FlateDecode, "without loss as before"
        assert abs(drawn(by_hand.path) - drawn(copy)).mean() < 4

    def test_a_profile_explains_the_new_samples_too(self, by_hand, shelf, tmp_path):
        wide = ImageCms.ImageCmsProfile(ImageCms.createProfile("LAB"))
        assert wide is not None
        profile = ImageCms.ImageCmsProfile(ImageCms.createProfile("sRGB")).tobytes()
        icc = by_hand.pdf.make_stream(profile)
        icc.N = 3
        add(by_hand, poor("coffee"), ColorSpace=Array([Name.ICCBased, icc]))
        copy, receipt = improved(by_hand, shelf, tmp_path)
        checked(by_hand.path, copy)
        assert receipt.rows[0]["fate"] == "replaced"
        with pikepdf.open(copy) as pdf:
            space = pdf.pages[0].images["/I"].ColorSpace
            assert space[0] == Name.ICCBased
            assert space[1].read_bytes() == profile
        assert abs(drawn(by_hand.path) - drawn(copy)).mean() < 3

    def test_a_palette_becomes_its_colours(self, by_hand, shelf, tmp_path):
        image = poor("coffee").quantize(200)
        palette = bytes(image.getpalette()[:600])
        space = Array([Name.Indexed, Name.DeviceRGB, 199, pikepdf.String(palette)])
        add(by_hand, image, ColorSpace=space)
        copy, receipt = improved(by_hand, shelf, tmp_path)
        checked(by_hand.path, copy)
        assert receipt.rows[0]["fate"] == "replaced"
        with pikepdf.open(copy) as pdf:
            assert pdf.pages[0].images["/I"].ColorSpace == Name.DeviceRGB

    def test_one_bit_stays_one_bit(self, by_hand, tmp_path):
        art = original_of("coffee").convert("L").point(lambda value: 255 * (value > 120))
        art.convert("1").save(tmp_path / "art.png")
        small = art.resize((art.width // 4, art.height // 4), Image.Resampling.BOX)
        bits = small.point(lambda value: 255 * (value > 127)).convert("1", dither=0)
        add(by_hand, bits, bits=1, ColorSpace=Name.DeviceGray)
        copy, receipt = improved(by_hand, [tmp_path / "art.png"], tmp_path)
        checked(by_hand.path, copy)
        assert receipt.rows[0]["fate"] == "replaced", receipt.rows[0]["reason"]
        with pikepdf.open(copy) as pdf:
            found = pdf.pages[0].images["/I"]
            assert (found.Filter, found.BitsPerComponent) == (Name.CCITTFaxDecode, 1)
        assert abs(drawn(by_hand.path) - drawn(copy)).mean() < 12, "black stays black"

    def test_cmyk_for_the_target_on_wish(self, by_hand, shelf, tmp_path):
        image = poor("astronaut")
        add(by_hand, image, data=jpeg(image), Filter=Name.DCTDecode)
        copy, receipt = improved(by_hand, shelf, tmp_path, colours=CopyColours.TARGET)
        checked(by_hand.path, copy)
        assert receipt.rows[0]["fate"] == "replaced"
        listed = subprocess.run(["pdfimages", "-list", copy], capture_output=True, text=True)
        assert listed.stdout.splitlines()[2].split()[5:7] == ["icc", "4"]
        assert abs(drawn(by_hand.path) - drawn(copy)).mean() < 12

    def test_spot_colours_are_left_with_a_sentence(self, by_hand, shelf, tmp_path):
        function = pikepdf.Dictionary(
            FunctionType=2, Domain=[0, 1], N=1, C0=[0, 0, 0, 0], C1=[0, 0.5, 1, 0]
        )
        space = Array([Name.Separation, Name("/Lamp"), Name.DeviceCMYK, function])
        tint = poor("astronaut").convert("L").point(lambda value: 255 - value)
        add(by_hand, tint, ColorSpace=space)
        copy, receipt = improved(by_hand, shelf, tmp_path)
        [row] = receipt.rows
        assert (row["fate"], row["sureness"]) == ("left", "sure")
        assert row["reason"] == "it is in spot colours, which an original is not converted to"
        assert abs(drawn(by_hand.path) - drawn(copy)).max() == 0


class TestWhatStays:
    def test_an_image_used_twice_is_replaced_once_for_the_larger(self, by_hand, shelf, tmp_path):
        add(by_hand, poor("coffee"))
        content = b"q 60 0 0 40 20 20 cm /I Do Q q 180 0 0 120 20 200 cm /I Do Q"
        copy, receipt = improved(by_hand, shelf, tmp_path, content)
        [row] = receipt.rows
        assert (row["uses"], row["fate"]) == (2, "replaced")
        small, large = sorted(one[3] for one in listed_by_poppler(copy))[::-1]
        assert large == pytest.approx(row["new_ppi"], abs=0.6)
        assert small == pytest.approx(3 * large, abs=3)
        with pikepdf.open(copy) as pdf:
            images = [one for one in pdf.objects if isinstance(one, pikepdf.Stream)]
            assert sum(one.get("/Subtype") == "/Image" for one in images) == 1

    def test_a_soft_mask_stays_in_register(self, by_hand, shelf, tmp_path):
        image = poor("astronaut")
        ramp = Image.linear_gradient("L").resize((50, 50))
        mask = add(by_hand, ramp, "M")
        del by_hand.resources.XObject["/M"]
        add(by_hand, image, SMask=by_hand.pdf.make_indirect(mask))
        copy, receipt = improved(by_hand, shelf, tmp_path)
        assert receipt.rows[0]["fate"] == "replaced"
        with pikepdf.open(copy) as pdf:
            kept = pdf.pages[0].images["/I"].SMask
            assert (kept.Width, kept.read_bytes()) == (50, ramp.tobytes())
        assert abs(drawn(by_hand.path) - drawn(copy)).mean() < 2

    def test_masked_colours_become_a_stencil(self, by_hand, shelf, tmp_path):
        image = poor("astronaut").convert("L")
        add(by_hand, image, Mask=Array([0, 20]))
        copy, receipt = improved(by_hand, shelf, tmp_path)
        assert receipt.rows[0]["fate"] == "replaced"
        with pikepdf.open(copy) as pdf:
            mask = pdf.pages[0].images["/I"].Mask
            assert bool(mask.ImageMask)
            hidden = numpy.unpackbits(numpy.frombuffer(mask.read_bytes(), numpy.uint8))
            share = (numpy.asarray(image) <= 20).mean()
            assert hidden.mean() == pytest.approx(share, abs=0.01)
        assert abs(drawn(by_hand.path) - drawn(copy)).mean() < 4

    @pytest.mark.parametrize("turn", [None, "ROTATE_90", "ROTATE_180", "FLIP_LEFT_RIGHT"])
    def test_turned_and_mirrored_within_its_form(self, by_hand, shelf, tmp_path, turn):
        image = poor("coffee")
        image = image.transpose(getattr(Image.Transpose, turn)) if turn else image
        add(by_hand, image)
        inner = by_hand.form(b"q 150 0 0 100 10 10 cm /I Do Q", Resources=by_hand.resources)
        by_hand.resources.XObject["/F"] = inner
        content = b"q 0.9 0.2 -0.2 0.9 60 60 cm /F Do Q"
        copy, receipt = improved(by_hand, shelf, tmp_path, content)
        checked(by_hand.path, copy)
        assert receipt.rows[0]["fate"] == "replaced"
        assert receipt.rows[0]["drawn_difference"] < 1
        assert abs(drawn(by_hand.path) - drawn(copy)).mean() < 2

    def test_an_inline_image_becomes_an_object_and_nothing_else_changes(
        self, by_hand, shelf, tmp_path
    ):
        image = poor("coffee", scale=0.15).convert("L")
        size = f"/W {image.width} /H {image.height}".encode()
        before = b"q 1 0 0 rg 300 300 40 40 re f Q q 180 0 0 120 20 20 cm "
        drawn_inline = b"BI " + size + b" /CS /G /BPC 8 ID " + image.tobytes() + b" EI"
        after = b" Q q 0 0 1 rg 300 350 40 40 re f Q"
        by_hand.painted(before + drawn_inline + after)
        copy, receipt = on_file(by_hand.path, shelf, tmp_path)
        assert [row["fate"] for row in receipt.rows] == ["replaced"]
        subprocess.run(["qpdf", "--check", copy], check=True, capture_output=True)
        with pikepdf.open(copy) as pdf:
            content = pdf.pages[0].Contents.read_bytes()
            assert content == before + b"/Improved1 Do" + after
        assert abs(drawn(by_hand.path) - drawn(copy)).mean() < 2
        [(_, px_w, px_h, *_)] = listed_by_poppler(copy)
        assert (px_w, px_h) == (receipt.rows[0]["new_px_w"], receipt.rows[0]["new_px_h"])

    def test_encryption_and_a_signature_are_told(self, by_hand, shelf, tmp_path):
        add(by_hand, poor("coffee"))
        field = pikepdf.Dictionary(FT=Name.Sig, T="sign here", V=pikepdf.Dictionary(Type=Name.Sig))
        by_hand.pdf.Root.AcroForm = pikepdf.Dictionary(Fields=Array([field]))
        by_hand.painted(b"q 180 0 0 120 20 20 cm /I Do Q")
        locked = tmp_path / "locked.pdf"
        allow = pikepdf.Permissions(extract=False, modify_annotation=False)
        with pikepdf.open(by_hand.path) as pdf:
            pdf.save(locked, encryption=pikepdf.Encryption(owner="own", user="", allow=allow))
        copy, receipt = on_file(locked, shelf, tmp_path)
        assert "signatures are broken" in receipt.broken[0]
        assert "same encryption and permissions" in receipt.broken[1]
        with pikepdf.open(locked) as before, pikepdf.open(copy) as after:
            assert after.is_encrypted
            assert after.allow == before.allow


class TestNothingWrong:
    def test_what_has_no_original_is_left(self, by_hand, shelf, tmp_path):
        gravel = Image.fromarray(photographs()["gravel"]).resize((120, 120))
        add(by_hand, gravel)
        copy, receipt = improved(by_hand, shelf, tmp_path)
        assert [row["reason"] for row in receipt.rows] == ["no original found"]
        assert len(receipt.plan.still_short) == 1
        assert abs(drawn(by_hand.path) - drawn(copy)).max() == 0

    def test_an_original_that_vanishes_is_told(self, by_hand, shelf, tmp_path):
        add(by_hand, poor("coffee"))
        lost = tmp_path / "coffee.jpg"
        lost.write_bytes(next(one for one in shelf if one.name == "coffee.jpg").read_bytes())
        by_hand.painted(b"q 180 0 0 120 20 20 cm /I Do Q")
        plan = plan_improvement(by_hand.path, "a.pdf", [lost], ImproveSettings(target=TARGET))
        lost.unlink()
        receipt = make_copy(plan, tmp_path / "copy.pdf", tmp_path)
        assert receipt.rows[0]["reason"] == "its original can no longer be read"
        assert receipt.is_proven

    def test_a_full_disk_is_told_and_nothing_stays(self, by_hand, shelf, tmp_path):
        add(by_hand, poor("coffee"))
        by_hand.painted(b"q 180 0 0 120 20 20 cm /I Do Q")
        plan = plan_improvement(by_hand.path, "a.pdf", shelf, ImproveSettings(target=TARGET))
        room = tmp_path / "room"
        room.mkdir()
        # Whatever is written to this device does not fit.
        (room / "copy.pdf").symlink_to("/dev/full")
        with pytest.raises(UnreadableFile, match="the disk is too full for what is made of it"):
            make_copy(plan, tmp_path / "copy.pdf", room)
        assert not (tmp_path / "copy.pdf").exists()

    def test_an_original_that_changes_meanwhile_is_told(self, by_hand, tmp_path):
        add(by_hand, poor("coffee"))
        by_hand.painted(b"q 180 0 0 120 20 20 cm /I Do Q")
        path = tmp_path / "cup.jpg"
        original_of("coffee").save(path)
        plan = plan_improvement(by_hand.path, "a.pdf", [path], ImproveSettings(target=TARGET))
        room = tmp_path / "room"
        room.mkdir()

        def saved_again(what, done, of):
            if what == "image" and done < of:
                original_of("chelsea").save(path)

        with pytest.raises(UnreadableFile, match=r"cup\.jpg: it changed while the copy was made"):
            make_copy(plan, tmp_path / "copy.pdf", room, tell=saved_again)
        assert not (tmp_path / "copy.pdf").exists()

    @pytest.mark.parametrize(
        "space, sentence",
        [
            (
                Array([Name.Lab, pikepdf.Dictionary(WhitePoint=Array([0.96, 1, 0.82]))]),
                "Lab",
            ),
            (
                Array([Name.CalGray, pikepdf.Dictionary(WhitePoint=Array([0.96, 1, 0.82]))]),
                "",
            ),
            (
                Array(
                    [
                        Name.DeviceN,
                        Array([Name.Cyan, Name.Gold, Name.Black]),
                        Name.DeviceRGB,
                        pikepdf.Dictionary(
                            FunctionType=2,
                            N=1,
                            Domain=Array([0, 1]),
                            C0=Array([0, 0, 0]),
                            C1=Array([1, 1, 1]),
                        ),
                    ]
                ),
                "",
            ),
        ],
        ids=["Lab", "CalGray", "DeviceN"],
    )
    def test_unusual_colours_are_left_with_a_sentence_or_look_the_same(
        self, by_hand, shelf, tmp_path, space, sentence
    ):
        image = poor("coffee")
        if space[0] == Name.CalGray:
            image = image.convert("L")
        stream = add(by_hand, image)
        stream.ColorSpace = by_hand.pdf.make_indirect(space)
        copy, receipt = improved(by_hand, shelf, tmp_path)
        [row] = receipt.rows
        if row["fate"] == "left":
            # What a space makes of these samples may look like no picture at all.
            assert sentence in row["reason"] or row["outcome"] == "edited"
        assert abs(drawn(by_hand.path) - drawn(copy)).mean() < 2, "never changed in colour"

    def test_a_profile_of_another_model_is_left_with_a_sentence_or_looks_the_same(
        self, by_hand, shelf, tmp_path
    ):
        stream = add(by_hand, poor("coffee"))
        profile = pikepdf.Stream(
            by_hand.pdf, ImageCms.ImageCmsProfile(ImageCms.createProfile("sRGB")).tobytes()
        )
        profile.N = 4
        stream.ColorSpace = Array([Name.ICCBased, by_hand.pdf.make_indirect(profile)])
        copy, receipt = improved(by_hand, shelf, tmp_path)
        [row] = receipt.rows
        assert row["fate"] == "left" and len(row["reason"]) > 10
        assert abs(drawn(by_hand.path) - drawn(copy)).max() == 0

    def test_a_copy_that_differs_elsewhere_is_refused(self, by_hand, tmp_path):
        add(by_hand, poor("coffee"))
        by_hand.painted(b"q 180 0 0 120 20 20 cm /I Do Q 1 0 0 rg 300 300 40 40 re f")
        tampered = tmp_path / "tampered.pdf"
        with pikepdf.open(by_hand.path) as pdf:
            pdf.pages[0].Contents.write(
                b"q 180 0 0 120 20 20 cm /I Do Q 1 0 0 rg 310 300 40 40 re f"
            )
            pdf.save(tampered)
        order = {"path": str(by_hand.path), "after": str(tampered), "name": "a.pdf"}
        answer = proving.work(
            order | {"pages": "all", "changed": [1], "password": ""}, lambda _told: None
        )
        [page] = answer["pages"]
        left, top, right, bottom = (edge * 72 / 100 for edge in page["box"])
        assert (left, right) == pytest.approx((300, 350), abs=1)
        assert (400 - bottom, 400 - top) == pytest.approx((300, 340), abs=1)

    def test_surplus_is_trimmed_on_wish_and_only_then(self, by_hand, shelf, tmp_path):
        image = original_of("coffee")
        add(by_hand, image, data=jpeg(image, 92), Filter=Name.DCTDecode)
        copy, receipt = improved(by_hand, shelf, tmp_path, threshold=1.5)
        [row] = receipt.rows
        assert (row["fate"], round(row["new_ppi"])) == ("trimmed", 300)
        assert row["new_bytes"] < row["bytes"] / 2
        assert abs(drawn(by_hand.path) - drawn(copy)).mean() < 2
        plan = plan_improvement(by_hand.path, "a.pdf", shelf, ImproveSettings(target=TARGET))
        assert [one.fate for one in plan.images] == [Fate.LEFT]


@given(
    px=some.tuples(some.integers(40, 3000), some.integers(40, 3000)),
    size_pt=some.tuples(some.floats(20, 900), some.floats(20, 900)),
    scale=some.floats(1, 30),
    times=some.sampled_from([1.0, 1.5]),
    target_ppi=some.floats(72, 400),
)
@settings(max_examples=200, suppress_health_check=[HealthCheck.too_slow], deadline=None)
def test_the_density_is_bounded_and_never_that_of_more_than_there_is(
    px, size_pt, scale, times, target_ppi
):
    image = DocumentImageObject(
        key=1,
        px_w=px[0],
        px_h=px[1],
        colour="rgb",
        bits=8,
        size_bytes=1,
        uses=[Use(1, 1, Matrix(a=size_pt[0], d=size_pt[1]))],
    )
    registration = Registration(
        edge_px=min(px),
        to_original=Matrix.scaling(scale, scale),
        similarity=1.0,
        points=9,
        unevenness=0.0,
        beyond_px=0.0,
    )
    px_w, px_h = improved_px(image, registration, target_ppi, times)
    bound = max(target_ppi * times, image.ppi * scale if image.ppi * scale <= target_ppi else 0)
    is_rounded = image.ppi * scale <= target_ppi * times
    assert is_rounded or min(px_w, px_h) == 1 or image.ppi_with(px_w, px_h) <= bound + 1e-3
    assert px_w <= px[0] * scale + 1
    assert px_h <= px[1] * scale + 1


def test_what_is_not_proven_after_the_last_round_is_not_handed_out(
    by_hand, shelf, tmp_path, monkeypatch
):
    add(by_hand, poor("coffee"))
    by_hand.painted(b"q 180 0 0 120 20 20 cm /I Do Q")
    monkeypatch.setattr(improving, "_unproven", lambda *_: {1: "not proven"})
    copy, receipt = on_file(by_hand.path, shelf, tmp_path)
    assert receipt.faults == ["not proven"]
    assert not receipt.is_proven
    assert not copy.exists()
