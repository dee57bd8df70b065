"""Pages of a PDF on a shelf, placed one by one: vector, with the density of the images inside."""

import io
import subprocess
from pathlib import Path

import pikepdf
import pytest
from PIL import Image
from reportlab.lib.utils import ImageReader
from reportlab.pdfgen.canvas import Canvas

from harnet.core.layout.placing import Content, Placement
from harnet.core.measure.geometry import Box
from harnet.studio.common.errors import NotThere, Refused
from harnet.studio.jobs.jobs import job_with, page_of
from harnet.studio.layout.placed import placement_of, write_placement
from harnet.studio.layout.placing import place_picture
from harnet.studio.output.outputs import ask_for_pdf, output_with
from harnet.studio.output.task import make_output
from harnet.studio.pictures.pdf_pages import (
    PAGES_SHELF,
    page_as_picture,
    page_count_of,
    page_thumbnail,
)
from harnet.studio.pictures.picture import facts_of_picture, path_of, picture_with
from harnet.studio.pictures.shelves import all_shelves, look_at_shelves, shelf_named
from harnet.studio.pictures.watching import watch_folder
from tests.support.jobs import found_in, placed_in
from tests.support.pictures import photo


def three_pages(path):
    """On page 2, turned by 90°, 400 × 200 px on 144 × 72 pt: 200 ppi; others on pages 1 and 3."""
    canvas = Canvas(str(path), pagesize=(300, 400), invariant=True)
    for number, (px_w, px_h) in enumerate([(100, 50), (400, 200), (800, 400)], 1):
        pixels = ImageReader(Image.fromarray(photo(px_w, px_h, seed=number)))
        canvas.drawImage(pixels, 20, 20, 144, 72)
        canvas.drawString(30, 300, f"Page {number} of the festival")
        canvas.showPage()
    canvas.save()
    with pikepdf.open(path, allow_overwriting_input=True) as pdf:
        pdf.pages[1].Rotate = 90
        intent = pikepdf.Dictionary(Type=pikepdf.Name.OutputIntent, S=pikepdf.Name.GTS_PDFX)
        pdf.Root.OutputIntents = pikepdf.Array([pdf.make_indirect(intent)])
        pdf.save(path, linearize=False)
    return path


@pytest.fixture
def festival(studio):
    """The PDF on a shelf of Harnet's own; its number."""
    with studio.session() as session:
        shelf = shelf_named(studio, session, "Texts")
        three_pages(Path(shelf.folder) / "festival.pdf")
    look_at_shelves(studio)
    with studio.session() as session:
        [picture] = shelf_named(studio, session, "Texts").pictures
        return picture.id


def test_a_page_is_a_picture_beside_its_pdf(studio, festival):
    with studio.session() as session:
        whole = picture_with(session, festival)
        whole.credit = "Ines Marram"
        assert page_count_of(whole) == 3
        page = page_as_picture(studio, session, whole, 2)
        assert (page.file_name, page.shelf.name) == ("festival page 2.pdf", "Texts")
        assert page.credit == "Ines Marram"
        facts = facts_of_picture(page)
        assert facts.is_vector and facts.frames == 1 and facts.image_count == 1
        assert (facts.width_pt, facts.height_pt) == (400, 300), "turned as it is seen"
        # Once more is the same one.
        assert page_as_picture(studio, session, whole, 2).id == page.id
        text = subprocess.run(["pdftotext", path_of(page), "-"], capture_output=True, check=True)
        assert "Page 2 of the festival" in text.stdout.decode()
        subprocess.run(["qpdf", "--check", path_of(page)], check=True, capture_output=True)
        with pikepdf.open(path_of(page)) as pdf:
            assert pdf.Root.OutputIntents[0].S == "/GTS_PDFX"


def test_its_images_count_at_the_size_placed_and_so_they_print(studio, new_job, festival, tmp_path):
    job_id = new_job(width=400, height=500)
    with studio.session() as session:
        job = job_with(session, job_id)
        page = page_as_picture(studio, session, picture_with(session, festival), 2)
        item = place_picture(session, job, page_of(job, 1), page)
        source = placement_of(item).source

        def at(scale):
            width, height = (side * scale for side in source.native_size_pt)
            frame, content = Box(20, 20, width, height), Content(scale, scale)
            write_placement(item, Placement(source=source, frame=frame, content=content))
            [placed] = placed_in(session, job)
            return placed.figures.judged_ppi

        assert at(1) == pytest.approx(200, abs=0.05)
        # Placed at 150 % the page shows its images at two thirds of their density.
        assert at(1.5) == pytest.approx(200 / 1.5, abs=0.05)
        assert "density-below-tolerance" in [row.rule_id for row in found_in(session, job)]
        output_id = ask_for_pdf(session, job, "proof", "I. Varga").id
    make_output(studio, output_id)
    with studio.session() as session:
        output = output_with(session, output_id)
        assert output.state == "done", output.failure
        out = tmp_path / "out.pdf"
        studio.blobs.copy_to(output.sha256, out)
    listed = subprocess.run(["pdfimages", "-list", out], capture_output=True, check=True)
    cells = listed.stdout.decode().splitlines()[2].split()
    assert (cells[3], cells[4]) == ("400", "200"), "the page's own image, untouched"
    assert float(cells[12]) == pytest.approx(200 / 1.5, abs=1), "as poppler sees it"


def test_of_a_folder_that_is_someone_elses_pages_go_to_a_shelf_of_their_own(studio, tmp_path):
    folder = tmp_path / "sent in"
    folder.mkdir()
    three_pages(folder / "festival.pdf")
    with studio.session() as session:
        watch_folder(studio, session, str(folder))
    look_at_shelves(studio)
    with studio.session() as session:
        [shelf] = [one for one in all_shelves(session) if one.is_watched]
        [whole] = shelf.pictures
        page = page_as_picture(studio, session, whole, 3)
        assert page.shelf.name == PAGES_SHELF
    assert [one.name for one in folder.iterdir()] == ["festival.pdf"]


def test_what_cannot_be(studio, festival):
    with studio.session() as session:
        whole = picture_with(session, festival)
        with pytest.raises(Refused, match="has pages 1 to 3, not 4"):
            page_as_picture(studio, session, whole, 4)
        with pytest.raises(NotThere):
            page_thumbnail(studio, whole, 0)
        with Image.open(io.BytesIO(page_thumbnail(studio, whole, 2))) as drawn:
            assert drawn.size == pytest.approx((220, 165), abs=1), "turned"
        path_of(whole).write_bytes(b"another one")
        with pytest.raises(Refused, match="is not in its place as it was read"):
            page_as_picture(studio, session, whole, 2)
