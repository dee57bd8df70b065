"""Improved copies of what many producers write: the image is replaced, all else is untouched.

Every producer sets the same poor photograph, whose original lies on the shelf. `qpdf --qdf` writes
both PDFs out in full, and all objects but the image are compared as text.
"""

import re
import subprocess

import cairocffi
import img2pdf
import numpy
import pikepdf
import pytest
from fpdf import FPDF
from matplotlib.figure import Figure
from PIL import Image
from reportlab.lib.utils import ImageReader
from reportlab.pdfgen.canvas import Canvas
from weasyprint import HTML

from harnet.core.documents.improving import ImproveSettings
from harnet.core.targets.shipped import target_named
from harnet.studio.documents.making.improving import make_copy, plan_improvement
from tests.support.pdfs import ByHand, listed_by_poppler
from tests.trials.registration import photographs

Name, Array, Dictionary = pikepdf.Name, pikepdf.Array, pikepdf.Dictionary
TARGET = target_named("coated")
SIZE = (300, 200)
CHROMIUM = "/usr/bin/chromium-headless-shell"


def large():
    return Image.fromarray(photographs()["coffee"]).convert("RGB").resize((1800, 1200))


@pytest.fixture(scope="module")
def shelf(tmp_path_factory):
    folder = tmp_path_factory.mktemp("shelf")
    large().save(folder / "coffee.jpg", quality=94)
    return [folder / "coffee.jpg"]


@pytest.fixture
def poor(tmp_path):
    """The poor photograph as JPEG and as PNG."""
    small = large().resize(SIZE, Image.Resampling.LANCZOS)
    small.save(tmp_path / "poor.jpg", quality=88)
    small.save(tmp_path / "poor.png")
    return tmp_path / "poor"


def by_reportlab(poor, path):
    canvas = Canvas(str(path), pagesize=(400, 300))
    canvas.drawImage(ImageReader(poor.with_suffix(".png")), 20, 20, 240, 160)
    canvas.drawString(20, 250, "A cup on the quay")
    canvas.save()


def by_fpdf(poor, path):
    pdf = FPDF(unit="pt", format=(400, 300))
    pdf.add_page()
    pdf.set_font("Helvetica", size=12)
    pdf.cell(text="A cup on the quay")
    pdf.image(poor.with_suffix(".jpg"), 20, 60, 240, 160)
    pdf.output(str(path))


def by_img2pdf(poor, path):
    layout = img2pdf.get_fixed_dpi_layout_fun((90, 90))
    path.write_bytes(img2pdf.convert(str(poor.with_suffix(".jpg")), layout_fun=layout))


def by_pillow(poor, path):
    with Image.open(poor.with_suffix(".png")) as image:
        image.convert("RGB").save(path, resolution=90)


def by_cairo(poor, path):
    surface = cairocffi.PDFSurface(str(path), 400, 300)
    context = cairocffi.Context(surface)
    pixels = cairocffi.ImageSurface.create_from_png(str(poor.with_suffix(".png")))
    context.translate(20, 20)
    context.scale(0.8, 0.8)
    context.set_source_surface(pixels)
    context.paint()
    surface.finish()


def by_matplotlib(poor, path):
    figure = Figure(figsize=(4, 3))
    axes = figure.add_axes((0.05, 0.05, 0.8, 0.8))
    axes.imshow(numpy.asarray(Image.open(poor.with_suffix(".png"))), interpolation="none")
    axes.set_title("A cup on the quay")
    figure.savefig(path)


def page_of_html(poor):
    return (
        "<style>@page{size:400pt 300pt;margin:20pt} img{width:240pt}</style>"
        f'<p>A cup on the quay</p><img src="{poor.with_suffix(".jpg").as_uri()}">'
    )


def by_weasyprint(poor, path):
    HTML(string=page_of_html(poor)).write_pdf(path)


def by_chromium(poor, path):
    source = poor.with_suffix(".html")
    source.write_text(page_of_html(poor))
    flags = ["--no-sandbox", "--disable-gpu", "--no-pdf-header-footer"]
    subprocess.run(
        [CHROMIUM, *flags, f"--print-to-pdf={path}", source.as_uri()],
        check=True,
        capture_output=True,
    )


def by_ghostscript(poor, path):
    first = poor.with_suffix(".first.pdf")
    by_reportlab(poor, first)
    flags = ["-q", "-dSAFER", "-dBATCH", "-dNOPAUSE", "-sDEVICE=pdfwrite"]
    subprocess.run(["gs", *flags, "-o", path, first], check=True)


def by_poppler(poor, path):
    first = poor.with_suffix(".first.pdf")
    by_reportlab(poor, first)
    subprocess.run(["pdftocairo", "-pdf", first, path], check=True)


PRODUCERS = [
    by_reportlab,
    by_fpdf,
    by_img2pdf,
    by_pillow,
    by_cairo,
    by_matplotlib,
    by_weasyprint,
    by_chromium,
    by_ghostscript,
    by_poppler,
]


def improved(path, shelf, tmp_path):
    plan = plan_improvement(path, path.name, shelf, ImproveSettings(target=TARGET))
    copy, room = tmp_path / "copy.pdf", tmp_path / "room"
    room.mkdir()
    return copy, make_copy(plan, copy, room)


def objects_of(path):
    """Every object but images, as `qpdf --qdf` writes it out, in order and without numbers."""
    run = subprocess.run(
        ["qpdf", "--qdf", "--object-streams=disable", "--no-original-object-ids", path, "-"],
        check=True,
        capture_output=True,
    )
    found = []
    for one in re.split(rb"\n(?=\d+ 0 obj\n)", run.stdout)[1:]:
        if b"/Subtype /Image" in one:
            continue
        body = one.partition(b" 0 obj\n")[2].partition(b"\nendobj")[0]
        # Lengths follow the streams, and numbers of objects their order.
        body = re.sub(rb"^\s*\d+$", b"", re.sub(rb"\d+ 0 R", b"R", body), flags=re.M)
        found.append(body)
    return [one for one in found if one.strip()]


def is_untouched(path, copy):
    """What holds of every copy: sound, the same text, the same objects but images."""
    subprocess.run(["qpdf", "--check", copy], check=True, capture_output=True)
    texts = [subprocess.run(["pdftotext", one, "-"], capture_output=True) for one in (path, copy)]
    assert texts[0].stdout == texts[1].stdout
    assert sorted(objects_of(path)) == sorted(objects_of(copy))


@pytest.mark.parametrize("producer", PRODUCERS, ids=lambda one: one.__name__)
def test_the_image_is_replaced_and_nothing_else(producer, poor, shelf, tmp_path):
    path = tmp_path / "made elsewhere.pdf"
    producer(poor, path)
    copy, receipt = improved(path, shelf, tmp_path)
    assert receipt.is_proven
    [row] = [one for one in receipt.rows if one["fate"] == "replaced"]
    assert row["sureness"] == "sure"
    assert 300 < row["new_ppi"] <= 450.5
    is_untouched(path, copy)
    listed = [
        one for one in listed_by_poppler(copy) if one[1:3] == (row["new_px_w"], row["new_px_h"])
    ]
    assert listed and min(listed[0][3:]) == pytest.approx(row["new_ppi"], abs=1)


def set_in(made, poor, name="I"):
    with Image.open(poor.with_suffix(".png")) as image:
        stream = pikepdf.Stream(made.pdf, image.tobytes())
    stream.Type, stream.Subtype = Name.XObject, Name.Image
    stream.Width, stream.Height, stream.BitsPerComponent = *SIZE, 8
    stream.ColorSpace = Name.DeviceRGB
    made.resources.XObject[f"/{name}"] = made.pdf.make_indirect(stream)
    return made.resources.XObject[f"/{name}"]


@pytest.fixture
def by_hand(tmp_path, poor):
    made = ByHand(tmp_path / "by hand.pdf")
    set_in(made, poor)
    return made


def all_replaced(made, shelf, tmp_path, ppi):
    copy, receipt = improved(made.path, shelf, tmp_path)
    assert receipt.is_proven, receipt.faults
    [row] = receipt.rows
    assert (row["fate"], row["ppi"]) == ("replaced", pytest.approx(ppi, abs=0.05))
    is_untouched(made.path, copy)
    return copy, row


PLAIN = b"q 240 0 0 160 20 20 cm /I Do Q"


@pytest.mark.parametrize("turn", [90, 180, 270])
def test_turned_pages(by_hand, shelf, tmp_path, turn):
    by_hand.page.obj.Rotate = turn
    by_hand.painted(PLAIN)
    all_replaced(by_hand, shelf, tmp_path, 90)


def test_a_larger_unit_and_a_crop(by_hand, shelf, tmp_path):
    by_hand.page.obj.UserUnit = 2
    by_hand.page.obj.CropBox = Array([10, 10, 300, 200])
    by_hand.painted(PLAIN)
    all_replaced(by_hand, shelf, tmp_path, 45)


def test_forms_in_forms(by_hand, shelf, tmp_path):
    inner = by_hand.form(b"q 120 0 0 80 0 0 cm /I Do Q", Resources=by_hand.resources)
    outer = by_hand.form(
        b"q 2 0 0 2 0 0 cm /Inner Do Q", Resources=Dictionary(XObject=Dictionary(Inner=inner))
    )
    by_hand.resources.XObject.Outer = outer
    by_hand.painted(b"q 1 0 0 1 20 20 cm /Outer Do Q")
    all_replaced(by_hand, shelf, tmp_path, 90)


def test_a_layer(by_hand, shelf, tmp_path):
    layer = by_hand.pdf.make_indirect(Dictionary(Type=Name.OCG, Name="Pictures"))
    by_hand.pdf.Root.OCProperties = Dictionary(
        OCGs=Array([layer]), D=Dictionary(ON=Array([layer]), Order=Array([layer]))
    )
    by_hand.resources.Properties = Dictionary(P=layer)
    by_hand.painted(b"/OC /P BDC " + PLAIN + b" EMC")
    copy, _ = all_replaced(by_hand, shelf, tmp_path, 90)
    with pikepdf.open(copy) as pdf:
        assert pdf.Root.OCProperties.OCGs[0].Name == "Pictures"


def test_a_pattern(by_hand, shelf, tmp_path):
    pattern = by_hand.form(
        b"q 240 0 0 160 0 0 cm /I Do Q",
        Type=Name.Pattern,
        PatternType=1,
        PaintType=1,
        TilingType=1,
        XStep=400,
        YStep=400,
        Resources=by_hand.resources,
    )
    del pattern["/Subtype"]
    by_hand.resources.Pattern.P = pattern
    by_hand.painted(b"/Pattern cs /P scn 0 0 400 400 re f")
    all_replaced(by_hand, shelf, tmp_path, 90)


def test_a_glyph_of_a_type_3_font(by_hand, shelf, tmp_path):
    glyph = pikepdf.Stream(by_hand.pdf, b"1000 0 d0 q 1000 0 0 667 0 0 cm /I Do Q")
    font = Dictionary(
        Type=Name.Font,
        Subtype=Name.Type3,
        FontBBox=Array([0, 0, 1000, 1000]),
        FontMatrix=Array([0.001, 0, 0, 0.001, 0, 0]),
        CharProcs=Dictionary(a=by_hand.pdf.make_indirect(glyph)),
        Encoding=Dictionary(Type=Name.Encoding, Differences=Array([97, Name.a])),
        FirstChar=97,
        LastChar=97,
        Widths=Array([1000]),
        Resources=Dictionary(XObject=Dictionary(I=by_hand.resources.XObject.I)),
    )
    del by_hand.resources.XObject["/I"]
    by_hand.resources.Font = Dictionary(T=by_hand.pdf.make_indirect(font))
    by_hand.painted(b"BT /T 240 Tf 20 20 Td (a) Tj ET")
    all_replaced(by_hand, shelf, tmp_path, 90)


def test_what_else_a_document_has(by_hand, shelf, tmp_path):
    """Links, bookmarks, labels, attachments, metadata, boxes, intents and a structure stay."""
    pdf, page = by_hand.pdf, by_hand.page.obj
    link = Dictionary(
        Type=Name.Annot,
        Subtype=Name.Link,
        Rect=Array([20, 300, 120, 320]),
        A=Dictionary(S=Name.URI, URI="https://tarnholm.example"),
    )
    page.Annots = Array([pdf.make_indirect(link)])
    page.TrimBox, page.BleedBox = Array([10, 10, 390, 390]), Array([5, 5, 395, 395])
    pdf.Root.PageLabels = Dictionary(Nums=Array([0, Dictionary(S=Name.r, St=3)]))
    pdf.Root.Lang = pikepdf.String("en-GB")
    pdf.Root.MarkInfo = Dictionary(Marked=True)
    pdf.Root.StructTreeRoot = pdf.make_indirect(Dictionary(Type=Name.StructTreeRoot, K=Array([])))
    intent = Dictionary(
        Type=Name.OutputIntent, S=Name.GTS_PDFX, OutputConditionIdentifier="Quay press"
    )
    pdf.Root.OutputIntents = Array([pdf.make_indirect(intent)])
    pdf.attachments["tides.txt"] = b"Low water at six."
    with pdf.open_outline() as outline:
        outline.root.append(pikepdf.OutlineItem("The cup", 0))
    with pdf.open_metadata() as about:
        about["dc:title"] = "Coffee on the quay"
    pdf.docinfo["/Author"] = "Ines Marram"
    by_hand.painted(PLAIN)
    copy, _ = all_replaced(by_hand, shelf, tmp_path, 90)
    with pikepdf.open(by_hand.path) as before, pikepdf.open(copy) as after:
        assert after.attachments["tides.txt"].get_file().read_bytes() == b"Low water at six."
        assert after.Root.Metadata.read_raw_bytes() == before.Root.Metadata.read_raw_bytes()
        assert dict(after.docinfo) == dict(before.docinfo)
        assert after.pages[0].label == before.pages[0].label == "iii"
        assert list(after.pages[0].TrimBox) == list(before.pages[0].TrimBox)
