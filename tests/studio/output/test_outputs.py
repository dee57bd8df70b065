"""Outputs through the queue and the worker: whole or not at all, read back, with receipts."""

import asyncio
import shutil
import subprocess
from concurrent.futures import ThreadPoolExecutor
from dataclasses import replace
from zipfile import ZipFile

import numpy as np
import pikepdf
import pytest
from PIL import Image
from skimage.metrics import structural_similarity

from harnet.core.measure.density import EffectiveDensity
from harnet.core.output.page_images import ImageFormat, ImageSettings, SizeBy
from harnet.core.output.pdf_settings import PdfStandard
from harnet.core.targets.shipped import target_named
from harnet.media.pagedrawing.page_image import FoundImageFile
from harnet.media.pagedrawing.plan import PagePlan
from harnet.media.pdf.writing.boxes import boxes_of
from harnet.media.pdf.writing.finish import Finish
from harnet.media.pdf.writing.readback import FoundImage, FoundPage, FoundPdf
from harnet.media.pdf.writing.write import Promise
from harnet.media.pixels.colour import GENERIC_CMYK
from harnet.store.blobs import sha256_of
from harnet.studio.common.errors import Refused
from harnet.studio.documents.check import check_document
from harnet.studio.jobs.jobs import job_with, set_target, target_of
from harnet.studio.output import task as output_task
from harnet.studio.output.outputs import (
    ask_again,
    ask_for_images,
    ask_for_pdf,
    output_with,
)
from harnet.studio.output.pdf_receipt import pdf_receipt
from harnet.studio.output.receipts import image_receipt
from harnet.studio.output.task import make_output
from harnet.studio.pictures.picture import path_of
from harnet.studio.targets.targets import target_asked
from harnet.studio.tasks.work import cancel_work
from harnet.worker.tasks import queue_on
from tests.support.jobs import found_in, placed_in


def image_of(page_number, density_ppi, **more):
    return ImageSettings(pages=str(page_number), density_ppi=density_ppi, **more)


def asked(studio, job_id, **image):
    with studio.session() as session:
        job = job_with(session, job_id)
        if image:
            return ask_for_images(session, job, image_of(**image)).id
        return ask_for_pdf(session, job, "The gull is a stopgap.", "I. Varga").id


def result(studio, output_id):
    with studio.session() as session:
        return output_with(session, output_id)


def test_the_worker_makes_what_is_on_the_queue(settings, studio, laid_out, tmp_path):
    output_id = asked(studio, laid_out)
    queue = queue_on(settings)
    with queue.open():
        queue.configure_task("make_output", queue="outputs").defer(row_id=output_id)

    async def work():
        worker_queue = queue_on(settings)
        async with worker_queue.open_async():
            await worker_queue.run_worker_async(wait=False, install_signal_handlers=False)

    # In a thread of its own: the browser tests leave an event loop running in this one.
    with ThreadPoolExecutor(1) as thread:
        thread.submit(lambda: asyncio.run(work())).result()
    output = result(studio, output_id)
    assert (output.state, output.failure) == ("done", None)
    assert (output.steps_done, output.steps_total) == (2, 2)
    assert output.receipt["is_kept"]
    with studio.blobs.open(output.sha256) as file, (tmp_path / "out.pdf").open("wb") as copy:
        shutil.copyfileobj(file, copy)
    # The ledger's figures are the command's on the PDF that left.
    checked = check_document(tmp_path / "out.pdf", "out.pdf", target_named("coated"))
    with studio.session() as session:
        placed = placed_in(session, job_with(session, laid_out))
        for one, image, line in zip(placed, checked.images, checked.lines, strict=True):
            assert image.density.x == pytest.approx(one.figures.density.x, rel=1e-6)
            assert line.verdict is one.figures.verdict


def test_a_page_image_is_read_back(studio, laid_out):
    output_id = asked(studio, laid_out, page_number=1, density_ppi=150)
    make_output(studio, output_id)
    output = result(studio, output_id)
    (image,) = output.receipt["images"]
    assert image["px_found"] == image["px_promised"] == [874, 1240]
    assert image["density_found"] == pytest.approx(150, abs=0.02)
    assert output.receipt["is_kept"] and output.file_name == "Quay flyer page 1.png"


@pytest.mark.parametrize("ppi", [71, 1201, 0, -5])
def test_densities_outside_the_range_are_refused(studio, laid_out, ppi):
    with pytest.raises(Refused, match="72 to 1200"):
        asked(studio, laid_out, page_number=1, density_ppi=ppi)


def test_a_page_too_large_for_a_density_is_refused_with_its_pixels(studio, new_job):
    with pytest.raises(Refused, match="megapixels"):
        asked(studio, new_job(width=850, height=2000), page_number=1, density_ppi=600)


def test_a_file_that_vanishes_is_told_in_preflight_and_in_the_receipt(studio, laid_out):
    with studio.session() as session:
        path_of(job_with(session, laid_out).pages[1].items[0].picture).unlink()
    with studio.session() as session:
        findings = found_in(session, job_with(session, laid_out))
        assert "file-missing" in [finding.rule_id for finding in findings]
    output_id = asked(studio, laid_out)
    make_output(studio, output_id)
    output = result(studio, output_id)
    assert (output.state, output.receipt["is_kept"]) == ("done", False)
    assert [row["is_kept"] for row in output.receipt["rows"]] == [True, False]


def test_a_file_spoilt_after_placing_is_a_marked_box_and_the_rest_is_made(studio, laid_out):
    with studio.session() as session:
        path_of(job_with(session, laid_out).pages[1].items[0].picture).write_bytes(b"spoilt")
    output_id = asked(studio, laid_out)
    make_output(studio, output_id)
    output = result(studio, output_id)
    assert output.state == "done" and not output.receipt["is_kept"]
    assert [row["is_kept"] for row in output.receipt["rows"]] == [True, False]
    assert list(studio.settings.scratch_folder.iterdir()) == []


def test_a_cancelled_output_is_not_made(studio, laid_out):
    output_id = asked(studio, laid_out)
    with studio.session() as session:
        cancel_work(output_with(session, output_id))
    make_output(studio, output_id)
    assert result(studio, output_id).state == "cancelled"


def test_cancelling_while_it_is_made_stops_it(studio, laid_out, monkeypatch):
    output_id = asked(studio, laid_out)
    real = output_task.make_apart

    def cancelled_midway(making, folder, progress, look_up):
        def watched(done, total):
            if done == 1:
                with studio.session() as session:
                    cancel_work(output_with(session, output_id))
            progress(done, total)

        return real(making, folder, watched, look_up)

    monkeypatch.setattr(output_task, "make_apart", cancelled_midway)
    make_output(studio, output_id)
    assert result(studio, output_id).state == "cancelled"
    assert list(studio.settings.scratch_folder.iterdir()) == []


PLAN = PagePlan(number=1, width_pt=300, height_pt=400, bleed_pt=0, parts=())
PROMISE = Promise(
    page_number=1,
    item_id=7,
    name="slipway.jpg",
    how="passed through unchanged",
    px_w=300,
    px_h=200,
    density=EffectiveDensity(250, 250, 250),
)
FOUND = FoundImage(1, 300, 200, EffectiveDensity(250, 250, 250))
PAGE = FoundPage("1", boxes_of(PLAN, False), ())
WHOLE = FoundPdf(
    pages=(PAGE,),
    images=(FOUND,),
    inner_images=(),
    fonts={},
    title="Quay",
    language="en",
    version="1.7",
)
X4 = Finish(standard=PdfStandard.X4, intent=GENERIC_CMYK, language="en")


def with_trim(width):
    return replace(PAGE, boxes=replace(PAGE.boxes, trim=(0, 0, width, 400.0)))


def receipt_of(found, finish=Finish(language="en"), plan=PLAN):  # noqa: B008
    return pdf_receipt([plan], [PROMISE], found, "Quay", finish)


class TestReceiptsNoticeWhatIsWrong:
    def test_all_as_promised(self):
        assert receipt_of(WHOLE)["is_kept"]

    @pytest.mark.parametrize(
        "found",
        [
            replace(WHOLE, images=()),
            replace(WHOLE, images=(FOUND, FOUND)),
            replace(WHOLE, images=(replace(FOUND, px_w=150),)),
            replace(WHOLE, images=(replace(FOUND, density=EffectiveDensity(250, 249, 249)),)),
            replace(WHOLE, images=(replace(FOUND, page_number=2),)),
            replace(WHOLE, pages=()),
            replace(WHOLE, pages=(with_trim(301),)),
            replace(WHOLE, pages=(replace(PAGE, label="i"),)),
            replace(WHOLE, pages=(replace(PAGE, links=("https://tarnholm.example",)),)),
            replace(WHOLE, fonts={"Bitter": False}),
            replace(WHOLE, title="Harbour"),
            replace(WHOLE, language="de"),
            replace(WHOLE, version="1.4"),
            replace(WHOLE, standard="PDF/X-4"),
        ],
    )
    def test_a_pdf_that_differs(self, found):
        assert not receipt_of(found)["is_kept"]

    def test_a_standard_that_was_promised_must_be_found(self):
        found = {"intent": "Generic CMYK", "intent_sha256": sha256_of(GENERIC_CMYK)}
        kept = replace(WHOLE, version="1.6", standard="PDF/X-4", **found)
        assert receipt_of(kept, X4)["is_kept"]
        assert not receipt_of(replace(kept, intent=""), X4)["is_kept"]
        assert not receipt_of(replace(kept, intent_sha256="0" * 64), X4)["is_kept"]
        assert not receipt_of(replace(kept, standard=""), X4)["is_kept"]

    @pytest.mark.parametrize(
        "found, is_kept",
        [
            (
                FoundImageFile(
                    px_w=625, px_h=833, density_x=149.99, density_y=149.99, profile="sRGB"
                ),
                True,
            ),
            (FoundImageFile(px_w=625, px_h=833, density_x=150.0, density_y=150.0), False),
            (
                FoundImageFile(px_w=625, px_h=833, density_x=96.0, density_y=96.0, profile="sRGB"),
                False,
            ),
            (
                FoundImageFile(px_w=625, px_h=833, density_x=None, density_y=None, profile="sRGB"),
                False,
            ),
            (
                FoundImageFile(
                    px_w=624, px_h=833, density_x=150.0, density_y=150.0, profile="sRGB"
                ),
                False,
            ),
        ],
    )
    def test_a_page_image_that_differs(self, found, is_kept):
        assert image_receipt((625, 833), 150, [PROMISE], found)["is_kept"] is is_kept


class TestTargets:
    def test_an_own_figure_and_its_refusals(self, studio, laid_out):
        with studio.session() as session:
            job = job_with(session, laid_out)
            assert set_target(session, job, "own", 240).density_ppi == 240
            for key, figure in (("own", None), ("own", -1), ("cardboard", None)):
                with pytest.raises(Refused):
                    set_target(session, job, key, figure)
            assert target_of(job).density_ppi == 240

    def test_keys(self, studio):
        with studio.session() as session:
            assert target_asked(session, "slides").density_ppi == 96
            with pytest.raises(Refused, match="no target named"):
                target_asked(session, "")


class TestPageImages:
    def made(self, studio, job_id, **settings):
        with studio.session() as session:
            job = job_with(session, job_id)
            output_id = ask_for_images(session, job, ImageSettings(**settings)).id
        make_output(studio, output_id)
        return result(studio, output_id)

    def files(self, studio, output, tmp_path):
        path = tmp_path / output.file_name
        with studio.blobs.open(output.sha256) as file, path.open("wb") as copy:
            shutil.copyfileobj(file, copy)
        if path.suffix != ".zip":
            return [path]
        with ZipFile(path) as pack:
            assert pack.testzip() is None
            pack.extractall(tmp_path)
            return [tmp_path / name for name in pack.namelist()]

    @pytest.mark.parametrize(
        "wish, px, ppi",
        [
            # arithmetic on 148 × 210 mm: 150 ppi, 1000 px wide, 1000 px high
            ({"density_ppi": 150}, (874, 1240), 150),
            ({"size_by": SizeBy.WIDTH, "edge_px": 1000}, (1000, 1419), 171.62),
            ({"size_by": SizeBy.HEIGHT, "edge_px": 1000}, (705, 1000), 120.95),
        ],
    )
    @pytest.mark.parametrize("form", list(ImageFormat))
    def test_by_density_and_by_pixels(self, studio, laid_out, tmp_path, wish, px, ppi, form):
        output = self.made(studio, laid_out, format=form, pages="1", **wish)
        assert output.receipt["is_kept"], output.receipt
        [path] = self.files(studio, output, tmp_path)
        with Image.open(path) as image:
            assert image.format == form.name and image.size == px
            # A JPEG counts its density in whole ppi, PNG in whole pixels per metre.
            assert float(image.info["dpi"][0]) == pytest.approx(ppi, abs=0.51)

    def test_all_pages_in_one_pack(self, studio, laid_out, tmp_path):
        output = self.made(studio, laid_out, density_ppi=96, names="{title}, {page} at {ppi}")
        assert output.file_name == "Quay flyer 2 pages.zip"
        assert (output.steps_done, output.steps_total) == (2, 2)
        names = [path.name for path in self.files(studio, output, tmp_path)]
        assert names == ["Quay flyer, 1 at 96.png", "Quay flyer, 2 at 96.png"]
        assert [one["page"] for one in output.receipt["images"]] == [1, 2]

    def test_a_limit_of_bytes_is_kept_by_the_best_quality_that_does(
        self, studio, laid_out, tmp_path
    ):
        limit = {"size_by": SizeBy.BYTES, "format": ImageFormat.JPEG, "density_ppi": 150}
        sizes = []
        for limit_bytes in (40_000, 80_000):
            output = self.made(studio, laid_out, pages="1", limit_bytes=limit_bytes, **limit)
            [path] = self.files(studio, output, tmp_path)
            sizes.append(path.stat().st_size)
            assert sizes[-1] <= limit_bytes
        assert sizes[1] > sizes[0]
        for pages in ("1", "all"):
            output = self.made(studio, laid_out, pages=pages, limit_bytes=2000, **limit)
            assert output.state == "failed" and "Choose a lower density" in output.failure

    def test_the_same_once_more(self, studio, laid_out):
        first = self.made(studio, laid_out, density_ppi=96)
        with studio.session() as session:
            job = job_with(session, laid_out)
            again = ask_again(session, job, output_with(session, first.id))
            assert again.settings == first.settings
        make_output(studio, again.id)
        assert result(studio, again.id).sha256 == first.sha256

    @pytest.mark.parametrize(
        "wish, says",
        [
            ({"pages": "3"}, "pages 1 to 2"),
            ({"pages": "one"}, "is not a page"),
            ({"names": "cover"}, "must contain"),
            ({"size_by": SizeBy.BYTES, "limit_bytes": 90_000}, "Only JPEG"),
            ({"size_by": SizeBy.WIDTH, "edge_px": 0}, "An edge has"),
        ],
    )
    def test_what_makes_no_sense_is_refused(self, studio, laid_out, wish, says):
        with pytest.raises(Refused, match=says):
            self.made(studio, laid_out, **wish)

    def test_poppler_draws_the_same_page(self, studio, laid_out, tmp_path):
        [path] = self.files(
            studio, self.made(studio, laid_out, density_ppi=100, pages="1"), tmp_path
        )
        document_id = asked(studio, laid_out)
        make_output(studio, document_id)
        with studio.blobs.open(result(studio, document_id).sha256) as file:
            (tmp_path / "o.pdf").write_bytes(file.read())
        # The page image is the trim; poppler is asked for the same box.
        command = ["pdftocairo", "-r", "100", "-png", "-singlefile", "-f", "1", "-l", "1"]
        subprocess.run([*command, tmp_path / "o.pdf", tmp_path / "p"], check=True)
        with pikepdf.open(tmp_path / "o.pdf") as pdf:
            bleed_px = float(pdf.pages[0].TrimBox[0]) / 72 * 100
        ours = np.asarray(Image.open(path).convert("L")).astype(float)
        theirs = Image.open(tmp_path / "p.png").convert("L")
        left = round(bleed_px)
        theirs = theirs.crop((left, left, left + ours.shape[1], left + ours.shape[0]))
        measure = structural_similarity(
            ours, np.asarray(theirs).astype(float), data_range=255, gaussian_weights=True
        )
        assert measure > 0.98
