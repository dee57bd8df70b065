"""What is done with outputs: presets, print houses, pages to look at, clearing old ones."""

import io
import json
from datetime import timedelta

import pytest
from jsonschema import Draft202012Validator
from PIL import Image

from harnet.core.output.page_images import ImageColour, ImageFormat, ImageSettings
from harnet.core.output.pdf_settings import PdfSettings, PdfStandard
from harnet.media.pixels.colour import GENERIC_CMYK
from harnet.store.tables.pictures import Picture
from harnet.studio.common.errors import NotThere, Refused
from harnet.studio.common.published_file import schema_of
from harnet.studio.jobs.jobs import job_with
from harnet.studio.output.outputs import (
    ask_again,
    ask_for_images,
    ask_for_pdf,
    output_with,
    outputs_of,
)
from harnet.studio.output.pages import page_look, pages_in
from harnet.studio.output.print_houses import ask_house, send
from harnet.studio.output.retention import KEEP_DAYS, KEEP_LATEST, clear_old_outputs
from harnet.studio.output.task import make_output
from harnet.studio.pictures.profiles import keep_profile
from harnet.studio.presets.presets import (
    PresetFile,
    chosen_preset,
    keep_preset,
    preset_with,
    presets_as_file,
    presets_of,
    read_presets,
    settings_in,
    use_for_job,
)
from harnet.studio.tasks.sweeping import sweep
from tests.support.schemas import schema
from tests.support.settings import PRESS

ME, THEM = "a" * 32, "b" * 32
WEB = ImageSettings(format=ImageFormat.JPEG, density_ppi=96, quality=80)


def made(studio, job_id, settings=None):
    with studio.session() as session:
        job = job_with(session, job_id)
        if isinstance(settings, ImageSettings):
            output_id = ask_for_images(session, job, settings).id
        else:
            output_id = ask_for_pdf(session, job, "A proof.", "I. Varga", settings).id
    make_output(studio, output_id)
    with studio.session() as session:
        return output_with(session, output_id)


class TestPdfSettings:
    def test_all_of_them_reach_the_pdf_and_its_receipt(self, studio, laid_out):
        output = made(studio, laid_out, PRESS)
        assert output.state == "done" and output.receipt["is_kept"]
        whole = {row["what"]: row["found"] for row in output.receipt["whole"]}
        assert (whole["standard"], whole["language"], whole["version"]) == (
            "PDF/X-4",
            "de-AT",
            "1.6",
        )
        assert whole["output intent"] == "Generic CMYK"
        [page] = output.receipt["pages"]
        assert page["boxes"]["media"][1][2] > page["boxes"]["bleed"][1][2]

    def test_a_supplied_profile_is_the_output_intent(self, studio, laid_out):
        data = GENERIC_CMYK.read_bytes()
        with studio.session() as session:
            profile = keep_profile(studio, session, "Quay press.icc", io.BytesIO(data))
            sha256, name = profile.sha256, profile.name
        output = made(studio, laid_out, PdfSettings(standard=PdfStandard.X4, profile=sha256))
        whole = {row["what"]: row["found"] for row in output.receipt["whole"]}
        assert output.receipt["is_kept"] and whole["output intent"] == name

    @pytest.mark.parametrize(
        "wanted, words",
        [
            (PdfSettings(profile="0" * 64), "profile is no longer stored"),
            (PdfSettings(pages="3"), "pages 1 to 2"),
            (PdfSettings(language="not a language"), "written as a tag"),
        ],
    )
    def test_what_makes_no_sense_is_refused(self, studio, laid_out, wanted, words):
        with pytest.raises(Refused, match=words):
            made(studio, laid_out, wanted)

    def test_an_image_in_inks_carries_its_profile(self, studio, laid_out):
        settings = ImageSettings(
            format=ImageFormat.TIFF, density_ppi=100, pages="1", colour=ImageColour.CMYK
        )
        output = made(studio, laid_out, settings)
        assert output.receipt["is_kept"]
        with studio.blobs.open(output.sha256) as file, Image.open(file) as image:
            assert image.mode == "CMYK"
            assert image.info["icc_profile"] == GENERIC_CMYK.read_bytes()
        with pytest.raises(Refused, match="CMYK needs TIFF"):
            made(studio, laid_out, ImageSettings(colour=ImageColour.CMYK))

    def test_an_order_in_the_first_form_is_made_again(self, studio, laid_out):
        """As orders of page images were kept before they had settings of their own."""
        output = made(studio, laid_out, WEB)
        with studio.session() as session:
            output = output_with(session, output.id)
            output.settings = {"page": 2, "density_ppi": 150.0}
            again = ask_again(session, job_with(session, laid_out), output)
            assert again.settings["images"]["pages"] == "2"
            assert again.settings["images"]["density_ppi"] == 150


class TestPresets:
    def test_they_are_the_studios_with_their_makers_name(self, studio):
        with studio.session() as session:
            kept = keep_preset(session, "  Skerry,  press ", PRESS, "I. Varga")
            assert [one.name for one in presets_of(session, "pdf")] == ["Skerry, press"]
            assert settings_in(preset_with(session, kept.id)) == PRESS
            assert kept.made_by == "I. Varga"
            keep_preset(session, "Skerry, press", PdfSettings(), "O. Tarn")
            assert (kept.made_by, settings_in(kept)) == ("O. Tarn", PdfSettings())
            with pytest.raises(NotThere):
                preset_with(session, kept.id + 1)

    def test_the_same_name_is_replaced(self, studio):
        with studio.session() as session:
            keep_preset(session, "Web", WEB)
            kept = keep_preset(session, "Web", ImageSettings())
            assert len(presets_of(session, "page image")) == 1
            assert settings_in(kept) == ImageSettings()

    @pytest.mark.parametrize("name", ["", "  ", "x" * 81])
    def test_a_name_is_needed(self, studio, name):
        with studio.session() as session, pytest.raises(Refused, match="name of 1 to 80"):
            keep_preset(session, name, WEB)

    def test_used_for_a_job_it_is_what_its_next_output_is_made_by(self, studio, laid_out):
        with studio.session() as session:
            job = job_with(session, laid_out)
            preset = keep_preset(session, "Press", PRESS)
            use_for_job(job, settings_in(preset))
            output = ask_for_pdf(session, job, "A proof.", "I. Varga")
            assert output.settings["pdf"]["standard"] == "pdf-x-4"
            assert chosen_preset([preset], PRESS) == preset.id
            assert chosen_preset([preset], PdfSettings()) == 0

    def test_out_and_in_again_nothing_is_lost_and_the_schema_is_kept(self, studio):
        with studio.session() as session:
            kept = [
                keep_preset(session, "Press", PRESS),
                keep_preset(session, "Web", WEB),
            ]
            text = presets_as_file(kept)
            assert read_presets(session, text) == ["Press", "Web"]
            assert [
                settings_in(one)
                for kind in ("pdf", "page image")
                for one in presets_of(session, kind)
            ] == [PRESS, WEB]
        published = schema("presets.schema.json")
        Draft202012Validator(published).validate(json.loads(text))
        assert published == schema_of(PresetFile, "presets.schema.json")

    @pytest.mark.parametrize(
        "text, words",
        [
            ("{", "Nothing was imported: at the file as a whole"),
            ('{"format": "harnet presets", "version": 1, "presets": []}', "at presets"),
            ("x" * 1_000_001, "too large"),
        ],
    )
    def test_what_is_no_file_of_presets_is_told(self, studio, text, words):
        with studio.session() as session, pytest.raises(Refused, match=words):
            read_presets(session, text)

    def test_one_senseless_preset_keeps_all_out(self, studio):
        with studio.session() as session:
            kept = [keep_preset(session, "Web", WEB), keep_preset(session, "Press", PRESS)]
            text = presets_as_file(kept).replace('"density_ppi": 96.0', '"density_ppi": 9.0')
            text = text.replace('"Press"', '"Other press"')
            with pytest.raises(Refused, match="72 to 1200"):
                read_presets(session, text)
            assert [one.name for one in presets_of(session, "pdf")] == ["Press"]


class TestPrintHouses:
    def test_the_answer_is_kept_with_the_output(self, studio, laid_out):
        output = made(studio, laid_out)
        with studio.session() as session:
            send(studio, session, output_with(session, output.id), "skerry")
            with pytest.raises(Refused, match="on its way"):
                send(studio, session, output_with(session, output.id), "skerry")
        ask_house(studio, output.id, "skerry")
        with studio.session() as session:
            [answer] = output_with(session, output.id).answers
        assert answer["state"] == "refused"
        assert "The file does not say that it is PDF/X-4." in answer["reasons"]

    def test_only_pdfs_are_sent_and_only_to_houses_that_exist(self, studio, laid_out):
        image = made(studio, laid_out, WEB)
        with studio.session() as session:
            with pytest.raises(Refused, match="finished PDFs"):
                send(studio, session, output_with(session, image.id), "skerry")
            with pytest.raises(NotThere):
                send(studio, session, output_with(session, image.id), "nobody")


class TestPagesToLookAt:
    @pytest.mark.parametrize("wanted", [None, WEB, ImageSettings(pages="2", density_ppi=72)])
    def test_each_page_of_each_kind(self, studio, laid_out, wanted):
        output = made(studio, laid_out, wanted)
        with studio.session() as session:
            output = output_with(session, output.id)
            numbers = [2] if wanted is not None and wanted.pages == "2" else [1, 2]
            assert pages_in(output) == numbers
            for number in numbers:
                data = page_look(studio, output, number)
                image = Image.open(io.BytesIO(data))
                # A5, its trim alone.
                assert image.height / image.width == pytest.approx(210 / 148, rel=0.01)
                assert page_look(studio, output, number) == data
            with pytest.raises(NotThere):
                page_look(studio, output, 3)


class TestClearing:
    def test_by_age(self, studio, laid_out):
        output = made(studio, laid_out, WEB)
        with studio.session() as session:
            old = output_with(session, output.id)
            old.finished_at -= timedelta(days=KEEP_DAYS - 1)
        assert clear_old_outputs(studio) == 0
        with studio.session() as session:
            output_with(session, output.id).finished_at -= timedelta(days=2)
        assert clear_old_outputs(studio) == 1
        with studio.session() as session:
            cleared = output_with(session, output.id)
            assert (cleared.state, cleared.sha256) == ("cleared", None)
            assert cleared.receipt["is_kept"]
        # The sweep takes them, after a grace in which they may be wanted again.
        assert sweep(studio).blobs == 0
        studio.blobs.open(output.sha256).close()
        assert sweep(studio, grace_seconds=-1).blobs == 1
        with pytest.raises(FileNotFoundError):
            studio.blobs.open(output.sha256)

    def test_by_count_the_latest_stay(self, studio, laid_out):
        first = made(studio, laid_out, WEB)
        with studio.session() as session:
            job = job_with(session, laid_out)
            for _ in range(KEEP_LATEST + 1):
                copy = ask_again(session, job, output_with(session, first.id))
                copy.state, copy.finished_at = "done", first.finished_at
                copy.sha256 = first.sha256
        assert clear_old_outputs(studio) == 2
        with studio.session() as session:
            states = [one.state for one in outputs_of(session, job_with(session, laid_out))]
        assert states == ["done"] * KEEP_LATEST + ["cleared"] * 2
        # The others have the same bytes.
        studio.blobs.open(first.sha256).close()

    def test_bytes_that_became_a_picture_stay(self, studio, laid_out, on_shelf, tmp_path):
        output = made(studio, laid_out, ImageSettings(pages="1", density_ppi=72))
        path = tmp_path / "page.png"
        with studio.blobs.open(output.sha256) as file:
            path.write_bytes(file.read())
        picture_id = on_shelf(path)
        with studio.session() as session:
            assert session.get(Picture, picture_id).sha256 == output.sha256
            output_with(session, output.id).finished_at -= timedelta(days=KEEP_DAYS + 1)
        assert clear_old_outputs(studio) == 1
        studio.blobs.open(output.sha256).close()
