"""What a PDF has around its pictures: marks, labels, output intent, PDF/X-4, dropped parts.

Read with pypdf, pdfium and poppler, none of which wrote it.
"""

import re
import subprocess
import sys
from dataclasses import replace
from datetime import UTC, datetime

import numpy as np
import pikepdf
import pypdf
import pypdfium2
import pytest
import pyvips
from PIL import Image
from skimage.metrics import structural_similarity

from harnet.core.copies.recipe import PixelBox
from harnet.core.layout.placing import Content
from harnet.core.measure.geometry import Box
from harnet.core.output.pdf_settings import PdfColour, PdfSettings, PdfStandard, PictureMode
from harnet.core.output.treatment import TreatmentKind, shown_pixels, treatment_of
from harnet.media.pagedrawing.plan import LinePart, PagePlan, RectanglePart, TextPart
from harnet.media.pagedrawing.text_lines import TextStyle
from harnet.media.pdf.writing.finish import Finish
from harnet.media.pdf.writing.marks import room_for_marks
from harnet.media.pdf.writing.write import write_pdf
from harnet.media.pixels.colour import GENERIC_CMYK
from tests.support.parts import part

EDITED = datetime(2026, 3, 4, 5, 6, 7, tzinfo=UTC)
WORDS = TextPart(
    Box(36, 300, 200, 40), 0, "The lamp turns", TextStyle(link="https://tarnholm.example/lamp")
)
AREA = RectanglePart(
    frame=Box(10, 10, 60, 20), rotation_deg=0, fill="#1c6b52", stroke="#444444", stroke_pt=1.0
)
STROKE = LinePart(Box(10, 200, 90, 2), 0, "#7a1f3d", 0.5)
X4 = Finish(standard=PdfStandard.X4, intent=GENERIC_CMYK, language="en", dated=EDITED)
INKED = Finish(
    standard=PdfStandard.X4, intent=GENERIC_CMYK, is_inked=True, language="en", dated=EDITED
)


def by(settings):
    return lambda one: treatment_of(one.facts, one.placement, settings)


def plan(*parts, number=1, bleed_pt=9.0):
    return PagePlan(number=number, width_pt=300, height_pt=400, bleed_pt=bleed_pt, parts=parts)


def rendered(path, scale=2.0):
    with pypdfium2.PdfDocument(path) as pdf:
        return np.asarray(pdf[0].render(scale=scale).to_pil().convert("RGB"))


def operators_in(path):
    """Every content stream of a PDF, forms included, as text."""
    with pikepdf.open(path) as pdf:
        streams = [page.Contents.read_bytes() for page in pdf.pages]
        for thing in pdf.objects:
            if isinstance(thing, pikepdf.Stream) and thing.get("/Subtype") == "/Form":
                streams.append(thing.read_bytes())
    return b"\n".join(streams).decode("latin-1")


def turned(orientation):
    """Exif data with an Orientation tag, number 0x0112."""
    exif = Image.Exif()
    exif[0x0112] = orientation
    return exif


@pytest.fixture
def drawing(tmp_path):
    path = tmp_path / "mark.svg"
    path.write_text(
        '<svg xmlns="http://www.w3.org/2000/svg" width="40" height="40">'
        '<defs><linearGradient id="g"><stop stop-color="#036"/><stop offset="1" stop-color="#fc0"/>'
        '</linearGradient></defs><circle cx="20" cy="20" r="18" fill="url(#g)" opacity=".6"/></svg>'
    )
    return path


@pytest.fixture
def whole(make_picture, drawing, tmp_path):
    """A page with one of everything, written by a finish."""

    def write(finish, settings=PdfSettings()):  # noqa: B008
        path = tmp_path / f"whole-{len(list(tmp_path.glob('whole-*')))}.pdf"
        parts = (
            part(make_picture("plain.jpg")),
            part(make_picture("clear.png", mode="RGBA"), Box(100, 200, 60, 40)),
            part(make_picture("ink.tif", mode="CMYK"), Box(200, 200, 60, 40)),
            part(drawing, Box(220, 20, 40, 40)),
            WORDS,
            AREA,
            STROKE,
        )
        write_pdf([plan(*parts)], "Quay", path, treatment=by(settings), finish=finish)
        return path

    return write


class TestX4:
    """Conditions of ISO 15930-7 that can be checked structurally; clauses from memory."""

    @pytest.fixture(params=[X4, INKED], ids=["colours kept", "inked"])
    def reader(self, request, whole):
        colour = PdfColour.INTENT if request.param.is_inked else PdfColour.KEEP
        return pypdf.PdfReader(whole(request.param, PdfSettings(colour=colour)))

    def test_the_header_is_pdf_1_6(self, reader):
        assert reader.pdf_header == "%PDF-1.6"

    def test_the_version_stands_in_the_metadata(self, reader):
        xmp = reader.root_object["/Metadata"].get_object().get_data().decode()
        assert re.search(r"GTS_PDFXVersion[^P]*PDF/X-4", xmp)
        assert re.search(r"Trapped[^>]*>False<", xmp)

    def test_info_has_title_dates_and_trapped_and_agrees_with_the_metadata(self, reader):
        info = reader.metadata
        assert info.title == "Quay" == reader.xmp_metadata.dc_title["x-default"]
        assert info.creation_date == EDITED == info.modification_date
        for date in (reader.xmp_metadata.xmp_create_date, reader.xmp_metadata.xmp_modify_date):
            assert date.replace(tzinfo=UTC) == EDITED
        assert info["/Trapped"] == "/False"

    def test_the_file_has_an_identifier_and_is_not_encrypted(self, reader):
        assert len(reader.trailer["/ID"]) == 2 and not reader.is_encrypted

    def test_the_identifier_is_of_what_the_file_holds(self, tmp_path):
        picture = tmp_path / "quay.png"
        Image.new("RGB", (60, 40), "teal").save(picture)

        def written(name, *parts, title="Quay", finish=X4):
            path = tmp_path / name
            write_pdf([plan(*parts)], title, path, finish=finish)
            [first, second] = pypdf.PdfReader(path).trailer["/ID"]
            assert first == second and len(first.original_bytes) == 16
            return path.read_bytes(), bytes(first.original_bytes)

        once, identity = written("once.pdf", part(picture), WORDS)
        assert written("again.pdf", part(picture), WORDS) == (once, identity)
        others = [
            written("other.pdf", *parts, **more)[1]
            for parts, more in (
                ([part(picture, rotation_deg=1.0), WORDS], {}),
                ([part(picture), replace(WORDS, text="The lamp stands")], {}),
                ([part(picture), WORDS], {"title": "Pier"}),
                ([part(picture), WORDS], {"finish": Finish(dated=EDITED)}),
            )
        ]
        assert len({identity, *others}) == 5

    def test_one_output_intent_with_a_cmyk_profile_for_printers(self, reader):
        [intent] = reader.root_object["/OutputIntents"]
        profile = intent.get_object()["/DestOutputProfile"].get_object().get_data()
        assert intent.get_object()["/S"] == "/GTS_PDFX"
        assert intent.get_object()["/OutputConditionIdentifier"]
        assert (profile[12:16], profile[16:20]) == (b"prtr", b"CMYK")
        assert profile == GENERIC_CMYK.read_bytes()

    def test_boxes_lie_within_each_other_and_there_is_no_art_box(self, reader):
        page = reader.pages[0]
        media, bleed, trim = page.mediabox, page.bleedbox, page.trimbox
        assert media.left <= bleed.left < trim.left < trim.right < bleed.right <= media.right
        assert media.bottom <= bleed.bottom < trim.bottom < trim.top < bleed.top <= media.top
        assert "/ArtBox" not in page

    def test_nothing_is_clickable_and_nothing_acts(self, reader):
        assert "/Annots" not in reader.pages[0]
        assert not {"/AA", "/OpenAction", "/JavaScript"} & set(reader.root_object)

    def test_plain_red_green_and_blue_are_explained_wherever_they_are_used(self, reader):
        explained = []

        def look(resources, group):
            spaces = resources.get("/ColorSpace", {})
            explained.append("/DefaultRGB" in spaces)
            if group is not None and "/CS" in group:
                explained.append(group["/CS"] != "/DeviceRGB")
            for thing in resources.get("/XObject", {}).values():
                thing = thing.get_object()
                if thing["/Subtype"] == "/Image":
                    explained.append(thing["/ColorSpace"] != "/DeviceRGB")
                elif "/Resources" in thing:
                    look(thing["/Resources"].get_object(), thing.get("/Group"))

        look(reader.pages[0]["/Resources"].get_object(), None)
        assert len(explained) > 5 and all(explained)

    def test_every_font_is_embedded(self, whole):
        listed = subprocess.run(
            ["pdffonts", whole(X4)], capture_output=True, text=True, check=True
        ).stdout.splitlines()[2:]
        assert listed and all(line.split()[-5] == "yes" for line in listed)

    def test_no_lzw_and_no_postscript(self, whole):
        data = whole(X4).read_bytes()
        assert b"/LZWDecode" not in data and b"/PS " not in data

    def test_qpdf_finds_no_fault(self, whole):
        assert (
            subprocess.run(["qpdf", "--check", whole(INKED)], capture_output=True).returncode == 0
        )


class TestInks:
    def test_colours_of_text_lines_and_areas_become_inks(self, whole):
        path = whole(INKED, PdfSettings(colour=PdfColour.INTENT))
        with pikepdf.open(path) as pdf:
            page = pdf.pages[0].Contents.read_bytes().decode()
            forms = [x for x in pdf.pages[0].Resources.XObject.values() if x.Subtype == "/Form"]
            text = next(f for f in forms if b"BT" in f.read_bytes()).read_bytes().decode()
        for content in (page, text):
            assert not re.search(r"\b(rg|RG)\b", content)
        assert re.search(r"\bk\b", page) and re.search(r"\bK\b", page) and " k" in text

    def test_greys_are_black_alone(self, whole):
        path = whole(INKED, PdfSettings(colour=PdfColour.INTENT))
        # #444444 is 68 of 255: 1 - 68/255 = 0.73333 black.
        assert "0 0 0 0.73333 K" in operators_in(path)

    def test_pictures_have_four_inks_and_look_the_same(self, whole):
        plain, inked = whole(X4), whole(INKED, PdfSettings(colour=PdfColour.INTENT))
        with pikepdf.open(inked) as pdf:
            images = [x for x in pdf.pages[0].Resources.XObject.values() if x.Subtype == "/Image"]
            assert {str(image.ColorSpace) for image in images} == {"/DeviceCMYK"}
        one, other = (rendered(path).mean(axis=2) for path in (plain, inked))
        assert structural_similarity(one, other, data_range=255) > 0.9

    def test_the_same_input_gives_the_same_bytes(self, whole):
        assert whole(INKED).read_bytes() == whole(INKED).read_bytes()


class TestMarks:
    FINISH = Finish(crop_marks=True, registration_marks=True)

    def test_boxes_leave_room_around_the_trim(self, whole):
        page = pypdf.PdfReader(whole(self.FINISH)).pages[0]
        room = room_for_marks(9)
        assert page.trimbox == pytest.approx((room, room, room + 300, room + 400), abs=0.001)
        assert page.mediabox == pytest.approx((0, 0, 2 * room + 300, 2 * room + 400), abs=0.001)

    def test_crop_marks_point_at_the_trim_and_stay_out_of_the_bleed(self, tmp_path):
        path = tmp_path / "marks.pdf"
        write_pdf([plan()], "t", path, finish=Finish(crop_marks=True))
        dark = rendered(path, 4).mean(axis=2) < 200
        room = room_for_marks(9)
        ys, xs = np.nonzero(dark)
        height = dark.shape[0] / 4
        x_pt, y_pt = xs / 4, height - ys / 4
        beside = (
            (np.abs(x_pt - room) < 0.6)
            | (np.abs(x_pt - room - 300) < 0.6)
            | (np.abs(y_pt - room) < 0.6)
            | (np.abs(y_pt - room - 400) < 0.6)
        )
        assert len(xs) > 100 and beside.all()
        inside = (x_pt > room - 9) & (x_pt < room + 309) & (y_pt > room - 9) & (y_pt < room + 409)
        assert not inside.any()

    def test_marks_print_on_every_plate(self, whole):
        page = pypdf.PdfReader(whole(self.FINISH)).pages[0]
        space = page["/Resources"]["/ColorSpace"]["/All"].get_object()
        assert space[0] == "/Separation" and space[1] == "/All"

    def test_what_hangs_out_of_the_bleed_does_not_reach_the_marks(self, tmp_path):
        path = tmp_path / "marks.pdf"
        wide = RectanglePart(
            frame=Box(-80, 100, 500, 40), rotation_deg=0, fill="#336699", stroke=None, stroke_pt=1.0
        )
        write_pdf([plan(wide)], "t", path, finish=Finish(crop_marks=True))
        room = room_for_marks(9)
        row = rendered(path)[int(2 * (room + 120))]
        blue = np.nonzero(row[:, 0] < 100)[0] / 2
        assert blue.min() == pytest.approx(room - 9, abs=1)
        assert blue.max() == pytest.approx(room + 309, abs=1)


class TestLabels:
    def test_pages_keep_the_numbers_of_the_job(self, tmp_path):
        path = tmp_path / "range.pdf"
        write_pdf([plan(number=number) for number in (3, 4, 7)], "t", path)
        assert pypdf.PdfReader(path).page_labels == ["3", "4", "7"]

    def test_language_and_title(self, tmp_path):
        path = tmp_path / "said.pdf"
        write_pdf([plan()], "Leuchtfeuer & Möwen", path, finish=Finish(language="de-AT"))
        reader = pypdf.PdfReader(path)
        assert reader.root_object["/Lang"] == "de-AT"
        assert reader.root_object["/ViewerPreferences"]["/DisplayDocTitle"]
        assert reader.metadata.title == "Leuchtfeuer & Möwen"


class TestDroppedParts:
    SETTINGS = PdfSettings(
        mode=PictureMode.TRIM, to_ppi=100, threshold=1.0, quality=None, drops_cropped=True
    )
    """Lossless, so that what stays can be compared pixel for pixel."""

    @pytest.mark.parametrize(
        "content, expected",
        [
            # 300 px over 144 pt; the frame shows 48 to 96 pt of them.
            (Content(0.48, 0.48, -48, 0), PixelBox(98, 0, 202, 200)),
            (Content(0.48, 0.48, -48, 0, flip_h=True), PixelBox(0, 0, 202, 200)),
            (Content(0.48, 0.48, 0, -24), PixelBox(0, 48, 300, 152)),
            (Content(0.48, 0.48, 10, 12), PixelBox(0, 0, 281, 177)),
        ],
    )
    def test_the_pixels_that_a_frame_shows(self, make_picture, content, expected):
        one = part(
            make_picture("a.png", width=300, height=200), Box(0, 0, 144, 96), content=content
        )
        found = shown_pixels(one.facts, one.placement)
        assert (found.left, found.top, found.width, found.height) == pytest.approx(
            (expected.left, expected.top, expected.width, expected.height), abs=2
        )

    @pytest.mark.parametrize("orientation", [1, 3, 6, 8])
    @pytest.mark.parametrize("flip_h", [False, True])
    @pytest.mark.parametrize("rotation_deg", [0.0, 30.0])
    def test_the_page_looks_the_same_and_holds_less(
        self, make_picture, tmp_path, orientation, flip_h, rotation_deg
    ):
        path = make_picture("a.png", width=600, height=400, exif=turned(orientation))
        content = Content(0.5, 0.5, -60, -40, flip_h=flip_h)
        one = part(path, Box(60, 60, 120, 90), content=content, rotation_deg=rotation_deg)
        files = []
        lossless = replace(self.SETTINGS, to_ppi=200)
        for index, settings in enumerate((PdfSettings(), lossless)):
            files.append(tmp_path / f"{index}.pdf")
            write_pdf([plan(one)], "t", files[-1], treatment=by(settings))
        assert files[1].stat().st_size < 0.6 * files[0].stat().st_size
        whole_page, less = (rendered(file).mean(axis=2) for file in files)
        assert structural_similarity(whole_page, less, data_range=255) > 0.98

    def test_data_that_passes_through_stays_whole(self, make_picture):
        one = part(make_picture("a.jpg"), Box(0, 0, 20, 20), content=Content(1, 1, -100, 0))
        treatment = treatment_of(one.facts, one.placement, self.SETTINGS)
        assert treatment.action is TreatmentKind.PASSES and treatment.part is None

    def test_the_density_promised_is_the_one_found(self, make_picture, tmp_path):
        path = tmp_path / "less.pdf"
        one = part(
            make_picture("a.png", width=600, height=400),
            Box(60, 60, 30, 30),
            content=Content(0.1, 0.1, -12, -3),
        )
        [promise] = write_pdf([plan(one)], "t", path, treatment=by(self.SETTINGS))
        listed = subprocess.run(
            ["pdfimages", "-list", path], capture_output=True, text=True, check=True
        ).stdout.splitlines()[2]
        px_w, px_h, ppi = (int(listed.split()[at]) for at in (3, 4, 12))
        assert (px_w, px_h) == (promise.px_w, promise.px_h)
        assert ppi == pytest.approx(promise.density.x, abs=1)
        assert promise.density.x == pytest.approx(100, rel=0.03)


def test_plain_pictures_get_a_profile_in_x4(make_picture, tmp_path):
    path = tmp_path / "noted.pdf"
    write_pdf([plan(part(make_picture("a.jpg")))], "t", path, finish=X4)
    with pikepdf.open(path) as pdf:
        [image] = [x for x in pdf.pages[0].Resources.XObject.values() if x.Subtype == "/Image"]
        assert image.ColorSpace[0] == "/ICCBased" and image.ColorSpace[1].N == 3


_LARGE_JOB = """
import sys
from pathlib import Path
from harnet.core.measure.geometry import Box
from harnet.core.layout.placing import Fit, Placement, Source, fitted
from harnet.media.facts.read import facts_of
from harnet.media.pagedrawing.plan import PagePlan, PicturePart
from harnet.media.pdf.writing import unchanged
from harnet.media.pdf.writing.readback import read_back
from harnet.media.pdf.writing.write import write_pdf
unchanged.require_same = lambda part: None
unchanged._require_hash = lambda part, data: None
picture, out = Path(sys.argv[1]), Path(sys.argv[2])
frame, facts = Box(0, 0, 420, 280), facts_of(picture)
source = Source(px_w=facts.px_w, px_h=facts.px_h)
placement = Placement(source=source, frame=frame, content=fitted(source, frame, Fit.COVER))
plans = [
    PagePlan(
        number=n,
        width_pt=420,
        height_pt=595,
        bleed_pt=9,
        parts=(
            PicturePart(
                item_id=n,
                name="a.jpg",
                sha256=str(n),
                path=picture,
                facts=facts,
                placement=placement,
            ),
        ),
    )
    for n in range(1, 201)
]
write_pdf(plans, "large", out)
assert len(read_back(out).images) == 200
# The kernel's own mark for this program; getrusage would count what the parent process held.
[mark] = [line for line in open("/proc/self/status") if line.startswith("VmHWM")]
print(int(mark.split()[1]) * 1024)
"""


def test_two_hundred_pages_of_20_megapixels_stay_under_600_mb(tmp_path):
    """Each page has a picture of its own to the writer: the same bytes under another hash."""
    picture = tmp_path / "large.jpg"
    noise = pyvips.Image.gaussnoise(5472, 3648, sigma=25, mean=128).cast("uchar")
    noise.bandjoin([noise, noise]).copy(interpretation="srgb").jpegsave(str(picture), Q=60)
    out = tmp_path / "large.pdf"
    command = [sys.executable, "-c", _LARGE_JOB, picture, out]
    run = subprocess.run(command, capture_output=True, text=True)
    assert run.returncode == 0, run.stderr
    assert out.stat().st_size > 1_000_000_000
    assert int(run.stdout) < 600_000_000
    out.unlink()
