"""Checked PDFs: read stretch by stretch apart, judged, deleted; hostile ones are told."""

import io
from itertools import pairwise

import pikepdf
import pypdf
import pytest
from PIL import Image
from reportlab.lib.utils import ImageReader
from reportlab.pdfgen.canvas import Canvas

from harnet.core.documents.images import line_of
from harnet.core.ledger.lines import seen_counts
from harnet.core.measure.verdict import Verdict
from harnet.core.targets.shipped import target_named
from harnet.media.errors import UnreadableFile
from harnet.studio.common.errors import NotThere, Refused
from harnet.studio.documents import keeping, reading
from harnet.studio.documents.check import check_document
from harnet.studio.documents.keeping import read_pdf
from harnet.studio.documents.pages import page_picture
from harnet.studio.documents.reporting.report import COLUMNS, report_as_json, report_as_rows
from harnet.studio.documents.reporting.stored import noted_copy, stored_report_of
from harnet.studio.documents.uploads import (
    add_document,
    counts_of,
    delete_document,
    document_with,
    judge_by,
    pictures_in,
    target_of_document,
)
from harnet.studio.tasks.sweeping import sweep
from tests.support.pictures import photo
from tests.support.schemas import report_validator

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


def kept(studio, path, read=True):
    with studio.session() as session, path.open("rb") as file:
        document_id = add_document(studio, session, path.name, file, COATED).id
    if read:
        read_pdf(studio, document_id)
    return document_id


def found(studio, document_id):
    with studio.session() as session:
        pdf = document_with(session, document_id)
        target = target_of_document(pdf)
        assert len(pdf.pages) == pdf.steps_done
        return pdf, [(one, line_of(one, target)) for one in pictures_in(session, pdf)]


def watched(monkeypatch):
    """How many pages and pictures a document had after each time that its row was written."""
    seen, real = [], keeping._keep

    def keep(session, pdf, stretches):
        real(session, pdf, stretches)
        seen.append((pdf.steps_done, len(pictures_in(session, pdf))))

    monkeypatch.setattr(keeping, "_keep", keep)
    return seen


class TestReading:
    def test_each_picture_with_its_verdict_and_strips_as_one(self, studio, leaflet):
        pdf, pictures = found(studio, kept(studio, leaflet))
        assert (pdf.state, pdf.failure, pdf.steps_total, len(pdf.pages)) == ("done", None, 3, 3)
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
        assert pdf.whole["unembedded_fonts"] == ["Helvetica"]

    def test_the_figures_are_those_of_the_command(self, studio, leaflet):
        _, pictures = found(studio, kept(studio, leaflet))
        checked = check_document(leaflet, "leaflet.pdf", COATED)
        assert checked.images[0].density.judged == pictures[0][1].judged_ppi
        assert checked.lines[1].verdict is pictures[1][1].verdict
        # The six strips are six images there, and one picture in its report.
        assert (len(checked.images), len(checked.report.pictures)) == (9, 4)

    def test_the_command_finds_the_same_in_whatever_stretches(self, leaflet, monkeypatch):
        whole = check_document(leaflet, "leaflet.pdf", COATED)
        monkeypatch.setattr(reading, "FIRST_PAGES", 1)
        monkeypatch.setattr(reading, "PAGES_AT_ONCE", 1)
        checked = check_document(leaflet, "leaflet.pdf", COATED)
        assert checked.as_json() == whole.as_json()
        assert checked.report.findings == whole.report.findings
        assert [one.id for one in checked.images] == list(range(1, 10))
        assert [line.item_id for line in checked.lines] == list(range(1, 10))

    def test_long_ones_are_read_in_stretches_each_seen_at_once(self, studio, leaflet, monkeypatch):
        monkeypatch.setattr(reading, "FIRST_PAGES", 1)
        monkeypatch.setattr(reading, "PAGES_AT_ONCE", 1)
        seen = watched(monkeypatch)
        kept(studio, leaflet)
        # What is known of the whole comes first, with no page yet.
        assert seen == [(0, 0), (1, 2), (2, 3), (3, 4)]

    def test_of_many_stretches_later_ones_are_kept_together(self, studio, tmp_path, monkeypatch):
        monkeypatch.setattr(reading, "FIRST_PAGES", 1)
        monkeypatch.setattr(reading, "PAGES_AT_ONCE", 1)
        path = tmp_path / "catalogue.pdf"
        canvas = Canvas(str(path), pagesize=(400, 400))
        for number in range(60):
            reader = ImageReader(Image.fromarray(photo(30 + number, 20)))
            canvas.drawImage(reader, 20, 20, 72, 48)
            canvas.showPage()
        canvas.save()
        told, real = [], keeping.Work.tell
        monkeypatch.setattr(
            keeping.Work,
            "tell",
            lambda self, done, of: (told.append((done, of)), real(self, done, of)),
        )
        seen = watched(monkeypatch)
        _, pictures = found(studio, kept(studio, path))
        assert seen[:5] == [(0, 0), (1, 1), (2, 2), (3, 3), (4, 4)] and seen[-1] == (60, 60)
        grown = [after / before for (before, _), (after, _) in pairwise(seen[5:-1])]
        assert min(grown) >= 1.25 and len(seen) < 20
        # How far it is is told between.
        assert {done for done, _ in told} | {done for done, _ in seen} == set(range(61))
        assert {of for _, of in told} == {60}
        assert [one.px_w for one, _ in pictures] == [30 + number for number in range(60)]

    def test_verdicts_are_counted_while_it_is_read_and_again_for_another_target(
        self, studio, leaflet, monkeypatch
    ):
        monkeypatch.setattr(reading, "FIRST_PAGES", 1)
        monkeypatch.setattr(reading, "PAGES_AT_ONCE", 1)
        document_id = kept(studio, leaflet)
        with studio.session() as session:
            pdf = document_with(session, document_id)
            assert pdf.counts == {"coarse": 0, "thin": 1, "near": 0, "full": 2, "surplus": 0}
            judge_by(pdf, target_named("150"))
            counts = counts_of(session, pdf)
            assert counts == seen_counts(
                line_of(one, target_named("150")) for one in pictures_in(session, pdf)
            )
            assert sum(counts.values()) == 3 and counts[Verdict.THIN] == 0

    def test_reading_again_after_a_killed_worker_doubles_nothing(self, studio, leaflet):
        document_id = kept(studio, leaflet)
        with studio.session() as session:
            document_with(session, document_id).state = "working"
        read_pdf(studio, document_id)
        assert len(found(studio, document_id)[1]) == 4

    def test_a_page_is_drawn_as_it_is_seen(self, studio, leaflet):
        pdf, _ = found(studio, kept(studio, leaflet))
        data = page_picture(studio, pdf.sha256, pdf.file_name, 1)
        assert Image.open(io.BytesIO(data)).size == (1600, 1600)


class TestHostile:
    @pytest.mark.parametrize(
        "data, words",
        [(b"", "the file is empty"), (b"GIF89a", "its content is not a document")],
    )
    def test_what_is_no_pdf_is_refused_at_once(self, studio, tmp_path, data, words):
        path = tmp_path / "no.pdf"
        path.write_bytes(data)
        with pytest.raises(UnreadableFile, match=words):
            kept(studio, path)

    def test_one_that_breaks_off_is_told(self, studio, leaflet):
        leaflet.write_bytes(leaflet.read_bytes()[:3000])
        pdf, pictures = found(studio, kept(studio, leaflet))
        assert (pdf.state, pictures) == ("failed", [])
        assert pdf.failure.startswith("leaflet.pdf: the PDF is incomplete")

    def test_one_with_a_password_is_told(self, studio, leaflet, tmp_path):
        locked = tmp_path / "locked.pdf"
        with pikepdf.open(leaflet) as pdf:
            pdf.save(locked, encryption=pikepdf.Encryption(user="u", owner="o"))
        pdf, _ = found(studio, kept(studio, locked))
        assert "needs a password" in pdf.failure

    def test_one_that_paints_without_end_is_stopped(self, studio, tmp_path, monkeypatch):
        """Forms that paint themselves and each other, and far too many pictures."""
        monkeypatch.setattr(reading, "_MOST_PICTURES", 100)
        path = tmp_path / "endless.pdf"
        canvas = Canvas(str(path))
        reader = ImageReader(Image.fromarray(photo(3, 2)))
        for index in range(101):
            canvas.drawImage(reader, index * 7, 9, 5, 5)
        canvas.showPage()
        canvas.save()
        pdf, pictures = found(studio, kept(studio, path))
        assert (pdf.state, pictures) == ("failed", [])
        assert "more than 100 images" in pdf.failure


def test_deleting_takes_everything_along(studio, leaflet):
    document_id = kept(studio, leaflet)
    again = kept(studio, leaflet, read=False)
    with studio.session() as session:
        sha256 = document_with(session, document_id).sha256
        delete_document(session, document_with(session, document_id))
    studio.blobs.open(sha256).close()
    with studio.session() as session:
        with pytest.raises(NotThere):
            document_with(session, document_id)
        delete_document(session, document_with(session, again))
    sweep(studio, grace_seconds=-1)
    with pytest.raises(FileNotFoundError):
        studio.blobs.open(sha256)
    # One that is deleted while it waits is not read any more.
    read_pdf(studio, again)


class TestReports:
    def test_the_report_keeps_to_its_published_schema(self, studio, leaflet):
        document_id = kept(studio, leaflet)
        with studio.session() as session:
            found = stored_report_of(session, document_with(session, document_id))
            report, rows = report_as_json(found), report_as_rows(found)
        report_validator("document-report.schema.json").validate(report)
        assert report["summary"] == {"coarse": 0, "thin": 1, "near": 0, "full": 2, "surplus": 0}
        assert [list(row) for row in rows] == [list(COLUMNS)] * 4
        assert report["images"][2]["pieces"] == 6
        assert report["fonts_not_embedded"] == ["Helvetica"]

    def test_the_copy_has_a_note_on_the_thin_one_and_what_was_handed_in_stays(
        self, studio, leaflet
    ):
        document_id = kept(studio, leaflet)
        with studio.session() as session:
            data = noted_copy(studio, session, document_with(session, document_id))
        pages = pypdf.PdfReader(io.BytesIO(data)).pages
        notes = [len(page.get("/Annots", [])) for page in pages]
        assert notes == [1, 0, 0]
        with (
            studio.session() as session,
            studio.blobs.open(document_with(session, document_id).sha256) as file,
        ):
            assert file.read() == leaflet.read_bytes()

    def test_notes_wait_until_all_is_read(self, studio, leaflet):
        document_id = kept(studio, leaflet, read=False)
        with (
            studio.session() as session,
            pytest.raises(Refused, match="once the whole PDF has been read"),
        ):
            noted_copy(studio, session, document_with(session, document_id))
