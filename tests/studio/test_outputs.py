"""Outputs through the queue and the worker: whole or not at all, read back, with receipts."""

import asyncio
import shutil
from concurrent.futures import ThreadPoolExecutor
from dataclasses import replace

import pytest

from harnet.core.density import EffectiveDensity
from harnet.core.targetlist import target_named
from harnet.media.pageimage import FoundImageFile
from harnet.media.pageplan import PagePlan
from harnet.media.pdf.readback import FoundImage, FoundPdf
from harnet.media.pdf.write import Promise
from harnet.studio.errors import Refused
from harnet.studio.jobs import job_with, set_target, target_of
from harnet.studio.outputs import (
    ask_for_image,
    ask_for_pdf,
    cancel,
    image_receipt,
    make_output,
    output_with,
    pdf_receipt,
)
from harnet.studio.pdfcheck import check_pdf
from harnet.studio.pictures import path_of, picture_with
from harnet.studio.placing import place_picture
from harnet.studio.targets import target_asked
from harnet.worker.tasks import queue_on
from tests.conftest import found_in, placed_in


@pytest.fixture
def laid_out(desk, new_job, on_shelf, make_picture):
    """A job with a tagged JPEG on its first page and an untagged PNG on its second."""
    job_id = new_job(pages="2", bleed="3")
    ids = [
        on_shelf(make_picture("slipway.jpg", dpi=(200, 200))),
        on_shelf(make_picture("gull.png")),
    ]
    with desk.session() as session:
        job = job_with(session, job_id)
        for page, picture_id in zip(job.pages, ids, strict=True):
            place_picture(session, job, page, picture_with(session, picture_id))
    return job_id


def asked(desk, job_id, **image):
    with desk.session() as session:
        job = job_with(session, job_id)
        if image:
            return ask_for_image(session, job, **image).id
        return ask_for_pdf(session, job, "The gull is a stopgap.", "I. Varga").id


def result(desk, output_id):
    with desk.session() as session:
        return output_with(session, output_id)


def test_the_worker_makes_what_is_on_the_queue(settings, desk, laid_out, tmp_path):
    output_id = asked(desk, laid_out)
    queue = queue_on(settings)
    with queue.open():
        queue.configure_task("make_output", queue="outputs").defer(output_id=output_id)

    async def work():
        worker_queue = queue_on(settings)
        async with worker_queue.open_async():
            await worker_queue.run_worker_async(wait=False, install_signal_handlers=False)

    # In a thread of its own: the browser tests leave an event loop running in this one.
    with ThreadPoolExecutor(1) as thread:
        thread.submit(lambda: asyncio.run(work())).result()
    output = result(desk, output_id)
    assert (output.state, output.trouble) == ("done", None)
    assert (output.done_steps, output.all_steps) == (2, 2)
    assert output.receipt["is_kept"]
    with desk.blobs.open(output.sha256) as file, (tmp_path / "out.pdf").open("wb") as copy:
        shutil.copyfileobj(file, copy)
    # The ledger's figures are the command's on the PDF that left.
    checked = check_pdf(tmp_path / "out.pdf", "out.pdf", target_named("coated"))
    with desk.session() as session:
        placed = placed_in(session, job_with(session, laid_out))
        for one, image in zip(placed, checked.images, strict=True):
            assert image.image.density.x == pytest.approx(one.figures.density.x, rel=1e-6)
            assert image.verdict is one.figures.verdict


def test_a_page_image_is_read_back(desk, laid_out):
    output_id = asked(desk, laid_out, page_number=1, density_ppi=150)
    make_output(desk, output_id)
    output = result(desk, output_id)
    assert output.receipt["px_found"] == output.receipt["px_promised"] == [874, 1240]
    assert output.receipt["density_found"] == pytest.approx(150, abs=0.02)
    assert output.receipt["is_kept"] and output.file_name == "Quay flyer page 1 at 150 ppi.png"


@pytest.mark.parametrize("ppi", [71, 1201, 0, -5])
def test_densities_outside_the_range_are_refused(desk, laid_out, ppi):
    with pytest.raises(Refused, match="72 to 1200"):
        asked(desk, laid_out, page_number=1, density_ppi=ppi)


def test_a_page_too_large_for_a_density_is_refused_with_its_pixels(desk, new_job):
    with pytest.raises(Refused, match="megapixels"):
        asked(desk, new_job(width="850", height="2000"), page_number=1, density_ppi=600)


def test_a_file_that_vanishes_is_told_in_preflight_and_in_the_receipt(desk, laid_out):
    with desk.session() as session:
        path_of(job_with(session, laid_out).pages[1].items[0].picture).unlink()
    with desk.session() as session:
        findings = found_in(session, job_with(session, laid_out))
        assert "file-missing" in [finding.rule_id for finding in findings]
    output_id = asked(desk, laid_out)
    make_output(desk, output_id)
    output = result(desk, output_id)
    assert (output.state, output.receipt["is_kept"]) == ("done", False)
    assert [row["is_kept"] for row in output.receipt["rows"]] == [True, False]


def test_a_file_spoilt_after_placing_fails_with_its_name_and_leaves_nothing(desk, laid_out):
    with desk.session() as session:
        path_of(job_with(session, laid_out).pages[1].items[0].picture).write_bytes(b"spoilt")
    output_id = asked(desk, laid_out)
    make_output(desk, output_id)
    output = result(desk, output_id)
    assert output.state == "failed" and output.trouble.startswith("gull.png: ")
    assert output.sha256 is None and list(desk.settings.scratch_folder.iterdir()) == []


def test_a_cancelled_output_is_not_made(desk, laid_out):
    output_id = asked(desk, laid_out)
    with desk.session() as session:
        cancel(output_with(session, output_id))
    make_output(desk, output_id)
    assert result(desk, output_id).state == "cancelled"


def test_cancelling_while_it_is_made_stops_it(desk, laid_out, monkeypatch):
    output_id = asked(desk, laid_out)
    real = __import__("harnet.studio.outputs", fromlist=["write_pdf"]).write_pdf

    def cancelled_midway(plans, title, path, progress):
        def watched(done, total):
            if done == 1:
                with desk.session() as session:
                    cancel(output_with(session, output_id))
            progress(done, total)

        return real(plans, title, path, watched)

    monkeypatch.setattr("harnet.studio.outputs.write_pdf", cancelled_midway)
    make_output(desk, output_id)
    assert result(desk, output_id).state == "cancelled"
    assert list(desk.settings.scratch_folder.iterdir()) == []


PLAN = PagePlan(1, 300, 400, 0, ())
PROMISE = Promise(1, 7, "slipway.jpg", "passes through", 300, 200, EffectiveDensity(250, 250, 250))
FOUND = FoundImage(1, 300, 200, EffectiveDensity(250, 250, 250))
SIZES = ((300.0, 400.0),)


class TestReceiptsNoticeWhatIsWrong:
    def test_all_as_promised(self):
        assert pdf_receipt([PLAN], [PROMISE], FoundPdf(SIZES, (FOUND,)))["is_kept"]

    @pytest.mark.parametrize(
        "found",
        [
            FoundPdf(SIZES, ()),
            FoundPdf(SIZES, (FOUND, FOUND)),
            FoundPdf(SIZES, (replace(FOUND, px_w=150),)),
            FoundPdf(SIZES, (replace(FOUND, density=EffectiveDensity(250, 249, 249)),)),
            FoundPdf(SIZES, (replace(FOUND, page_number=2),)),
            FoundPdf((), (FOUND,)),
            FoundPdf(((300.0, 401.0),), (FOUND,)),
        ],
    )
    def test_a_pdf_that_differs(self, found):
        assert not pdf_receipt([PLAN], [PROMISE], found)["is_kept"]

    @pytest.mark.parametrize(
        "found, is_kept",
        [
            (FoundImageFile(625, 833, 149.99, 149.99), True),
            (FoundImageFile(625, 833, 96.0, 96.0), False),
            (FoundImageFile(625, 833, None, None), False),
            (FoundImageFile(624, 833, 150.0, 150.0), False),
        ],
    )
    def test_a_page_image_that_differs(self, found, is_kept):
        assert image_receipt(PLAN, 150, [PROMISE], found)["is_kept"] is is_kept


class TestTargets:
    def test_an_own_figure_and_its_refusals(self, desk, laid_out):
        with desk.session() as session:
            job = job_with(session, laid_out)
            assert set_target(session, job, "own", "240").density_ppi == 240
            for key, figure in (("own", ""), ("own", "-1"), ("cardboard", "")):
                with pytest.raises(Refused):
                    set_target(session, job, key, figure)
            assert target_of(job).density_ppi == 240

    def test_keys(self, desk):
        with desk.session() as session:
            assert target_asked(session, "slides").density_ppi == 96
            with pytest.raises(Refused, match="no target called"):
                target_asked(session, "")
