"""Drawings and PDFs with images inside: what they bring along is judged, printed and read back."""

import base64
import io
import subprocess

import pikepdf
import pytest
from PIL import Image, ImageChops, ImageStat
from reportlab.lib.utils import ImageReader
from reportlab.pdfgen.canvas import Canvas

from harnet.core.layout.figures import figures_of, natural_reach_pt
from harnet.core.layout.placing import Adjusts, Content, Placement, scaled_to_reach, source_from
from harnet.core.measure.geometry import Box
from harnet.core.measure.verdict import Verdict
from harnet.core.targets.shipped import target_named
from harnet.media.errors import UnreadableFile
from harnet.media.facts.read import facts_of
from harnet.studio.documents.check import check_document
from harnet.studio.jobs.jobs import job_with
from harnet.studio.layout.placed import placement_of, write_placement
from harnet.studio.layout.placing import place_picture
from harnet.studio.output.outputs import ask_for_pdf, output_with
from harnet.studio.output.task import make_output
from harnet.studio.pictures.picture import facts_of_picture, picture_with
from harnet.studio.pictures.shelves import look_at_shelves
from tests.support.jobs import found_in, placed_in
from tests.support.pictures import photo

COATED = target_named("coated")


def as_data(width, height):
    """A PNG as a data address."""
    out = io.BytesIO()
    Image.fromarray(photo(width, height)).save(out, "PNG")
    return "data:image/png;base64," + base64.b64encode(out.getvalue()).decode()


def svg_with(tmp_path, body, size=(432, 288), box=None):
    path = tmp_path / "map.svg"
    view = f' viewBox="{box}"' if box else ""
    path.write_text(
        '<svg xmlns="http://www.w3.org/2000/svg"'
        f' width="{size[0]}" height="{size[1]}"{view}>{body}</svg>'
    )
    return path


@pytest.fixture
def map_svg(tmp_path):
    """432 × 288 px as large in CSS pixels: 96 ppi at its natural size of 324 × 216 pt."""
    return svg_with(tmp_path, f'<image width="432" height="288" href="{as_data(432, 288)}"/>')


def pdf_with(path, turn=0, unit=1.0, crop=None):
    """A page of 300 × 400 units with a word, and 600 × 400 px on 144 × 96 units."""
    canvas = Canvas(str(path), pagesize=(300, 400))
    canvas.drawImage(ImageReader(Image.fromarray(photo(600, 400))), 72, 144, 144, 96)
    canvas.drawString(60, 120, "Slipway")
    canvas.save()
    with pikepdf.open(path, allow_overwriting_input=True) as pdf:
        page = pdf.pages[0].obj
        page.Rotate = turn
        if unit != 1:
            page.UserUnit = unit
        if crop:
            page.CropBox = pikepdf.Array(crop)
        pdf.save(path)
    return path


def placed(facts, width_pt):
    """The whole picture at a width."""
    source = source_from(facts)
    scale = width_pt / source.px_w
    return Placement(
        source=source, frame=Box(0, 0, width_pt, source.px_h * scale), content=Content(scale, scale)
    )


class TestFigures:
    def test_an_image_in_a_drawing_decides(self, map_svg):
        facts = facts_of(map_svg)
        assert facts.is_vector and facts.image_count == 1
        # arithmetic: 432 px on 1 000 pt are 31.1 ppi
        figures = figures_of(placed(facts, 1000), COATED)
        assert figures.judged_ppi == pytest.approx(31.1, abs=0.05)
        assert figures.verdict is Verdict.COARSE
        # 432 px reach 103.68 pt at 300 ppi
        assert natural_reach_pt(facts, COATED)[0] == pytest.approx(103.68, rel=1e-4)
        reached = scaled_to_reach(placed(facts, 1000), COATED, Adjusts.FRAME)
        assert figures_of(reached, COATED).judged_ppi == 300
        assert reached.frame.width == pytest.approx(103.68, rel=1e-4)

    @pytest.mark.parametrize(
        "body, box, ppi",
        [
            # 300 px on 100 of the box's 200 units; the box fills 400 CSS px: 200 CSS px, 144 ppi.
            ('<image width="100" height="100" href="{}"/>', "0 0 200 200", 144),
            # A group that halves, another that turns: 300 px on 100 CSS px, 288 ppi.
            (
                '<g transform="scale(.5)"><g transform="translate(300 100) rotate(30)">'
                '<image width="200" height="200" href="{}"/></g></g>',
                None,
                288,
            ),
            # meet: the square image stands in the middle of 300 × 100 at 100 × 100.
            ('<image width="300" height="100" href="{}"/>', None, 288),
            # An image that is used at twice its size.
            (
                '<defs><image id="a" width="100" height="100" href="{}"/></defs>'
                '<use href="#a" transform="scale(2)"/>',
                None,
                144,
            ),
        ],
    )
    def test_every_transform_counts(self, tmp_path, body, box, ppi):
        # CSS: 96 px an inch; the rest is arithmetic
        path = svg_with(tmp_path, body.format(as_data(300, 300)), (400, 400), box)
        figures = figures_of(placed(facts_of(path), 300), COATED)
        assert figures.judged_ppi == pytest.approx(ppi, rel=2e-3)

    def test_a_drawing_of_outlines_alone_is_sharp_at_any_size(self, tmp_path):
        facts = facts_of(svg_with(tmp_path, '<path d="M0 0h100v100z"/>'))
        figures = figures_of(placed(facts, 5000), COATED)
        assert figures.is_vector and figures.verdict is Verdict.FULL
        assert natural_reach_pt(facts, COATED) is None

    @pytest.mark.parametrize(
        "change, size",
        [
            ({}, (300, 400)),
            ({"turn": 90}, (400, 300)),
            ({"unit": 2.0}, (600, 800)),
            ({"crop": (50, 100, 250, 300)}, (200, 200)),
            ({"crop": (50, 100, 250, 300), "turn": 270, "unit": 1.5}, (300, 300)),
        ],
    )
    def test_a_page_of_a_pdf_and_the_image_on_it(self, tmp_path, change, size):
        facts = facts_of(pdf_with(tmp_path / "leaflet.pdf", **change))
        assert (facts.width_pt, facts.height_pt) == pytest.approx(size)
        # arithmetic: 600 px on 144 units are 300 ppi, fewer where a unit is larger
        now = figures_of(placed(facts, size[0]), COATED).judged_ppi
        assert now == pytest.approx(300 / change.get("unit", 1.0), abs=0.1)
        assert facts.unembedded_fonts == ("Helvetica",)

    def test_layers_that_are_off_are_refused_with_what_to_do(self, tmp_path):
        path = pdf_with(tmp_path / "layers.pdf")
        with pikepdf.open(path, allow_overwriting_input=True) as pdf:
            group = pdf.make_indirect(pikepdf.Dictionary(Type=pikepdf.Name.OCG, Name="Notes"))
            pdf.Root.OCProperties = pikepdf.Dictionary(
                OCGs=[group], D=pikepdf.Dictionary(OFF=[group])
            )
            pdf.save(path)
        with pytest.raises(UnreadableFile, match="layers that are switched off"):
            facts_of(path)


class TestOnAPage:
    @pytest.fixture
    def printed(self, studio, new_job, on_shelf, tmp_path):
        """Places a file, prints the job, and returns figures, rules, receipt and PDF."""

        def make(path, scale=1.0):
            job_id = new_job(width=400, height=500)
            picture_id = on_shelf(path)
            with studio.session() as session:
                job = job_with(session, job_id)
                item = place_picture(session, job, job.pages[0], picture_with(session, picture_id))
                source = placement_of(item).source
                width, height = (side * scale for side in source.native_size_pt)
                frame = Box(60, 60, width, height)
                write_placement(
                    item, Placement(source=source, frame=frame, content=Content(scale, scale))
                )
                [one] = placed_in(session, job)
                rules = [row.rule_id for row in found_in(session, job)]
                output_id = ask_for_pdf(session, job, "proof", "I. Varga").id
            make_output(studio, output_id)
            with studio.session() as session:
                output = output_with(session, output_id)
                assert output.state == "done", output.failure
                out = tmp_path / "out.pdf"
                studio.blobs.copy_to(output.sha256, out)
                return one, rules, output.receipt, out

        return make

    def test_a_drawing_blocks_and_its_receipt_says_the_figures(self, printed, map_svg):
        one, rules, receipt, out = printed(map_svg, 3.0)
        # arithmetic: 432 px on 972 pt are 32 ppi
        assert one.figures.judged_ppi == 32
        assert "density-below-floor" in rules
        [row] = receipt["rows"]
        assert receipt["is_kept"] and row["found"] == pytest.approx([32, 32], rel=1e-3)
        [image] = check_document(out, "out.pdf", COATED).images
        assert image.density.judged == 32

    def test_one_known_from_before_images_counted_is_read_again(
        self, studio, new_job, on_shelf, map_svg
    ):
        job_id, picture_id = new_job(width=1200, height=900), on_shelf(map_svg)
        with studio.session() as session:
            picture = picture_with(session, picture_id)
            now = dict(picture.facts)
            picture.facts = {
                name: value for name, value in now.items() if not name.startswith("image")
            }
            job = job_with(session, job_id)
            item = place_picture(session, job, job.pages[0], picture)
            write_placement(
                item,
                Placement(
                    source=placement_of(item).source,
                    frame=Box(0, 0, 972, 648),
                    content=Content(3, 3),
                ),
            )
            assert "density-below-floor" not in [row.rule_id for row in found_in(session, job)]
        look_at_shelves(studio)
        with studio.session() as session:
            job = job_with(session, job_id)
            assert picture_with(session, picture_id).facts == now
            assert "density-below-floor" in [row.rule_id for row in found_in(session, job)]

    def test_poppler_finds_the_density_that_was_judged(self, printed, map_svg):
        _, _, _, out = printed(map_svg, 0.5)
        listed = subprocess.run(["pdfimages", "-list", out], capture_output=True, check=True)
        rows = [line.split() for line in listed.stdout.decode().splitlines()[2:]]
        # arithmetic: 96 ppi at half the size
        assert [row[12:14] for row in rows if row[2] == "image"] == [["192", "192"]]

    @pytest.mark.parametrize(
        "change", [{}, {"turn": 90}, {"unit": 2.0}, {"crop": (0, 0, 200, 300)}]
    )
    def test_a_pdf_is_placed_as_vector_and_looks_as_its_own_page(self, printed, tmp_path, change):
        path = pdf_with(tmp_path / "leaflet.pdf", **change)
        one, rules, receipt, out = printed(path)
        assert one.figures.judged_ppi == pytest.approx(300 / change.get("unit", 1.0), abs=0.1)
        assert "picture-fonts-loose" in rules
        [row] = receipt["rows"]
        assert row["is_kept"] and row["how"] == "vector, unchanged"
        # The font that the page did not bring along is a promise that cannot be kept.
        assert not receipt["is_kept"]
        text = subprocess.run(["pdftotext", out, "-"], capture_output=True, check=True)
        assert "Slipway" in text.stdout.decode()
        facts = facts_of(path)
        width, height = round(facts.width_pt * 2), round(facts.height_pt * 2)
        seen = rendered(out).crop((120, 120, 120 + width, 120 + height))
        assert_alike(seen, rendered(path).resize((width, height)))

    def test_a_pdf_stands_on_the_wall_with_its_facts(self, studio, on_shelf, tmp_path):
        picture_id = on_shelf(pdf_with(tmp_path / "leaflet.pdf"))
        with studio.session() as session:
            facts = facts_of_picture(picture_with(session, picture_id))
        assert facts.image_count == 1 and facts.images[0].px_w == 600

    def test_what_form_fields_draw_is_printed_too(self, printed, tmp_path):
        path = tmp_path / "stamped.pdf"
        canvas = Canvas(str(path), pagesize=(200, 200))
        canvas.acroForm.textfield(value="Approved", x=20, y=20, width=100, height=20)
        canvas.showPage()
        canvas.save()
        _, _, _, out = printed(path)
        text = subprocess.run(["pdftotext", out, "-"], capture_output=True, check=True)
        assert "Approved" in text.stdout.decode()


def rendered(path):
    """The first page at 144 dpi by poppler."""
    command = ["pdftoppm", "-r", "144", "-cropbox", "-singlefile", "-png", path]
    made = subprocess.run(command, capture_output=True, check=True)
    return Image.open(io.BytesIO(made.stdout)).convert("L")


def assert_alike(one, other):
    difference = ImageStat.Stat(ImageChops.difference(one, other)).mean[0]
    assert difference < 3, difference
