"""PDFs that were made to break their reader: an answer, in bounded time and memory, never a crash.

Each is read as the application reads it: in a process of its own, with bounds on both.
"""

import io
import random
import zlib

import pikepdf
import pytest
from PIL import Image
from reportlab.lib.utils import ImageReader
from reportlab.pdfgen.canvas import Canvas

from harnet.core.targets.shipped import target_named
from harnet.media.errors import UnreadableFile
from harnet.media.limits import MAX_FORM_DEPTH
from harnet.media.pdf.reading import check_process
from harnet.studio.documents.check import check_document
from harnet.studio.documents.reading import order_of
from tests.support.pdfs import ByHand
from tests.support.pictures import photo

COATED = target_named("coated")
PLACE = b"q 72 0 0 48 20 20 cm /X Do Q"


@pytest.fixture
def by_hand(tmp_path):
    return ByHand(tmp_path / "hostile.pdf")


def report_on(path):
    return check_document(path, path.name, COATED).report


def report_of(by_hand, content=PLACE, **save):
    by_hand.page.obj.Contents = by_hand.pdf.make_stream(content)
    by_hand.pdf.save(by_hand.path, **save)
    return report_on(by_hand.path)


def rules_in(report):
    return {one.rule_id for one in report.findings}


class TestNesting:
    def nested(self, by_hand, depth):
        inner = by_hand.form(PLACE, Resources=pikepdf.Dictionary(XObject={"/X": by_hand.image()}))
        for _ in range(depth):
            names = pikepdf.Dictionary(XObject=pikepdf.Dictionary(F=inner))
            inner = by_hand.form(b"/F Do", Resources=names)
        by_hand.resources.XObject.F = inner
        return report_of(by_hand, b"/F Do")

    def test_ten_thousand_deep_is_told(self, by_hand):
        report = self.nested(by_hand, 10_000)
        assert report.pictures == [] and "content-not-followed" in rules_in(report)
        [found] = [one for one in report.findings if one.rule_id == "content-not-followed"]
        assert f"nested more than {MAX_FORM_DEPTH} levels deep" in found.sentence

    def test_as_deep_as_anybody_nests_is_followed(self, by_hand):
        report = self.nested(by_hand, MAX_FORM_DEPTH - 1)
        assert len(report.pictures) == 1 and "content-not-followed" not in rules_in(report)

    def test_forms_that_paint_themselves_and_each_other(self, by_hand):
        one, other = by_hand.form(b"/B Do " + PLACE), by_hand.form(b"/A Do")
        names = pikepdf.Dictionary(A=one, B=other, X=by_hand.image())
        one.Resources = other.Resources = pikepdf.Dictionary(XObject=names)
        by_hand.resources.XObject.A = one
        assert len(report_of(by_hand, b"/A Do").pictures) == 1

    def test_forms_that_double_at_every_level_are_bounded(self, by_hand):
        inner = by_hand.form(b"")
        for _ in range(40):
            names = pikepdf.Dictionary(XObject=pikepdf.Dictionary(F=inner))
            inner = by_hand.form(b"/F Do /F Do", Resources=names)
        by_hand.resources.XObject.F = inner
        by_hand.resources.XObject.X = by_hand.image()
        by_hand.page.obj.Contents = by_hand.pdf.make_stream(PLACE + b" /F Do")
        by_hand.pdf.save(by_hand.path)
        # Within the quick bounds, which count the time of the processor.
        report = check_document(by_hand.path, by_hand.path.name, COATED, patience=1).report
        assert len(report.pictures) == 1 and "content-not-followed" in rules_in(report)


class TestMuch:
    def test_a_million_images_are_refused_in_a_sentence(self, by_hand):
        by_hand.resources.XObject.X = by_hand.image(1, 1)
        form = by_hand.form(b"q 9 0 0 9 0 0 cm /X Do Q\n" * 1100, Resources=by_hand.resources)
        by_hand.page.obj.Resources = pikepdf.Dictionary(XObject=pikepdf.Dictionary(F=form))
        with pytest.raises(UnreadableFile, match="page 1 shows more than 200000 images"):
            report_of(by_hand, b"/F Do\n" * 1000)

    def test_content_that_unpacks_to_gigabytes(self, by_hand):
        # One block that stands for itself, seven hundred times: 4.2 GB from 20 kB a block.
        squeezer = zlib.compressobj(9)
        start = squeezer.compress(b"q ") + squeezer.flush(zlib.Z_FULL_FLUSH)
        block = squeezer.compress(b"0 0 m " * 1_000_000) + squeezer.flush(zlib.Z_FULL_FLUSH)
        data = start + block * 700
        content = pikepdf.Stream(by_hand.pdf, b"")
        content.write(data, filter=pikepdf.Name.FlateDecode)
        by_hand.page.obj.Contents = by_hand.pdf.make_indirect(content)
        by_hand.pdf.save(by_hand.path, stream_decode_level=pikepdf.StreamDecodeLevel.none)
        assert by_hand.path.stat().st_size < 10_000_000
        try:
            report = report_on(by_hand.path)
        except UnreadableFile as error:
            assert str(error).startswith("hostile.pdf: ")
        else:
            assert report.pictures == []

    def test_an_image_that_claims_more_pixels_than_there_are_bytes_is_judged_by_its_claim(
        self, by_hand
    ):
        by_hand.resources.XObject.X = by_hand.image(Width=60_000, Height=40_000)
        [picture] = report_of(by_hand).pictures
        assert (picture.px_w, picture.px_h) == (60_000, 40_000)


class TestNonsense:
    @pytest.mark.parametrize(
        "matrix", ["0 0 0 0 0 0", "1 0 0 0 0 0", "1 1 1 1 5 5", "1e-9 0 0 1e-9 0 0", "/a 0 0 1 0 0"]
    )
    def test_matrices_without_an_area(self, by_hand, matrix):
        by_hand.resources.XObject.X = by_hand.image()
        report = report_of(by_hand, f"q {matrix} cm /X Do Q ".encode() + PLACE)
        assert len(report.pictures) in (1, 2)
        assert (report.pictures[-1].px_w, report.lines[-1].judged_ppi) == (300, pytest.approx(300))

    @pytest.mark.parametrize("size", ["1e30", "99999999999999999999", "-1e12"])
    def test_absurd_sizes(self, by_hand, size):
        by_hand.resources.XObject.X = by_hand.image()
        report = report_of(by_hand, f"q {size} 0 0 {size} 0 0 cm /X Do Q ".encode() + PLACE)
        assert report.lines[-1].judged_ppi == pytest.approx(300)

    @pytest.mark.parametrize("stated", [9, "words", [1, 2], True])
    def test_a_forms_resources_of_another_kind(self, by_hand, stated):
        by_hand.resources.XObject.X = by_hand.image()
        value = pikepdf.Array(stated) if isinstance(stated, list) else stated
        by_hand.resources.XObject.F = by_hand.form(PLACE, Resources=value)
        assert len(report_of(by_hand, b"/F Do " + PLACE).pictures) == 2

    @pytest.mark.parametrize("box", [[0, 0, 0, 0], [0, 0, 10**15, 10**15], ["a"], [5, 5, 5, 5]])
    def test_absurd_pages(self, by_hand, box):
        by_hand.resources.XObject.X = by_hand.image()
        values = [pikepdf.Name.A if value == "a" else value for value in box]
        by_hand.page.obj.MediaBox = pikepdf.Array(values)
        assert len(report_of(by_hand).pictures) == 1

    @pytest.mark.parametrize(
        "key, value",
        [
            ("Width", -5),
            ("Width", 2**40),
            ("Width", pikepdf.Name.Wide),
            ("Height", pikepdf.Array([1])),
            ("ColorSpace", 7),
            ("ColorSpace", pikepdf.Array([])),
            ("ColorSpace", pikepdf.Array([pikepdf.Name.ICCBased, 5])),
            ("ColorSpace", pikepdf.Array([pikepdf.Name.Indexed])),
            ("BitsPerComponent", 99),
            ("BitsPerComponent", pikepdf.String("eight")),
            ("Filter", 3),
            ("Filter", pikepdf.Array([1, 2])),
            ("SMask", 4),
            ("SMaskInData", pikepdf.Name.Yes),
            ("OC", 12),
            ("ImageMask", 2),
        ],
    )
    def test_image_dictionaries_that_say_nonsense(self, by_hand, key, value):
        by_hand.resources.XObject.X = by_hand.image(**{key: value})
        by_hand.resources.XObject.Y = by_hand.image()
        report = report_of(by_hand, PLACE + b" q 72 0 0 48 20 220 cm /Y Do Q")
        assert report.lines[-1].judged_ppi == pytest.approx(300)

    @pytest.mark.parametrize("key", ["XObject", "Pattern", "Font", "ExtGState", "Properties"])
    def test_resources_of_another_kind(self, by_hand, key):
        by_hand.resources.XObject.X = by_hand.image()
        by_hand.resources[f"/{key}"] = 7
        use = b" /T 1 Tf (a) Tj /P scn 0 0 9 9 re f /G gs /OC /M BDC EMC"
        report = report_of(by_hand, PLACE + use)
        assert [line.judged_ppi for line in report.lines] == (
            [] if key == "XObject" else [pytest.approx(300)]
        )

    def test_operators_without_their_operands(self, by_hand):
        by_hand.resources.XObject.X = by_hand.image()
        content = b"cm Do 5 Do re W n Q Q Q Tf Tj TJ BDC scn EMC d1 " + PLACE
        assert len(report_of(by_hand, content).pictures) == 1

    def test_content_that_cannot_be_unpacked_is_told(self, by_hand):
        content = pikepdf.Stream(by_hand.pdf, b"")
        content.write(b"this was never deflated", filter=pikepdf.Name.FlateDecode)
        by_hand.page.obj.Contents = by_hand.pdf.make_indirect(content)
        by_hand.pdf.save(by_hand.path, stream_decode_level=pikepdf.StreamDecodeLevel.none)
        assert "content-not-followed" in rules_in(report_on(by_hand.path))

    def test_names_as_older_producers_write_them(self, by_hand):
        # Bytes of a Western code page, which are not UTF-8.
        by_hand.resources.XObject.X = by_hand.image()
        by_hand.page.obj.Contents = by_hand.pdf.make_stream(PLACE.replace(b"/X", b"/Caf\xe9"))
        by_hand.pdf.save(by_hand.path, object_stream_mode=pikepdf.ObjectStreamMode.disable)
        data = by_hand.path.read_bytes()
        by_hand.path.write_bytes(data.replace(b"/XObject << /X ", b"/XObject << /Caf#e9 "))
        assert len(report_on(by_hand.path).pictures) == 1

    def test_objects_that_are_missing(self, by_hand):
        by_hand.resources.XObject.X = by_hand.image()
        report_of(by_hand, PLACE, object_stream_mode=pikepdf.ObjectStreamMode.disable)
        with pikepdf.open(by_hand.path) as pdf:
            number = pdf.pages[0].obj.Resources.XObject.X.objgen[0]
        data = by_hand.path.read_bytes()
        # The image is cut out of the file; what points to it points to nothing.
        start = data.index(b"\n%d 0 obj" % number) + 1
        end = data.index(b"endobj", start)
        by_hand.path.write_bytes(data[:start] + b" " * (end + 6 - start) + data[end + 6 :])
        assert len(report_on(by_hand.path).pictures) in (0, 1)


class TestMended:
    """Damaged so that common readers show them all the same."""

    @pytest.fixture
    def path(self, tmp_path):
        path = tmp_path / "leaflet.pdf"
        path.write_bytes(sound_pdf())
        return path

    def test_a_lost_table_of_objects_is_put_together_and_told(self, path):
        assert "pdf-damaged" not in rules_in(report_on(path))
        data = path.read_bytes()
        path.write_bytes(data.replace(b"startxref", b"startnone"))
        report = report_on(path)
        assert "pdf-damaged" in rules_in(report) and len(report.pictures) == 2

    def test_zeros_behind_the_end_do_no_harm(self, path):
        path.write_bytes(path.read_bytes() + b"\0" * 20_000)
        assert len(report_on(path).pictures) == 2

    def test_one_that_breaks_off_is_refused_even_with_zeros_behind(self, path):
        data = path.read_bytes()
        path.write_bytes(data[: len(data) // 2] + b"\0" * 20_000)
        with pytest.raises(UnreadableFile, match="is incomplete"):
            report_on(path)

    def test_an_empty_node_that_stands_several_times_in_the_page_tree(self, path):
        """As programs leave it that take pages out."""
        with pikepdf.open(path) as pdf:
            tree = pdf.Root.Pages
            kids = list(tree.Kids)
            empty = pdf.make_indirect(
                pikepdf.Dictionary(Type=pikepdf.Name.Pages, Count=0, Kids=[], Parent=tree)
            )
            saved = path.with_name("cut.pdf")
            tree.Kids = pikepdf.Array([kids[0], empty, empty, kids[1], empty])
            pdf.save(saved)
        with pytest.raises(pikepdf.PdfError, match="Loop"):
            pikepdf.open(saved)
        report = report_on(saved)
        assert [one.page_number for one in report.pictures] == [1, 2]
        assert "pdf-damaged" in rules_in(report)


class TestEncrypted:
    def test_with_an_empty_user_password_it_is_read(self, by_hand):
        by_hand.resources.XObject.X = by_hand.image()
        report = report_of(by_hand, encryption=pikepdf.Encryption(owner="harbour", user=""))
        assert len(report.pictures) == 1

    def test_with_a_user_password_it_is_told(self, by_hand):
        by_hand.resources.XObject.X = by_hand.image()
        with pytest.raises(UnreadableFile, match="is encrypted and needs a password"):
            report_of(by_hand, encryption=pikepdf.Encryption(owner="harbour", user="quay"))


def sound_pdf():
    out = io.BytesIO()
    canvas = Canvas(out, pagesize=(400, 300), invariant=True, pageCompression=0)
    for seed in (1, 2):
        image = ImageReader(Image.fromarray(photo(60, 40, seed=seed)))
        canvas.saveState()
        canvas.rotate(7)
        canvas.drawImage(image, 60, 20, 144, 96, mask=[0, 9, 0, 9, 0, 9])
        canvas.restoreState()
        canvas.drawString(50, 250, "Tarnholm")
        canvas.showPage()
    canvas.save()
    return out.getvalue()


def mutated(data, chance):
    """The bytes with some changed, cut out, doubled, or a number blown up."""
    out = bytearray(data)
    for _ in range(chance.randint(1, 12)):
        at, length = chance.randrange(len(out)), chance.randint(1, 40)
        way = chance.randrange(5)
        if way == 0:
            out[at] = chance.randrange(256)
        elif way == 1:
            del out[at : at + length]
        elif way == 2:
            out[at:at] = out[at : at + length]
        elif way == 3:
            out[at:at] = chance.choice([b"<<", b">>", b"[", b" R ", b"endobj", b"/X Do", b"-1e99"])
        else:
            digit = next((i for i in range(at, len(out)) if chr(out[i]).isdigit()), at)
            out[digit : digit + 1] = str(chance.choice([0, -1, 2**31, 10**15])).encode()
        if len(out) < 40:
            break
    return bytes(out)


@pytest.mark.parametrize("seed", range(40))
def test_mutated_pdfs_get_an_answer(tmp_path, seed):
    # Many in one process, as the application's own bounds are tested above; that one dies here
    # would be seen by the test itself dying.
    chance = random.Random(seed)
    sound = sound_pdf()
    path = tmp_path / "mutated.pdf"
    for _ in range(15):
        path.write_bytes(mutated(sound, chance))
        answered(path)


def answered(path):
    """Reads a PDF in this process, through the very function that the bounded process calls."""
    try:
        check_process.work(order_of(path, path.name, path.parent, True), lambda number: None)
    except UnreadableFile as error:
        assert str(error).startswith(f"{path.name}: ")
