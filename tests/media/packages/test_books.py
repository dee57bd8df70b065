"""EPUB: sizes by CSS, the order of the spine, covers; by hand and by a general library."""

import pytest
from ebooklib import epub

from harnet.media.errors import UnreadableFile
from harnet.media.packages.reading import read_document
from tests.support.packages import densities, images_in, package, picture

COVER = ' properties="cover-image"'
COVER = ' properties="cover-image"'
CONTAINER = (
    '<container xmlns="urn:oasis:names:tc:opendocument:xmlns:container"><rootfiles>'
    '<rootfile full-path="OPS/book.opf"/></rootfiles></container>'
)


def book(path, pages, *, css="", media=None, version="3.0", more=None, head=""):
    names = [f"page{number}" for number in range(1, len(pages) + 1)]
    items = "".join(
        f'<item id="{one}" href="{one}.xhtml" media-type="application/xhtml+xml"/>' for one in names
    )
    media = media or {"a.jpg": picture(1200, 900)}
    items += "".join(
        f'<item id="{name}" href="{name}" media-type="image/jpeg"'
        f"{COVER if name.startswith('cover') else ''}/>"
        for name in media
    )
    spine = "".join(f'<itemref idref="{one}"/>' for one in names)
    parts = {
        "mimetype": "application/epub+zip",
        "META-INF/container.xml": CONTAINER,
        "OPS/book.opf": (
            f'<package xmlns="http://www.idpf.org/2007/opf" version="{version}"><metadata/>'
            f"<manifest>{items}</manifest><spine>{spine}</spine></package>"
        ),
        "OPS/style.css": css,
    }
    for name, body in zip(names, pages, strict=True):
        parts[f"OPS/{name}.xhtml"] = (
            '<html xmlns="http://www.w3.org/1999/xhtml"><head><title>T</title>'
            f'<link rel="stylesheet" href="style.css"/>{head}</head><body>{body}</body></html>'
        )
    parts |= {f"OPS/{name}": data for name, data in media.items()}
    return package(path, parts | (more or {}))


@pytest.fixture
def path(tmp_path):
    return tmp_path / "book.epub"


def test_css_pixels(path):
    """Check value of formula 14: 1 200 × 900 px shown at 400 × 300 CSS px are 288 ppi."""
    book(path, ['<img src="a.jpg" width="400" height="300"/>'])
    assert densities(path) == [(288.0, 288.0)]


def test_without_a_size_one_css_pixel_for_each_said_to_be_assumed(path):
    book(path, ['<img src="a.jpg"/>'])
    (image,) = images_in(path)
    assert densities(path) == [(96.0, 96.0)]
    assert image.is_assumed


@pytest.mark.parametrize(
    ("css", "inside", "density"),
    [
        ("img { width: 4in }", "<img src='a.jpg'/>", (300.0, 300.0)),
        ("img.x { height: 2in; width: auto }", "<img class='x' src='a.jpg'/>", (450.0, 450.0)),
        ("#i { width: 10.16cm !important } img { width: 1px }", "<img id='i' src='a.jpg'/>",
         (300.0, 300.0)),
        ("p > img { width: 300pt; height: 300pt; object-fit: cover }", "<p><img src='a.jpg'/></p>",
         (216.0, 216.0)),
        ("p > img { width: 300pt; height: 300pt; object-fit: contain }",
         "<p><img src='a.jpg'/></p>", (288.0, 288.0)),
        ("img { width: 800px; max-width: 400px }", "<img src='a.jpg'/>", (288.0, 288.0)),
        ("img { width: 25em }", "<img src='a.jpg'/>", (288.0, 288.0)),
        ("@media print { img { width: 1in } }", "<img width='400' src='a.jpg'/>", (288.0, 288.0)),
        ("", "<img src='a.jpg' style='width:6in' width='10'/>", (200.0, 200.0)),
    ],
)  # fmt: skip
def test_cascade(path, css, inside, density):
    book(path, [inside], css=css)
    assert densities(path) == [density]


def test_fixed_layout_knows_what_a_percentage_is_of(path):
    head = '<meta name="viewport" content="width=800, height=600"/>'
    book(path, ['<div style="width:50%"><img src="a.jpg" style="width:50%"/></div>'], head=head)
    assert densities(path) == [(576.0, 576.0)]
    book(path, ['<img src="a.jpg" style="width:50%"/>'])
    assert images_in(path)[0].is_assumed


def test_svg_pages_covers_posters_backgrounds_and_cells(path):
    svg = (
        '<svg xmlns="http://www.w3.org/2000/svg" xmlns:xlink="http://www.w3.org/1999/xlink"'
        ' viewBox="0 0 600 800" width="300" height="400">'
        '<image xlink:href="cover.jpg" width="600" height="800"/></svg>'
    )
    inside = (
        "<h1>Tides</h1><table><tr><td><img src='a.jpg' width='400'/></td></tr></table>"
        "<video poster='a.jpg' width='200' height='150'/>"
        "<div style=\"background-image:url('a.jpg')\">x</div>"
        "<img src='https://pictures.example/x.jpg' alt='Far'/>"
    )
    media = {"a.jpg": picture(1200, 900), "cover.jpg": picture(600, 800)}
    book(path, [svg, inside], media=media)
    found = [(one.page_number, one.source, one.heading, one.link) for one in images_in(path)]
    assert found == [
        (1, "cover", "", ""),
        (2, "table cell", "Tides", ""),
        (2, "media poster", "Tides", ""),
        (2, "background", "Tides", ""),
        (2, "body", "Tides", "https://pictures.example/x.jpg"),
    ]
    assert densities(path)[0] == (192.0, 192.0)


def test_protected_books_are_told(path):
    encryption = (
        '<encryption xmlns:enc="http://www.w3.org/2001/04/xmlenc#"><enc:EncryptedData>'
        '<enc:EncryptionMethod Algorithm="http://www.w3.org/2001/04/xmlenc#aes256-cbc"/>'
        "</enc:EncryptedData></encryption>"
    )
    book(path, ["x"], more={"META-INF/encryption.xml": encryption})
    with pytest.raises(UnreadableFile, match="protected"):
        read_document(path, "book.epub")
    # Fonts that are hidden do not matter.
    fonts = encryption.replace(
        "http://www.w3.org/2001/04/xmlenc#aes256-cbc", "http://www.idpf.org/2008/embedding"
    )
    book(path, ["x"], more={"META-INF/encryption.xml": fonts})
    assert read_document(path, "book.epub").images == []


def test_pictures_turned_by_their_tag_are_as_browsers_show_them(path):
    """CSS Images 3, image-orientation: from-image is the usual."""
    exif = b"Exif\0\0MM\0*\0\0\0\x08\0\x01\x01\x12\0\x03\0\0\0\x01\0\x06\0\0\0\0\0\0"
    book(path, ['<img src="a.jpg" width="90"/>'], media={"a.jpg": picture(120, 90, exif=exif)})
    (image,) = images_in(path)
    assert (image.px_w, image.px_h) == (90, 120)
    assert densities(path) == [(96.0, 96.0)]


def test_a_book_of_a_general_library(tmp_path):
    made = epub.EpubBook()
    made.set_identifier("tides")
    made.set_title("Tides")
    made.set_language("en")
    chapters = []
    for number in (1, 2):
        chapter = epub.EpubHtml(title=f"C{number}", file_name=f"c{number}.xhtml")
        chapter.content = f'<h1>C{number}</h1><img src="a.jpg" width="{200 * number}"/>'
        made.add_item(chapter)
        chapters.append(chapter)
    made.add_item(
        epub.EpubItem(
            uid="i", file_name="a.jpg", media_type="image/jpeg", content=picture(1200, 900)
        )
    )
    made.spine = chapters
    made.add_item(epub.EpubNcx())
    made.add_item(epub.EpubNav())
    epub.write_epub(str(tmp_path / "book.epub"), made)
    found = [
        (one.page_number, one.heading, round(one.density.x))
        for one in images_in(tmp_path / "book.epub")
    ]
    assert found == [(1, "C1", 576), (2, "C2", 288)]
