"""The predicted size of a PDF against the PDF that is then made."""

import zlib

import pytest
import pyvips
from skimage import data

from harnet.core.output.pdf_settings import PdfColour, PdfSettings, PdfStandard, PictureMode
from harnet.media.pixels.colour import GENERIC_CMYK
from harnet.store.blobs import sha256_of
from harnet.studio.jobs.jobs import job_with, whole_job
from harnet.studio.layout.placing import place_picture
from harnet.studio.output.predicting import predicted_size
from harnet.studio.output.rendering import make_pdf
from harnet.studio.output.task import pages_to_draw
from harnet.studio.pictures.picture import path_of, picture_with, remember_file

WAYS = {
    "every pixel": PdfSettings(),
    "trimmed": PdfSettings(mode=PictureMode.TRIM, to_ppi=150, threshold=1.2, quality=85),
    "trimmed without loss": PdfSettings(
        mode=PictureMode.TRIM, to_ppi=150, threshold=1.2, quality=None, drops_cropped=True
    ),
    "light": PdfSettings(mode=PictureMode.LIGHT, to_ppi=150, quality=70),
    "inks, PDF/X-4": PdfSettings(colour=PdfColour.INTENT, standard=PdfStandard.X4),
}


@pytest.fixture
def photographs(studio, new_job, on_shelf, tmp_path):
    """A job with three of scikit-image's photographs, enlarged to a few megapixels each."""
    names = {"astronaut": "cat.jpg", "chelsea": "kiosk.png", "coffee": "counter.tif"}
    job_id = new_job(pages=1)
    for source, name in names.items():
        pixels = pyvips.Image.new_from_array(getattr(data, source)())
        path = tmp_path / name
        pixels.resize(3.7, kernel="cubic").cast("uchar").write_to_file(str(path))
        picture_id = on_shelf(path)
        with studio.session() as session:
            job = job_with(session, job_id)
            item = place_picture(session, job, job.pages[0], picture_with(session, picture_id))
            scale = 0.08 if name != "counter.tif" else 0.5
            item.scale_x = item.scale_y = scale
            item.width_pt = item.height_pt = 140
            item.offset_x = item.offset_y = -10
    return job_id


@pytest.mark.parametrize("way", WAYS)
def test_the_prediction_is_close(studio, photographs, tmp_path, way):
    with studio.session() as session:
        document = pages_to_draw(studio, whole_job(session, photographs))
        predicted = predicted_size(studio, session, document, WAYS[way], seconds=30)
    assert (predicted.measured, predicted.waiting, predicted.unreadable) == (3, 0, ())
    out = tmp_path / "out.pdf"
    receipt = make_pdf(document, WAYS[way], out, lambda done, total: None)
    assert receipt["is_kept"]
    assert predicted.size_bytes == pytest.approx(out.stat().st_size, rel=0.06)


@pytest.mark.parametrize("way", ["every pixel", "light"])
def test_a_profile_is_counted_once_for_all_pictures_that_bring_it(
    studio, new_job, on_shelf, tmp_path, way
):
    job_id = new_job(pages=1)
    for name in ("astronaut", "coffee"):
        path = tmp_path / f"{name}.tif"
        pixels = pyvips.Image.new_from_array(getattr(data, name)())
        inks = pixels.icc_transform(str(GENERIC_CMYK), input_profile="srgb", embedded=False)
        inks.write_to_file(str(path), compression="deflate")
        picture_id = on_shelf(path)
        with studio.session() as session:
            job = job_with(session, job_id)
            assert picture_with(session, picture_id).facts["icc"]
            for _ in range(2):
                place_picture(session, job, job.pages[0], picture_with(session, picture_id))
    with studio.session() as session:
        document = pages_to_draw(studio, whole_job(session, job_id))
        predicted = predicted_size(studio, session, document, WAYS[way], seconds=30)
        again = predicted_size(studio, session, document, WAYS[way], seconds=0)
    assert predicted == again and (predicted.measured, predicted.waiting) == (2, 0)
    out = tmp_path / "out.pdf"
    make_pdf(document, WAYS[way], out, lambda done, total: None)
    profile = len(zlib.compress(GENERIC_CMYK.read_bytes()))
    assert abs(predicted.size_bytes - out.stat().st_size) < profile / 4
    assert predicted.size_bytes == pytest.approx(out.stat().st_size, rel=0.05)


def test_weighing_goes_on_where_it_ended(studio, photographs):
    settings = WAYS["trimmed"]
    seen = []
    for _ in range(4):
        with studio.session() as session:
            document = pages_to_draw(studio, whole_job(session, photographs))
            found = predicted_size(studio, session, document, settings, seconds=0)
            seen.append((found.measured, found.waiting))
    assert seen == [(1, 2), (2, 1), (3, 0), (3, 0)]


def test_a_file_that_cannot_be_read_is_named_and_the_others_are_weighed(studio, photographs):
    with studio.session() as session:
        job = job_with(session, photographs)
        picture = job.pages[0].items[1].picture
        path = path_of(picture)
        path.write_bytes(path.read_bytes()[:5000])
        # As it would be had it been placed like this.
        picture.sha256 = sha256_of(path)
        remember_file(picture)
    with studio.session() as session:
        document = pages_to_draw(studio, whole_job(session, photographs))
        found = predicted_size(studio, session, document, WAYS["light"], seconds=30)
    assert found.waiting == 0 and len(found.unreadable) == 1
    assert found.unreadable[0].startswith("kiosk.png: ")
