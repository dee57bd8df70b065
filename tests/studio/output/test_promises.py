"""Outputs promise what they hold: profiles, changed files, page images, comparing by number."""

import io
import shutil

import pytest
from PIL import Image, ImageCms

from harnet.core.output.page_images import ImageFormat, ImageSettings, SizeBy
from harnet.core.output.pdf_settings import (
    LIGHT_QUALITY,
    PdfColour,
    PdfSettings,
    PictureMode,
    settings_for,
)
from harnet.media.errors import UnreadableFile
from harnet.media.pixels.colour import GENERIC_CMYK, checked_profile_file, read_profile
from harnet.studio.jobs.jobs import job_with
from harnet.studio.output.outputs import ask_for_images, ask_for_pdf, output_with
from harnet.studio.output.pages import page_look, pages_in
from harnet.studio.output.task import make_output
from harnet.studio.pictures.picture import path_of
from harnet.studio.pictures.profiles import keep_profile

SRGB = ImageCms.ImageCmsProfile(ImageCms.createProfile("sRGB")).tobytes()


def made(studio, job_id, ask):
    """Asks for an output, makes it, and returns it."""
    with studio.session() as session:
        output_id = ask(session, job_with(session, job_id)).id
    make_output(studio, output_id)
    with studio.session() as session:
        return output_with(session, output_id)


def pdf(settings=None):
    return lambda session, job: ask_for_pdf(session, job, "proof", "I. Varga", settings)


def images(**changes):
    return lambda session, job: ask_for_images(session, job, ImageSettings(**changes))


def profile(device_class=b"prtr", space=b"CMYK", version=2):
    """Debian's generic CMYK profile with other words in its header."""
    data = bytearray(GENERIC_CMYK.read_bytes())
    data[8], data[12:16], data[16:20] = version, device_class, space
    return bytes(data)


class TestProfiles:
    @pytest.mark.parametrize(
        "data, why",
        [
            (b"\x89PNG\r\n\x1a\n" + bytes(200), "not an ICC profile"),
            (
                ImageCms.ImageCmsProfile(ImageCms.createProfile("sRGB")).tobytes(),
                "RGB, not for CMYK",
            ),
            (profile(space=b"RGB "), "RGB, not for CMYK"),
            (profile(device_class=b"link"), "that links two devices"),
            (profile(device_class=b"scnr"), "of an input device"),
            (profile(version=5), "version 5"),
        ],
    )
    def test_only_a_cmyk_profile_of_an_output_is_taken(self, studio, tmp_path, data, why):
        with pytest.raises(UnreadableFile, match=why):
            read_profile(data, "press.icc")
        path = tmp_path / "press.icc"
        path.write_bytes(data)
        with pytest.raises(UnreadableFile, match=why):
            checked_profile_file(path, "press.icc")
        with studio.session() as session, pytest.raises(UnreadableFile, match=why):
            keep_profile(studio, session, "press.icc", io.BytesIO(data))

    def test_the_intent_is_read_back_byte_for_byte(self, studio, laid_out):
        with studio.session() as session:
            supplied = keep_profile(studio, session, "press.icc", io.BytesIO(profile(version=4)))
        settings = PdfSettings(colour=PdfColour.INTENT, profile=supplied.sha256)
        receipt = made(studio, laid_out, pdf(settings)).receipt
        [row] = [one for one in receipt["whole"] if one["what"] == "profile of the intent"]
        assert row["is_kept"] and supplied.sha256[:16] in row["found"]


class TestChangedFiles:
    @pytest.fixture
    def changed(self, studio, laid_out, make_picture):
        """The first picture's file has other pixels of the same size."""
        with studio.session() as session:
            picture = job_with(session, laid_out).pages[0].items[0].picture
            path = path_of(picture)
        shutil.copy(make_picture("other.jpg", seed=9, dpi=(200, 200)), path)
        return laid_out

    def test_it_is_a_marked_box_and_the_rest_is_made(self, studio, changed):
        output = made(studio, changed, pdf())
        assert output.state == "done"
        first, second = output.receipt["rows"]
        assert "changed since it was checked" in first["how"] and not first["is_kept"]
        assert second["is_kept"] and not output.receipt["is_kept"]

    def test_page_images_have_the_box_too_and_count_it_once(self, studio, changed):
        output = made(studio, changed, images(density_ppi=72))
        receipt = output.receipt
        assert [row["is_kept"] for row in receipt["rows"]] == [False, True]
        assert [one["is_kept"] for one in receipt["images"]] == [True, True]
        assert not receipt["is_kept"]

    def test_it_blocks_the_gate_until_it_is_updated(self, studio, changed):
        with studio.session() as session:
            job = job_with(session, changed)
            output = ask_for_pdf(session, job, "proof", "I. Varga")
            findings = output.settings["passed_gate"]["findings"]
        assert any("changed on its shelf" in one for one in findings)


class TestPageImages:
    @pytest.mark.parametrize("form", list(ImageFormat))
    def test_each_carries_srgb_and_its_tags_agree(self, studio, laid_out, form, tmp_path):
        output = made(studio, laid_out, images(format=form, pages="1", density_ppi=150))
        assert output.receipt["is_kept"]
        path = tmp_path / f"page.{form.ending}"
        studio.blobs.copy_to(output.sha256, path)
        with Image.open(path) as image:
            found = ImageCms.ImageCmsProfile(io.BytesIO(image.info["icc_profile"]))
            assert "sRGB" in ImageCms.getProfileDescription(found)
            if form is ImageFormat.JPEG:
                exif = image.getexif()
                # CIPA DC-008 (from memory): ColorSpace 1 is sRGB, 282 and 283 the density
                assert exif.get_ifd(0x8769)[0xA001] == 1
                assert [float(exif[tag]) for tag in (282, 283)] == [150, 150]

    def test_with_the_bleed_they_are_larger_by_it(self, studio, laid_out):
        # arithmetic: 148 × 210 mm and 3 mm of bleed on each side at 300 ppi
        output = made(studio, laid_out, images(pages="1", with_bleed=True))
        [found] = output.receipt["images"]
        assert found["px_found"] == [1819, 2551]
        assert output.receipt["is_kept"]

    def test_a_limit_of_bytes_is_kept(self, studio, laid_out):
        wanted = {"size_by": SizeBy.BYTES, "limit_bytes": 30_000, "density_ppi": 100.0}
        output = made(studio, laid_out, images(format=ImageFormat.JPEG, pages="1", **wanted))
        assert output.size_bytes <= 30_000 and output.receipt["is_kept"]

    def test_a3_at_1200_ppi_is_made_whole(self, studio, new_job, tmp_path):
        job_id = new_job(width=297, height=420)
        output = made(studio, job_id, images(density_ppi=1200.0, format=ImageFormat.PNG))
        [found] = output.receipt["images"]
        # arithmetic: 297 × 420 mm at 1 200 ppi
        assert found["px_found"] == [14_031, 19_843] and output.receipt["is_kept"]


class TestComparing:
    def test_pages_are_found_by_their_number(self, studio, new_job):
        job_id = new_job(pages=12)
        some = made(
            studio, job_id, images(density_ppi=72.0, pages="2,11,12", names="{page} {title}")
        )
        whole = made(studio, job_id, pdf(PdfSettings(pages="3-12")))
        assert pages_in(some) == [2, 11, 12]
        assert pages_in(whole) == list(range(3, 13))
        for output in (some, whole):
            assert page_look(studio, output, 11).startswith(b"\x89PNG")
        with pytest.raises(Exception, match="Page 2 is not in this output"):
            page_look(studio, whole, 2)


class TestModes:
    @pytest.mark.parametrize("before", list(PictureMode))
    @pytest.mark.parametrize("after", list(PictureMode))
    def test_a_mode_means_the_same_whatever_was_before(self, before, after):
        kept = settings_for(before, 240, PdfSettings())
        wanted = settings_for(after, 240, PdfSettings())
        assert settings_for(after, 240, kept) == wanted
        assert settings_for(PictureMode.LIGHT, 240, kept).quality == LIGHT_QUALITY

    def test_trim_goes_on_with_its_own_figures(self):
        own = PdfSettings(mode=PictureMode.TRIM, to_ppi=200.0, threshold=1.2, quality=80)
        assert settings_for(PictureMode.TRIM, 300, own) == own
