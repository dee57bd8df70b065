"""Checked PDFs: read stretch by stretch apart, judged, deleted; hostile ones are told."""

import io

import pikepdf
import pypdf
import pytest
from jsonschema import Draft202012Validator
from PIL import Image
from reportlab.lib.utils import ImageReader
from reportlab.pdfgen.canvas import Canvas

from harnet.core.documents.painted import line_of
from harnet.core.ledger.lines import seen_counts
from harnet.core.measure.verdict import Verdict
from harnet.core.targets.shipped import target_named
from harnet.media.errors import UnreadableFile
from harnet.studio.common.errors import NotThere, Refused
from harnet.studio.documents import kept as kept_pdfs
from harnet.studio.documents import reading
from harnet.studio.documents.check import check_pdf
from harnet.studio.documents.kept import (
    counts_of,
    delete_pdf,
    judge_by,
    keep_pdf,
    pdf_with,
    pictures_in,
    read_pdf,
    target_of_pdf,
)
from harnet.studio.documents.keptreport import noted_copy, report_of_pdf
from harnet.studio.documents.pages import page_picture
from harnet.studio.documents.report import COLUMNS, report_as_json, report_as_rows
from harnet.studio.tasks.sweeping import sweep
from tests.conftest import photo
from tests.studio.test_targets import schema

COATED = target_named("coated")


@pytest.fixture
def leaflet(tmp_path):
    """Three pages: a dense and a thin picture, one cut into strips, one that is off the page."""
    path = tmp_path / "leaflet.pdf"
    canvas = Canvas(str(path), pagesize=(400, 400))

    def reader(width, height, seed=1):
        return ImageReader(Image.fromarray(photo(width, height, seed=seed)))

    canvas.drawImage(reader(300, 200), 20, 20, 72, 48)
    canvas.drawImage(reader(150, 100, 2), 20, 200, 72, 48)
    canvas.showPage()
    whole = photo(400, 300, seed=3)
    for index in range(6):
        strip = ImageReader(Image.fromarray(whole[index * 50 : index * 50 + 50]))
        canvas.drawImage(strip, 100, 250 - index * 12, 96, 12)
    canvas.showPage()
    canvas.drawImage(reader(300, 200, 4), 900, 20, 72, 48)
    canvas.drawString(50, 50, "Tarnholm")
    canvas.showPage()
    canvas.save()
    return path


def kept(desk, path, read=True):
    with desk.session() as session, path.open("rb") as file:
        pdf_id = keep_pdf(desk, session, path.name, file, COATED).id
    if read:
        read_pdf(desk, pdf_id)
    return pdf_id


def found(desk, pdf_id):
    with desk.session() as session:
        pdf = pdf_with(session, pdf_id)
        target = target_of_pdf(pdf)
        return pdf, [(one, line_of(one, target)) for one in pictures_in(session, pdf)]


class TestReading:
    def test_each_picture_with_its_verdict_and_strips_as_one(self, desk, leaflet):
        pdf, pictures = found(desk, kept(desk, leaflet))
        assert (pdf.state, pdf.trouble, pdf.all_steps, len(pdf.pages)) == ("done", None, 3, 3)
        said = [
            (one.page_number, one.px_w, one.px_h, line.judged_ppi, line.verdict)
            for one, line in pictures
            if not one.unseen
        ]
        assert said == [
            (1, 300, 200, 300, Verdict.FULL),
            (1, 150, 100, 150, Verdict.THIN),
            (2, 400, 300, 300, Verdict.FULL),
        ]
        assert pictures[2][0].pieces == (400, 50) * 6
        assert (pictures[3][0].unseen, pictures[3][1].judged_ppi) == ("off the page", None)
        assert pdf.whole["loose_fonts"] == ["Helvetica"]

    def test_the_figures_are_those_of_the_command(self, desk, leaflet):
        _, pictures = found(desk, kept(desk, leaflet))
        checked = check_pdf(leaflet, "leaflet.pdf", COATED)
        assert checked.images[0].density.judged == pictures[0][1].judged_ppi
        assert checked.verdict_of(checked.images[1]) is pictures[1][1].verdict
        # The six strips are six images there, and one picture in its report.
        assert (len(checked.images), len(checked.report.pictures)) == (9, 4)

    def test_long_ones_are_read_in_stretches_each_seen_at_once(self, desk, leaflet, monkeypatch):
        monkeypatch.setattr(reading, "FIRST_PAGES", 1)
        monkeypatch.setattr(reading, "PAGES_AT_ONCE", 1)
        seen = []
        real = kept_pdfs._keep

        def watched(session, pdf, stretch):
            real(session, pdf, stretch)
            seen.append((pdf.done_steps, len(pictures_in(session, pdf))))

        monkeypatch.setattr(kept_pdfs, "_keep", watched)
        kept(desk, leaflet)
        # What is known of the whole comes first, with no page yet.
        assert seen == [(0, 0), (1, 2), (2, 3), (3, 4)]

    def test_verdicts_are_counted_while_it_is_read_and_again_for_another_target(
        self, desk, leaflet, monkeypatch
    ):
        monkeypatch.setattr(reading, "FIRST_PAGES", 1)
        monkeypatch.setattr(reading, "PAGES_AT_ONCE", 1)
        pdf_id = kept(desk, leaflet)
        with desk.session() as session:
            pdf = pdf_with(session, pdf_id)
            assert pdf.counts == {"coarse": 0, "thin": 1, "near": 0, "full": 2, "surplus": 0}
            judge_by(pdf, target_named("150"))
            counts = counts_of(session, pdf)
            assert counts == seen_counts(
                line_of(one, target_named("150")) for one in pictures_in(session, pdf)
            )
            assert sum(counts.values()) == 3 and counts[Verdict.THIN] == 0

    def test_reading_again_after_a_killed_worker_doubles_nothing(self, desk, leaflet):
        pdf_id = kept(desk, leaflet)
        with desk.session() as session:
            pdf_with(session, pdf_id).state = "working"
        read_pdf(desk, pdf_id)
        assert len(found(desk, pdf_id)[1]) == 4

    def test_a_page_is_drawn_as_it_is_seen(self, desk, leaflet):
        pdf, _ = found(desk, kept(desk, leaflet))
        data = page_picture(desk, pdf.sha256, pdf.file_name, 1)
        assert Image.open(io.BytesIO(data)).size == (1600, 1600)


class TestHostile:
    @pytest.mark.parametrize(
        "data, words",
        [(b"", "the file is empty"), (b"GIF89a", "its content is not a PDF")],
    )
    def test_what_is_no_pdf_is_refused_at_once(self, desk, tmp_path, data, words):
        path = tmp_path / "no.pdf"
        path.write_bytes(data)
        with pytest.raises(UnreadableFile, match=words):
            kept(desk, path)

    def test_one_that_breaks_off_is_told(self, desk, leaflet):
        leaflet.write_bytes(leaflet.read_bytes()[:3000])
        pdf, pictures = found(desk, kept(desk, leaflet))
        assert (pdf.state, pictures) == ("failed", [])
        assert pdf.trouble.startswith("leaflet.pdf: the PDF breaks off")

    def test_one_with_a_password_is_told(self, desk, leaflet, tmp_path):
        locked = tmp_path / "locked.pdf"
        with pikepdf.open(leaflet) as pdf:
            pdf.save(locked, encryption=pikepdf.Encryption(user="u", owner="o"))
        pdf, _ = found(desk, kept(desk, locked))
        assert "needs a password" in pdf.trouble

    def test_one_that_paints_without_end_is_stopped(self, desk, tmp_path, monkeypatch):
        """Forms that paint themselves and each other, and far too many pictures."""
        monkeypatch.setattr(reading, "_MOST_PICTURES", 100)
        path = tmp_path / "endless.pdf"
        canvas = Canvas(str(path))
        reader = ImageReader(Image.fromarray(photo(3, 2)))
        for index in range(101):
            canvas.drawImage(reader, index * 7, 9, 5, 5)
        canvas.showPage()
        canvas.save()
        pdf, pictures = found(desk, kept(desk, path))
        assert (pdf.state, pictures) == ("failed", [])
        assert "more than 100 pictures" in pdf.trouble


def test_deleting_takes_everything_along(desk, leaflet):
    pdf_id = kept(desk, leaflet)
    again = kept(desk, leaflet, read=False)
    with desk.session() as session:
        sha256 = pdf_with(session, pdf_id).sha256
        delete_pdf(session, pdf_with(session, pdf_id))
    desk.blobs.open(sha256).close()
    with desk.session() as session:
        with pytest.raises(NotThere):
            pdf_with(session, pdf_id)
        delete_pdf(session, pdf_with(session, again))
    sweep(desk, grace_seconds=-1)
    with pytest.raises(FileNotFoundError):
        desk.blobs.open(sha256)
    # One that is deleted while it waits is not read any more.
    read_pdf(desk, again)


class TestReports:
    def test_the_report_keeps_to_its_published_schema(self, desk, leaflet):
        pdf_id = kept(desk, leaflet)
        with desk.session() as session:
            found = report_of_pdf(session, pdf_with(session, pdf_id))
            report, rows = report_as_json(found), report_as_rows(found)
        Draft202012Validator(schema("pdf-report.schema.json")).validate(report)
        assert report["summary"] == {"coarse": 0, "thin": 1, "near": 0, "full": 2, "surplus": 0}
        assert [list(row) for row in rows] == [list(COLUMNS)] * 4
        assert report["pictures"][2]["pieces"] == 6
        assert report["fonts_not_embedded"] == ["Helvetica"]

    def test_the_copy_has_a_note_on_the_thin_one_and_what_was_handed_in_stays(self, desk, leaflet):
        pdf_id = kept(desk, leaflet)
        with desk.session() as session:
            data = noted_copy(desk, session, pdf_with(session, pdf_id))
        pages = pypdf.PdfReader(io.BytesIO(data)).pages
        notes = [len(page.get("/Annots", [])) for page in pages]
        assert notes == [1, 0, 0]
        with desk.session() as session, desk.blobs.open(pdf_with(session, pdf_id).sha256) as file:
            assert file.read() == leaflet.read_bytes()

    def test_notes_wait_until_all_is_read(self, desk, leaflet):
        pdf_id = kept(desk, leaflet, read=False)
        with desk.session() as session, pytest.raises(Refused, match="once the whole PDF is read"):
            noted_copy(desk, session, pdf_with(session, pdf_id))
