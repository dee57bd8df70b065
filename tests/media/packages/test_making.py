"""Files of a document's images and improved copies, read back by independent libraries."""

import base64
import io
import zipfile
from hashlib import sha256

import docx
import odfdo
import pytest
from docx.shared import Inches as DocxInches
from ebooklib import epub
from PIL import Image
from pptx import Presentation
from pptx.util import Inches

from harnet.core.documents.improving import Fate, ImproveSettings
from harnet.core.targets.shipped import target_named
from harnet.scenery.scenes import lamp_room, rope_store
from harnet.studio.documents.making import improving
from harnet.studio.documents.making.extracting import TABLE_NAME, extract_images
from harnet.studio.documents.making.improving import make_copy, plan_improvement
from tests.support.packages import densities, images_in, picture

COATED = target_named("coated")


@pytest.fixture(scope="module")
def originals(tmp_path_factory):
    """Two photographs of 1 800 × 1 200 px."""
    folder = tmp_path_factory.mktemp("originals")
    for number, drawn in ((1, lamp_room), (2, rope_store)):
        made = Image.fromarray((drawn(1800, 1200, number) * 255).astype("uint8"))
        made.save(folder / f"shot {number}.jpg", quality=95)
    return folder


def small(originals, number, px_w, box=None, form="JPEG"):
    """A photograph made small, or a part of it."""
    image = Image.open(originals / f"shot {number}.jpg")
    image = image.crop(box) if box else image
    image = image.resize((px_w, round(image.height * px_w / image.width)), Image.LANCZOS)
    out = io.BytesIO()
    image.save(out, form)
    out.seek(0)
    return out


def improved(path, copy, originals, **settings):
    wanted = ImproveSettings(target=COATED, **settings)
    plan = plan_improvement(path, path.name, sorted(originals.iterdir()), wanted)
    room = copy.parent / "room"
    room.mkdir(exist_ok=True)
    return make_copy(plan, copy, room)


def parts_of(path):
    with zipfile.ZipFile(path) as file:
        return [
            (one.filename, one.compress_type, sha256(file.read(one)).hexdigest())
            for one in file.infolist()
        ]


@pytest.fixture
def deck(tmp_path, originals):
    made = Presentation()
    slide = made.slides.add_slide(made.slide_layouts[6])
    cropped = slide.shapes.add_picture(
        small(originals, 1, 600), Inches(1), Inches(1), Inches(3), Inches(4)
    )
    cropped.crop_left, cropped.crop_right = 0.3, 0.2
    slide.shapes.add_picture(small(originals, 2, 300, form="PNG"), 0, 0, Inches(3), Inches(2))
    slide = made.slides.add_slide(made.slide_layouts[6])
    slide.shapes.add_picture(io.BytesIO(picture(200, 200, seed=9)), 0, 0, Inches(2), Inches(2))
    made.save(tmp_path / "deck.pptx")
    return tmp_path / "deck.pptx"


def test_a_deck_gets_denser_pictures_and_nothing_else_changes(deck, tmp_path, originals):
    copy = tmp_path / "copy.pptx"
    receipt = improved(deck, copy, originals)
    assert receipt.is_proven, receipt.faults
    assert [one["fate"] for one in receipt.rows] == ["replaced", "replaced", "left"]
    assert receipt.rows[0]["where"] == "slide 1, “Picture 1”"
    # The crop stays, so that the same part is shown, at three times the density.
    made = Presentation(copy)
    first = made.slides[0].shapes[0]
    assert (first.crop_left, first.crop_right) == (0.3, 0.2)
    assert first.image.size == (1800, 1200)
    assert first.image.content_type == "image/jpeg"
    assert made.slides[0].shapes[1].image.content_type == "image/png"
    assert densities(copy)[:2] == [(300.0, 300.0), (450.0, 450.0)]
    before, after = parts_of(deck), parts_of(copy)
    assert [one[:2] for one in before] == [one[:2] for one in after]
    differ = [old[0] for old, new in zip(before, after, strict=True) if old != new]
    assert sorted(differ) == ["ppt/media/image1.jpg", "ppt/media/image2.png"]


def test_what_is_cropped_off_is_cut_away_for_good(deck, tmp_path, originals):
    copy = tmp_path / "copy.pptx"
    receipt = improved(deck, copy, originals, cuts=True)
    assert receipt.is_proven, receipt.faults
    assert [one["is_cut"] for one in receipt.rows] == [True, False, False]
    shape = Presentation(copy).slides[0].shapes[0]
    assert shape.image.size == (900, 1200)
    assert (shape.crop_left, shape.crop_right) == (0.0, 0.0)
    first = images_in(copy)[0]
    assert first.visible_share == 1.0
    assert (first.density.x, first.density.y) == pytest.approx((300, 300))
    # The pixels are those of the part that was shown: the middle of the original.
    expected = Image.open(originals / "shot 1.jpg").crop((540, 0, 1440, 1200)).resize((90, 120))
    found = Image.open(io.BytesIO(shape.image.blob)).resize((90, 120))
    pairs = zip(expected.convert("L").getdata(), found.convert("L").getdata(), strict=True)
    assert sum(abs(a - b) for a, b in pairs) / (90 * 120) < 6


def test_only_cutting_needs_no_original(deck, tmp_path):
    copy = tmp_path / "copy.pptx"
    folder = tmp_path / "nothing"
    folder.mkdir()
    receipt = improved(deck, copy, folder, cuts=True)
    assert receipt.is_proven, receipt.faults
    assert (receipt.rows[0]["fate"], receipt.rows[0]["is_cut"]) == ("left", True)
    assert Presentation(copy).slides[0].shapes[0].image.size == (300, 400)


def test_a_picture_cropped_in_two_ways_is_not_cut(tmp_path):
    made = Presentation()
    slide = made.slides.add_slide(made.slide_layouts[6])
    for crop in (0.1, 0.3):
        shape = slide.shapes.add_picture(io.BytesIO(picture()), 0, 0, Inches(1), Inches(1))
        shape.crop_left = crop
    made.save(tmp_path / "deck.pptx")
    receipt = improved(tmp_path / "deck.pptx", tmp_path / "copy.pptx", tmp_path, cuts=True)
    assert [one["is_cut"] for one in receipt.rows] == [False]


def test_a_text_document(tmp_path, originals):
    made = docx.Document()
    made.add_heading("Tides", 1)
    made.add_paragraph().add_run().add_picture(small(originals, 1, 500), width=DocxInches(5))
    made.save(tmp_path / "text.docx")
    receipt = improved(tmp_path / "text.docx", tmp_path / "copy.docx", originals)
    assert receipt.is_proven, receipt.faults
    assert receipt.rows[0]["page"] is None
    (shape,) = docx.Document(tmp_path / "copy.docx").inline_shapes
    assert shape.width == DocxInches(5)
    assert densities(tmp_path / "copy.docx")[0] == pytest.approx((360, 360), abs=0.5)


def test_an_open_document_with_its_clip(tmp_path, originals):
    """A clip is counted at native size, so that the new file keeps it by its density tag."""
    Image.open(small(originals, 1, 600)).save(tmp_path / "a.jpg", dpi=(150, 150))
    made = odfdo.Document("text")
    made.body.clear()
    name = made.add_file(str(tmp_path / "a.jpg"))
    style = odfdo.Style("graphic", name="g", area="graphic")
    style.set_properties({"fo:clip": "rect(0in, 1in, 0in, 1in)"}, area="graphic")
    made.insert_style(style, automatic=True)
    frame = odfdo.Frame.image_frame(name, size=("4in", "4in"), anchor_type="paragraph", style="g")
    paragraph = odfdo.Paragraph("")
    paragraph.append(frame)
    made.body.append(paragraph)
    made.save(str(tmp_path / "text.odt"))
    before = images_in(tmp_path / "text.odt")[0]
    receipt = improved(tmp_path / "text.odt", tmp_path / "copy.odt", originals)
    assert receipt.is_proven, receipt.faults
    after = images_in(tmp_path / "copy.odt")[0]
    assert after.crop == pytest.approx(before.crop, rel=1e-3)
    assert after.density.x == pytest.approx(3 * before.density.x, rel=1e-3)
    receipt = improved(tmp_path / "text.odt", tmp_path / "cut.odt", originals, cuts=True)
    assert receipt.is_proven, receipt.faults
    assert images_in(tmp_path / "cut.odt")[0].visible_share > 0.999
    assert odfdo.Document(str(tmp_path / "cut.odt")).body.images


def test_a_book_keeps_pictures_whose_size_is_their_pixels(tmp_path, originals):
    made = epub.EpubBook()
    made.set_identifier("x")
    made.set_title("T")
    page = epub.EpubHtml(title="One", file_name="one.xhtml")
    page.content = '<img src="a.jpg" width="480"/><img src="b.jpg"/>'
    made.add_item(page)
    for number, file in ((1, "a.jpg"), (2, "b.jpg")):
        content = small(originals, number, 480).read()
        made.add_item(
            epub.EpubItem(uid=file, file_name=file, media_type="image/jpeg", content=content)
        )
    made.spine = [page]
    made.add_item(epub.EpubNcx())
    made.add_item(epub.EpubNav())
    epub.write_epub(str(tmp_path / "book.epub"), made)
    receipt = improved(tmp_path / "book.epub", tmp_path / "copy.epub", originals)
    assert receipt.is_proven, receipt.faults
    assert [(one["fate"], one["reason"][:8]) for one in receipt.rows] == [
        ("replaced", ""),
        ("left", "its size"),
    ]
    assert parts_of(tmp_path / "copy.epub")[0][:2] == parts_of(tmp_path / "book.epub")[0][:2]
    assert epub.read_epub(str(tmp_path / "copy.epub")).get_item_with_id("a.jpg") is not None


def test_an_svg_with_its_picture_inside(tmp_path, originals):
    data = base64.b64encode(small(originals, 1, 400).read()).decode()
    path = tmp_path / "drawing.svg"
    head = '<svg xmlns="http://www.w3.org/2000/svg" viewBox="0 0 300 200" width="3in">'
    path.write_text(
        f'{head}<image href="data:image/jpeg;base64,{data}" width="300" height="200"/></svg>'
    )
    receipt = improved(path, tmp_path / "copy.svg", originals)
    assert receipt.is_proven, receipt.faults
    assert densities(tmp_path / "copy.svg") == [(450.0, 450.0)]
    assert (tmp_path / "copy.svg").read_text().startswith(head)


def test_transparency_and_grey_stay(tmp_path, originals):
    image = Image.open(small(originals, 1, 400)).convert("L")
    veil = Image.linear_gradient("L").resize(image.size)
    image = Image.merge("LA", (image, veil))
    out = io.BytesIO()
    image.save(out, "PNG")
    made = Presentation()
    slide = made.slides.add_slide(made.slide_layouts[6])
    slide.shapes.add_picture(io.BytesIO(out.getvalue()), 0, 0, Inches(4), Inches(2.667))
    made.save(tmp_path / "deck.pptx")
    receipt = improved(tmp_path / "deck.pptx", tmp_path / "copy.pptx", originals)
    assert receipt.is_proven, receipt.faults
    new = Image.open(
        io.BytesIO(Presentation(tmp_path / "copy.pptx").slides[0].shapes[0].image.blob)
    )
    assert receipt.rows[0]["fate"] == "replaced"
    assert new.mode == "LA" and abs(new.width - 1800) < 5
    assert abs(new.getchannel("A").resize((1, 4)).getpixel((0, 3)) - 223) < 4


def test_images_as_files_keep_their_bytes(deck, tmp_path):
    folder = tmp_path / "files"
    folder.mkdir()
    extracted = extract_images(deck, "deck.pptx", folder)
    assert [one.file for one in extracted] == [
        "page 1 image 01.jpg",
        "page 1 image 02.png",
        "page 2 image 01.jpg",
    ]
    with zipfile.ZipFile(deck) as file:
        assert (folder / extracted[0].file).read_bytes() == file.read("ppt/media/image1.jpg")
    rows = (folder / TABLE_NAME).read_text().splitlines()
    assert len(rows) == 4
    only = tmp_path / "only"
    only.mkdir()
    assert len(extract_images(deck, "deck.pptx", only, pages="2")) == 1


def test_a_changed_part_is_found_by_the_proof(deck, tmp_path, originals, monkeypatch):
    """A copy whose other parts are not as they were is refused."""
    whole = improving.document_apart

    def spoilt(task, path, name, order, *rest):
        answer = whole(task, path, name, order, *rest)
        if task == "copying":
            with zipfile.ZipFile(order["copy"]) as file:
                parts = {one.filename: file.read(one) for one in file.infolist()}
            parts["ppt/presProps.xml"] = parts["ppt/presProps.xml"].replace(b"<", b" <", 1)
            with zipfile.ZipFile(order["copy"], "w") as file:
                for one, data in parts.items():
                    file.writestr(one, data)
        return answer

    monkeypatch.setattr(improving, "document_apart", spoilt)
    receipt = improved(deck, tmp_path / "copy.pptx", originals)
    assert not receipt.is_proven
    assert not (tmp_path / "copy.pptx").exists()
    assert receipt.rows[0]["fate"] == Fate.REPLACED.value
