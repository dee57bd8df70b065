"""Handoff packs: nothing is lost on the way, a hand-written one is a job, hostile ones are told."""

import io
import json
import subprocess
import sys
import zipfile
from dataclasses import replace
from importlib.resources import files
from pathlib import Path

import numpy as np
import pypdfium2
import pytest
from jsonschema import Draft202012Validator
from PIL import Image
from skimage.metrics import structural_similarity
from sqlalchemy import update

from harnet.core.copies.recipe import PixelBox, Recipe, recipe_as_values, recipe_from_values
from harnet.core.layout.shape import Shape
from harnet.core.measure.geometry import Box
from harnet.core.output.pdf_settings import PdfSettings
from harnet.core.pictures.rights import Rights
from harnet.core.preflight.subject import FileState
from harnet.media.errors import UnreadableFile
from harnet.media.facts.read import facts_of
from harnet.store.tables.jobs import Item, Job
from harnet.store.tables.pictures import Picture
from harnet.studio.common.published_file import schema_of
from harnet.studio.copies.copies import (
    ask_again,
    ask_for_copy,
    copy_with,
    make_copy,
    recipes_behind,
)
from harnet.studio.handoff import opening as opening_module
from harnet.studio.handoff import reading
from harnet.studio.handoff.job_file import FileEntry, JobFile
from harnet.studio.handoff.opening import keep_pack, open_pack, opening_with
from harnet.studio.handoff.reading import pages_of_pack, read_pack
from harnet.studio.handoff.writing import job_as_file
from harnet.studio.jobs.jobs import job_with, whole_job
from harnet.studio.judging.judging import settle
from harnet.studio.layout.arranging import add_item, set_shape, set_style, set_target_of
from harnet.studio.layout.placed import placement_of
from harnet.studio.layout.placing import place_picture
from harnet.studio.output.outputs import ask_for_pack, output_with, pdf_settings_of
from harnet.studio.output.rendering import make_pdf
from harnet.studio.output.task import make_output, pages_to_draw
from harnet.studio.pictures.importing import import_picture
from harnet.studio.pictures.picture import path_of, set_rights, state_of
from harnet.studio.preflight.checking import accept, findings_in
from harnet.studio.presets.presets import keep_preset, presets_of, settings_in, use_for_job
from harnet.studio.tasks.states import CANCELLED
from harnet.studio.tasks.sweeping import sweep
from tests.support.schemas import schema
from tests.support.settings import PRESS

HALF = Recipe(crop=PixelBox(0, 0, 300, 200), px_w=150, px_h=100, density_x=300, density_y=300)


@pytest.fixture
def rich(studio, laid_out):
    """A job with one of everything that a page can hold."""
    with studio.session() as session:
        job = job_with(session, laid_out)
        page = job.pages[0]
        text = add_item(session, job, page, "text", Box(20, 20, 200, 40))
        set_style(session, job, text, {"link": "https://tarnholm.example"}, "The lamp")
        add_item(session, job, page, "rectangle", Box(20, 80, 50, 40))
        add_item(session, job, page, "line", Box(20, 130, 90, 0))
        frame = add_item(session, job, page, "frame", Box(20, 140, 60, 40))
        frame.style = {"column": "picture"}
        placed = next(item for item in page.items if item.kind == "picture")
        placed.rotation_deg, placed.flip_h = 12.5, True
        set_shape(session, job, placed, Shape.ROUNDED.value, 6)
        set_target_of(session, job, placed, "newsprint")
        set_rights(placed.picture, Rights("CC-BY-4.0", "I. Varga", "The trust"))
        settle(session)
        found = findings_in(session, job)[-1].row
        accept(session, job, found.item_id, found.rule_id, "It is a proof.", "I. Varga")
        use_for_job(job, PRESS)
        keep_preset(session, "Quay press", PRESS)
        original = job.pages[1].items[0].picture
        copy_id = ask_for_copy(session, original, HALF).id
    make_copy(studio, copy_id)
    with studio.session() as session:
        job = job_with(session, laid_out)
        place_picture(session, job, job.pages[1], copy_with(session, copy_id).made)
    return laid_out


@pytest.fixture
def packed(studio, rich, tmp_path):
    """The pack of that job, made by the worker's use case, and the output's row."""
    with studio.session() as session:
        output_id = ask_for_pack(session, job_with(session, rich), "A proof.", "I. Varga").id
    make_output(studio, output_id)
    with studio.session() as session:
        output = output_with(session, output_id)
    assert output.failure is None
    path = tmp_path / "pack.zip"
    with studio.blobs.open(output.sha256) as file:
        path.write_bytes(file.read())
    return path, output


def opened(studio, path):
    """What opening a pack came to."""
    with studio.session() as session, path.open("rb") as file:
        opening_id = keep_pack(studio, session, path.name, file).id
    open_pack(studio, opening_id)
    with studio.session() as session:
        return opening_with(session, opening_id)


HAND_WRITTEN = {
    "format": "harnet job",
    "version": 1,
    "title": "Quay leaflet",
    "width_pt": 300,
    "height_pt": 400,
    "bleed_pt": 9,
    "pictures": [{"name": "slipway", "file": "pictures/slipway.jpg"}],
    "pages": [
        {
            "items": [
                {
                    "kind": "picture",
                    "picture": "slipway",
                    "x_pt": 30,
                    "y_pt": 30,
                    "width_pt": 72,
                    "height_pt": 48,
                },
                {
                    "kind": "text",
                    "text": "The slipway",
                    "x_pt": 30,
                    "y_pt": 90,
                    "width_pt": 200,
                    "height_pt": 30,
                    "style": {"link": "https://tarnholm.example/slipway"},
                },
            ]
        },
        {},
    ],
}


TWICE = [
    {
        "rule": "rights-unknown",
        "badness": 0,
        "headline": "no licence",
        "reason": "Ours.",
        "name": "I. Varga",
        "accepted_at": "2026-01-01T12:00:00Z",
    }
] * 2


@pytest.fixture
def by_hand(make_picture, tmp_path):
    """A pack as somebody might write it with an editor and a ZIP tool."""

    def write(changes=None, name="by hand.zip", **members):
        picture = make_picture("slipway.jpg")
        path = tmp_path / name
        with zipfile.ZipFile(path, "w") as pack:
            pack.writestr("job.json", json.dumps(HAND_WRITTEN | (changes or {})))
            pack.write(picture, "pictures/slipway.jpg")
            for member, data in members.items():
                pack.writestr(member, data)
        return path

    return write


class TestPack:
    def test_it_holds_the_job_the_pictures_the_pdf_the_report_and_the_credits(self, packed):
        path, output = packed
        assert output.receipt["is_kept"] and output.receipt["pack"]["items_found"] == 7
        with zipfile.ZipFile(path) as pack:
            assert pack.testzip() is None
            assert set(pack.namelist()) == {
                "job.json",
                "pictures/slipway.jpg",
                "pictures/gull.png",
                "pictures/gull 150x100 300 ppi.tif",
                "Quay flyer.pdf",
                "receipt.json",
                "report.json",
                "report.pdf",
                "credits.csv",
            }
            assert "slipway.jpg,CC-BY-4.0,I. Varga,The trust,1" in pack.read("credits.csv").decode()
            Draft202012Validator(schema("job.schema.json")).validate(
                json.loads(pack.read("job.json"))
            )

    def test_the_published_schema_is_the_one_that_is_checked_by(self):
        assert schema("job.schema.json") == schema_of(JobFile, "job.schema.json")

    def test_opened_elsewhere_it_is_the_same_job(self, studio, rich, packed):
        opening = opened(studio, packed[0])
        assert (opening.state, opening.failure) == ("done", None)
        # The pack that was made here is still there to be downloaded.
        studio.blobs.open(packed[1].sha256).close()
        assert opening.job_id != rich
        with studio.session() as session:
            files = []
            for number in (rich, opening.job_id):
                file, _ = job_as_file(studio, session, whole_job(session, number))
                files.append(file.model_dump(mode="json") | {"edited_at": None})
            assert files[0] == files[1]
            shelf = session.get(
                Picture,
                session.query(Item.picture_id)
                .where(
                    Item.page_id == whole_job(session, opening.job_id).pages[0].id,
                    Item.kind == "picture",
                )
                .scalar(),
            ).shelf
            assert shelf.name == "From Quay flyer"

    def test_without_a_database_the_pages_are_the_same(self, studio, rich, packed, tmp_path):
        (tmp_path / "opened").mkdir()
        pack = read_pack(packed[0], "pack.zip", tmp_path / "opened")
        pages = []
        with studio.session() as session:
            documents = (pages_to_draw(studio, whole_job(session, rich)), pages_of_pack(pack))
        for index, document in enumerate(documents):
            path = tmp_path / f"{index}.pdf"
            receipt = make_pdf(document, PdfSettings(), path, lambda done, total: None)
            assert receipt["is_kept"]
            with pypdfium2.PdfDocument(path) as pdf:
                pages.append([np.asarray(page.render(scale=2).to_pil()) for page in pdf])
        for one, other in zip(*pages, strict=True):
            assert np.array_equal(one, other)

    def test_what_was_accepted_how_copies_were_made_and_presets_come_along(
        self, studio, rich, packed
    ):
        with studio.session() as session:
            for preset in presets_of(session, "pdf"):
                session.delete(preset)
        opening = opened(studio, packed[0])
        with studio.session() as session:
            job = whole_job(session, opening.job_id)
            [passed] = findings_in(session, job, are_accepted=True)
            said = passed.acceptance
            assert (said.reason, said.name) == ("It is a proof.", "I. Varga")
            assert pdf_settings_of(job) == PRESS
            [preset] = presets_of(session, "pdf")
            assert (preset.name, settings_in(preset)) == ("Quay press", PRESS)
            made = job.pages[1].items[-1].picture
            [copy] = recipes_behind(session, [made.id]).values()
            assert recipe_from_values(copy.recipe) == HALF
            assert copy.picture.file_name == "gull.png" and copy.note == "Imported with Quay flyer."
            ask_again(copy)
            copy_id = copy.id
        make_copy(studio, copy_id)
        with studio.session() as session:
            assert copy_with(session, copy_id).note == "Made again: the same bytes as before."

    @pytest.fixture
    def without_gull(self, studio, laid_out, tmp_path):
        """A pack made while gull.png was missing, and the bytes of that file."""
        with studio.session() as session:
            path = path_of(job_with(session, laid_out).pages[1].items[0].picture)
            data = path.read_bytes()
            path.unlink()
        with studio.session() as session:
            job = job_with(session, laid_out)
            output_id = ask_for_pack(session, job, "A proof.", "I. Varga").id
        make_output(studio, output_id)
        with studio.session() as session:
            output = output_with(session, output_id)
        assert output.state == "done" and not output.receipt["is_kept"]
        assert output.receipt["pack"]["missing"] == ["gull.png"]
        pack = tmp_path / "pack.zip"
        with studio.blobs.open(output.sha256) as file:
            pack.write_bytes(file.read())
        return pack, data

    def test_a_missing_picture_comes_back_with_its_crop_and_takes_its_file_again(
        self, studio, laid_out, without_gull
    ):
        pack, data = without_gull
        with studio.session() as session:
            before = placement_of(job_with(session, laid_out).pages[1].items[0])
            # As in a studio that never saw it.
            session.execute(
                update(Picture).where(Picture.file_name == "gull.png").values(sha256="")
            )
        opening = opened(studio, pack)
        with studio.session() as session:
            [item] = whole_job(session, opening.job_id).pages[1].items
            assert placement_of(item) == before
            assert state_of(item.picture) is FileState.MISSING
            assert item.picture.shelf.name == "From Quay flyer"
            back = import_picture(
                studio, session, item.picture.shelf, "found.png", io.BytesIO(data)
            )
            assert back.id == item.picture.id and back.failure is None
            assert state_of(item.picture) is FileState.IN_PLACE

    def test_one_that_is_known_here_by_its_bytes_is_linked(self, studio, laid_out, without_gull):
        opening = opened(studio, without_gull[0])
        with studio.session() as session:
            numbers = [
                whole_job(session, number).pages[1].items[0].picture_id
                for number in (laid_out, opening.job_id)
            ]
            assert numbers[0] == numbers[1]

    def test_it_says_how_far_it_is_and_can_be_cancelled_between_pages(
        self, studio, packed, monkeypatch
    ):
        steps = []

        def noted(self, done):
            steps.append((done, self.pictures, self.pages))
            if done == 3:
                with self.work.studio.session() as session:
                    opening_with(session, self.work.row_id).state = CANCELLED
            kept(self, done)

        kept = opening_module._Steps.at
        monkeypatch.setattr(opening_module._Steps, "at", noted)
        monkeypatch.setattr("harnet.studio.tasks.work._TOLD_EVERY_SECONDS", 0.0)
        with studio.session() as session:
            jobs = session.query(Job).count()
        assert opened(studio, packed[0]).state == CANCELLED
        # Two pictures may end together, and a look without news tells the same again.
        assert steps == sorted(steps)
        assert (steps[0], steps[-1]) == ((0, 3, 2), (3, 3, 2))
        with studio.session() as session:
            assert session.query(Job).count() == jobs


class TestByHand:
    def test_it_is_a_job(self, studio, by_hand):
        opening = opened(studio, by_hand())
        # Its bytes are let go once its pictures lie on their shelf, and swept some time later.
        studio.blobs.open(opening.sha256).close()
        sweep(studio, grace_seconds=-1)
        with pytest.raises(FileNotFoundError):
            studio.blobs.open(opening.sha256)
        with studio.session() as session:
            job = whole_job(session, opening.job_id)
            assert (job.title, len(job.pages), job.target["density_ppi"]) == (
                "Quay leaflet",
                2,
                300,
            )
            placed, text = job.pages[0].items
            # 300 px across one inch.
            assert placed.scale_x == pytest.approx(72 / 300)
            assert text.text == "The slipway"

    @pytest.mark.parametrize(
        "changes, words",
        [
            ({"title": ""}, "at title: string should have at least 1 character"),
            ({"format": "leaflet"}, "at format: input should be 'harnet job'"),
            ({"pages": []}, "at pages: list should have at least 1 item"),
            ({"pictures": []}, "page 1 places “slipway”, which is not among the pictures"),
            (
                {"pictures": HAND_WRITTEN["pictures"] * 2},
                "two pictures are called “slipway”",
            ),
            (
                {"pictures": [{"name": "slipway", "file": "../../slipway.jpg"}]},
                "at pictures → 0 → file",
            ),
            (
                {"pictures": [{"name": "slipway", "file": "pictures/gull.jpg"}]},
                "it contains no pictures/gull.jpg",
            ),
            (
                {
                    "pictures": [
                        {"name": "slipway", "file": "pictures/slipway.jpg", "sha256": "0" * 64}
                    ]
                },
                "is not the picture that was packed",
            ),
            ({"colour": "red"}, "at colour: extra inputs are not permitted"),
            (
                {
                    "pictures": [
                        {
                            "name": "slipway",
                            "file": None,
                            "without_file": {
                                "format": "png",
                                "px_w": 9,
                                "width_pt": 9,
                                "height_pt": 9,
                            },
                        }
                    ]
                },
                "a picture has either pixels or",
            ),
            (
                {
                    "pages": [
                        {"items": [HAND_WRITTEN["pages"][0]["items"][0] | {"accepted": TWICE}]}
                    ]
                },
                "“rights-unknown” is accepted twice",
            ),
            (
                {"pictures": [HAND_WRITTEN["pictures"][0] | {"copy_of": "gull"}]},
                "is a copy of “gull”, which is not among the pictures",
            ),
        ],
    )
    def test_what_is_wrong_is_told_with_its_place(self, by_hand, tmp_path, changes, words):
        (tmp_path / "opened").mkdir()
        with pytest.raises(UnreadableFile, match=words):
            read_pack(by_hand(changes), "by hand.zip", tmp_path / "opened")

    def test_what_is_no_pack_is_refused_before_anything_is_kept(self, studio, tmp_path):
        path = tmp_path / "no.zip"
        for data, words in (
            (b"PK no zip", "ZIP is incomplete"),
            (None, "it contains no job.json"),
        ):
            if data is None:
                with zipfile.ZipFile(path, "w") as pack:
                    pack.writestr("notes.txt", "nothing")
            else:
                path.write_bytes(data)
            with (
                pytest.raises(UnreadableFile, match=words),
                studio.session() as session,
                path.open("rb") as file,
            ):
                keep_pack(studio, session, path.name, file)

    def test_a_recipe_that_its_original_cannot_have_fails_the_opening(self, studio, by_hand):
        recipe = recipe_as_values(replace(HALF, crop=PixelBox(0, 0, 9000, 200)))
        original = {
            "name": "gull",
            "file": None,
            "without_file": {"format": "png", "px_w": 30, "px_h": 20},
        }
        copied = HAND_WRITTEN["pictures"][0] | {"copy_of": "gull", "recipe": recipe}
        opening = opened(studio, by_hand({"pictures": [copied, original]}))
        assert opening.state == "failed" and opening.job_id is None
        assert "The recipe of slipway is invalid" in opening.failure

    def test_a_vector_picture_is_told_without_its_file(self, tmp_path):
        path = tmp_path / "crest.svg"
        path.write_text('<svg xmlns="http://www.w3.org/2000/svg" width="90" height="60"/>')
        facts = facts_of(path)
        told = FileEntry.model_validate_json(FileEntry.of(facts).model_dump_json()).facts
        assert told.is_vector and (told.width_pt, told.height_pt) == (
            facts.width_pt,
            facts.height_pt,
        )

    def test_a_picture_that_is_none_fails_the_opening_and_makes_no_job(self, studio, by_hand):
        path = by_hand(
            {"pictures": [{"name": "slipway", "file": "pictures/notes.txt"}]},
            **{"pictures/notes.txt": "no picture"},
        )
        opening = opened(studio, path)
        assert (opening.state, opening.job_id) == ("failed", None)
        assert opening.failure.startswith("slipway: ")
        assert opening.failure.endswith("The pack was not opened.")

    def test_a_bomb_is_not_unpacked(self, by_hand, tmp_path, monkeypatch):
        monkeypatch.setattr(reading, "MAX_FILE_BYTES", 1_000_000)
        path = by_hand({"pictures": [{"name": "slipway", "file": "pictures/large"}]})
        with zipfile.ZipFile(path, "a", zipfile.ZIP_DEFLATED) as pack:
            pack.writestr("pictures/large", bytes(50_000_000))
        (tmp_path / "opened").mkdir()
        with pytest.raises(UnreadableFile, match="larger than the limit"):
            read_pack(path, "bomb.zip", tmp_path / "opened")
        assert sum(one.stat().st_size for one in (tmp_path / "opened").iterdir()) <= 1_000_000


def harnet(*words, **more):
    return subprocess.run(
        [Path(sys.executable).with_name("harnet"), *map(str, words)],
        capture_output=True,
        text=True,
        **more,
    )


class TestExport:
    """The command; it has neither a server nor a database to ask."""

    ALONE = {"PATH": "/usr/bin:/bin"}

    def test_the_published_example(self, make_picture, tmp_path):
        example = (files("harnet.schemas") / "job.example.json").read_bytes()
        Draft202012Validator(schema("job.schema.json")).validate(json.loads(example))
        with zipfile.ZipFile(tmp_path / "example.zip", "w") as pack:
            pack.writestr("job.json", example)
            pack.write(make_picture("slipway.jpg"), "pictures/slipway.jpg")
        out = tmp_path / "example.pdf"
        done = harnet("export", tmp_path / "example.zip", "--pdf", out, env=self.ALONE)
        # One of its two pictures has no file: that is told, and its place is marked.
        assert done.returncode == 1 and "gull.png" in done.stdout + done.stderr
        with pypdfium2.PdfDocument(out) as pdf:
            assert len(pdf) == 2
            assert pdf[0].get_size() == pytest.approx((297.64 + 2 * 8.504, 436.538), abs=0.01)
            assert "The slipway at low water" in pdf[0].get_textpage().get_text_range()

    def test_a_pdf(self, by_hand, tmp_path):
        out = tmp_path / "made" / "leaflet.pdf"
        done = harnet("export", by_hand(), "--pdf", out, env=self.ALONE)
        assert (done.returncode, done.stderr.splitlines()[-1]) == (0, "page 2 of 2")
        assert "2 pages" in done.stdout and "1 picture as promised" in done.stdout
        listed = subprocess.run(
            ["pdfimages", "-list", out], capture_output=True, text=True, check=True
        ).stdout.splitlines()[2:]
        [(width, ppi)] = [(line.split()[3], line.split()[12]) for line in listed]
        assert (width, ppi) == ("300", "300")
        assert sorted(one.name for one in out.parent.iterdir()) == ["leaflet.pdf"]

    def test_trimmed_for_a_target(self, by_hand, tmp_path):
        out = tmp_path / "leaflet.pdf"
        options = ("--mode", "trim", "--target", "100", "--threshold", "1", "--pages", "1")
        assert harnet("export", by_hand(), "--pdf", out, *options).returncode == 0
        listed = subprocess.run(
            ["pdfimages", "-list", out], capture_output=True, text=True, check=True
        ).stdout.splitlines()[2:]
        assert [line.split()[12] for line in listed] == ["100"]

    @pytest.mark.parametrize(
        "options, size, form",
        [
            (("--dpi", "150"), (625, 833), "PNG"),
            (("--width-px", "600", "--format", "jpeg"), (600, 800), "JPEG"),
            (("--dpi", "96", "--format", "tiff", "--inks"), (400, 533), "TIFF"),
        ],
    )
    def test_images_look_like_popplers(self, by_hand, tmp_path, options, size, form):
        pack, folder = by_hand(), tmp_path / "pages"
        done = harnet("export", pack, "--images", folder, "--pages", "1", *options)
        assert done.returncode == 0, done.stderr
        [path] = folder.iterdir()
        image = Image.open(path)
        assert (image.size, image.format) == (size, form)
        if "--inks" in options:
            assert image.mode == "CMYK"
            return
        out = tmp_path / "leaflet.pdf"
        assert harnet("export", pack, "--pdf", out).returncode == 0
        subprocess.run(
            [
                *("pdftoppm", "-png", "-singlefile", "-f", "1", "-cropbox"),
                *("-scale-to-x", str(size[0]), "-scale-to-y", str(size[1])),
                *("-x", "0", "-y", "0", cropped_to_trim(out, tmp_path), tmp_path / "poppler"),
            ],
            check=True,
        )
        one, other = (
            np.asarray(Image.open(each).convert("L"), float)
            for each in (path, tmp_path / "poppler.png")
        )
        assert structural_similarity(one, other, data_range=255) > 0.98

    def test_a_missing_picture_is_a_broken_promise(self, by_hand, tmp_path):
        pack = by_hand({"pictures": [{"name": "slipway", "file": None}]})
        done = harnet("export", pack, "--pdf", tmp_path / "a.pdf")
        assert done.returncode == 1
        assert "slipway, page 1: missing: replaced by a marked box" in done.stderr

    @pytest.mark.parametrize(
        "options, words",
        [
            (("--pdf", "a.pdf", "--pages", "9"), "there are pages 1 to 2, not 9"),
            (("--pdf", "a.pdf", "--target", "nothing"), "nothing"),
            (("--images", "pages", "--dpi", "5000"), "72 to 1200 ppi"),
            (("--images", "pages", "--dpi", "72", "--width-px", "3"), "give one of"),
            ((), "say what to write"),
        ],
    )
    def test_what_makes_no_sense_is_told_and_nothing_is_written(
        self, by_hand, tmp_path, options, words
    ):
        empty = tmp_path / "empty"
        empty.mkdir()
        done = harnet("export", by_hand(), *options, cwd=empty)
        assert done.returncode == 2 and words in done.stderr
        assert not [one for one in empty.rglob("*") if one.is_file()]

    def test_a_file_that_is_no_pack(self, tmp_path):
        done = harnet("export", tmp_path / "none.zip", "--pdf", tmp_path / "a.pdf")
        assert done.returncode == 2
        assert done.stderr.strip().endswith(
            "none.zip: the file cannot be opened (no such file or directory)."
        )


def cropped_to_trim(path, tmp_path):
    """The PDF with its crop box at the trim, so that poppler draws what a page image holds."""
    import pikepdf  # noqa: PLC0415

    cropped = tmp_path / "cropped.pdf"
    with pikepdf.open(path) as pdf:
        for page in pdf.pages:
            page.obj.CropBox = page.obj.TrimBox
        pdf.save(cropped)
    return cropped
