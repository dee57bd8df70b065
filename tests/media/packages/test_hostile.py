"""Documents that were made to break their reader: one sentence, in bounded time and memory.

Each is read as the command reads it: in a process of its own, with the quick bounds.
"""

import io
import random
import struct
import time
import zipfile

import pytest

from harnet.core.targets.shipped import target_named
from harnet.media.errors import UnreadableFile
from harnet.studio.documents.check import check_document
from tests.support.packages import (
    SPACES,
    deck,
    package,
    pic,
    picture,
    relations,
    text,
    tree,
    xfrm,
)

COATED = target_named("coated")
SECONDS = 30
"""Ten seconds of work are the bound; a busy machine makes more of them."""


def checked(path):
    began = time.monotonic()
    try:
        return check_document(path, path.name, COATED, patience=1.0)
    finally:
        assert time.monotonic() - began < SECONDS


def sentence(path):
    """What is said of a document that cannot be read."""
    with pytest.raises(UnreadableFile) as error:
        checked(path)
    told = str(error.value)
    assert (
        told.startswith(f"{path.name}: ") and told.endswith(".") and "fault of its own" not in told
    )
    return told


@pytest.fixture
def path(tmp_path):
    return tmp_path / "hostile.pptx"


def test_a_bomb_in_a_picture(path):
    """Two gigabytes of zeros pack to two megabytes."""
    deck(path, [pic(xfrm(0, 0, 1, 1))], media={"a.png": b"\0" * 400_000_000})
    found = checked(path)
    assert found.images == []
    assert "unpacks to 400 MB" in found.report.read.pages[0].left_out


def test_a_bomb_in_a_part_of_xml(path):
    deck(path, [pic(xfrm(0, 0, 1, 1)) + " " * 100_000_000, pic(xfrm(0, 0, 1, 1))])
    found = checked(path)
    assert len(found.images) == 1
    assert "unpacks to 100 MB" in found.report.read.pages[0].left_out


def test_parts_that_overlap(path):
    """Many entries of the list of parts share one stream of bytes."""
    deck(path, [pic(xfrm(0, 0, 1, 1))])
    data = bytearray(path.read_bytes())
    end = data.rindex(b"PK\x05\x06")
    size, at = struct.unpack_from("<II", data, end + 12)
    listed = data[at : at + size]
    first = listed[: 46 + sum(struct.unpack_from("<HHH", listed, 28))]
    copies = bytes(first) * 200
    made = data[:at] + copies + data[end:]
    struct.pack_into("<HHII", made, at + len(copies) + 8, 200, 200, len(copies), at)
    path.write_bytes(made)
    assert "its parts overlap" in sentence(path)


def test_a_hundred_thousand_parts(path):
    with zipfile.ZipFile(path, "w") as file:
        for number in range(100_000):
            file.writestr(f"ppt/media/{number}.png", b"")
    assert "it holds 100000 parts; the limit is" in sentence(path)


def test_paths_that_climb_out(path):
    rels = {"rUp": ("image", "../../../../../../etc/passwd")}
    fill = '<p:blipFill><a:blip r:embed="rUp"/><a:stretch/></p:blipFill>'
    found = checked(deck(path, [pic(xfrm(0, 0, 1, 1), fill)], slide_rels=rels))
    assert found.images == []
    assert "missing from the file" in found.report.read.pages[0].left_out


@pytest.mark.parametrize(
    "entity",
    [
        '<!ENTITY a "aaaaaaaaaa"><!ENTITY b "&a;&a;&a;&a;&a;&a;&a;&a;&a;&a;">'
        '<!ENTITY c "&b;&b;&b;&b;&b;&b;&b;&b;&b;&b;"><!ENTITY d "&c;&c;&c;&c;&c;&c;&c;&c;">'
        '<!ENTITY x "&d;&d;&d;&d;&d;&d;&d;&d;&d;&d;&d;&d;&d;&d;&d;&d;&d;&d;&d;&d;">',
        '<!ENTITY x SYSTEM "file:///etc/passwd">',
        '<!ENTITY x SYSTEM "http://127.0.0.1:1/">',
    ],
)
def test_entities(tmp_path, path, entity):
    shapes = pic(xfrm(0, 0, 1, 1))
    slide = (
        f"<!DOCTYPE p:sld [{entity}]><p:sld {SPACES}><p:cSld><p:spTree>&x;{shapes}"
        "</p:spTree></p:cSld></p:sld>"
    )
    found = checked(deck(path, [shapes], more={"ppt/slides/slide1.xml": slide}))
    assert len(found.images) <= 1
    svg = tmp_path / "hostile.svg"
    svg.write_text(
        f'<!DOCTYPE svg [{entity}]><svg xmlns="http://www.w3.org/2000/svg"><text>&x;</text></svg>'
    )
    assert "declares entities" in sentence(svg)


def test_relationships_in_circles(path):
    more = {
        "ppt/slides/_rels/slide1.xml.rels": relations(l=("slideLayout", "../slideLayouts/l.xml")),
        "ppt/slideLayouts/l.xml": (
            f"<p:sldLayout {SPACES}><p:cSld>{tree('')}</p:cSld></p:sldLayout>"
        ),
        "ppt/slideLayouts/_rels/l.xml.rels": relations(
            m=("slideMaster", "../slideLayouts/l.xml"), l=("slideLayout", "l.xml")
        ),
    }
    assert checked(deck(path, [""], more=more)).images == []
    chart = (
        f"<p:graphicFrame>{xfrm(0, 0, 3, 2, name='p:xfrm')}<a:graphic><a:graphicData>"
        '<c:chart r:id="rChart"/></a:graphicData></a:graphic></p:graphicFrame>'
    )
    rels = {"rChart": ("chart", "../slides/slide1.xml")}
    assert checked(deck(path, [chart], slide_rels=rels)).images == []


def test_groups_nested_ten_thousand_deep(path):
    deep = "<p:grpSp><p:grpSpPr/>" * 10_000 + "</p:grpSp>" * 10_000
    found = checked(deck(path, [deep, pic(xfrm(0, 0, 1, 1))]))
    assert len(found.images) == 1
    assert "nested too deeply" in found.report.read.pages[0].left_out


def test_groups_nested_as_deep_as_they_may_be(path):
    inside = pic(xfrm(0, 0, 1, 1))
    for _ in range(240):
        inside = f"<p:grpSp><p:grpSpPr/>{inside}</p:grpSp>"
    assert len(checked(deck(path, [inside])).images) == 1


@pytest.mark.parametrize(
    "value", ["1000000000000000000", "-1000000000000000000", "0", "nan", "inf", "1e400", "x", ""]
)
def test_lengths_that_are_none(path, value):
    place = f'<a:xfrm><a:off x="{value}" y="0"/><a:ext cx="{value}" cy="{value}"/></a:xfrm>'
    crop = '<p:blipFill><a:blip r:embed="rImg"/><a:srcRect l="{0}" r="{0}"/></p:blipFill>'
    checked(deck(path, [pic(place) + pic(xfrm(0, 0, 1, 1), crop.format(value))]))
    text(
        path.with_suffix(".docx"),
        f'<w:p><w:r><w:pict><v:shape style="width:{value}pt;height:{value}">'
        '<v:imagedata r:id="rImg"/></v:shape></w:pict></w:r></w:p>',
    )
    checked(path.with_suffix(".docx"))


def test_parts_that_are_missing(path):
    deck(path, [pic(xfrm(0, 0, 1, 1))])
    with zipfile.ZipFile(path) as file:
        parts = {one: file.read(one) for one in file.namelist()}
    for gone in parts:
        package(path, {name: data for name, data in parts.items() if name != gone})
        try:
            checked(path)
        except UnreadableFile as error:
            assert "fault of its own" not in str(error)


def test_content_types_that_lie(path):
    types = '<Types><Default Extension="jpg" ContentType="text/plain"/></Types>'
    lying = {"[Content_Types].xml": types, "ppt/media/image1.jpg": picture(300, 200, "PNG")}
    (image,) = checked(deck(path, [pic(xfrm(0, 0, 1, 1))], more=lying)).images
    assert (image.px_w, image.filters) == (300, "png")


def test_encrypted_packages_and_older_formats(tmp_path):
    older = b"\xd0\xcf\x11\xe0\xa1\xb1\x1a\xe1" + b"\0" * 600
    (tmp_path / "old.ppt").write_bytes(older)
    assert "older binary format" in sentence(tmp_path / "old.ppt")
    (tmp_path / "locked.pptx").write_bytes(older + "EncryptedPackage".encode("utf-16-le"))
    assert "encrypted with a password" in sentence(tmp_path / "locked.pptx")
    manifest = "<manifest><encryption-data/></manifest>"
    mimetype = "application/vnd.oasis.opendocument.text"
    package(tmp_path / "locked.odt", {"mimetype": mimetype, "META-INF/manifest.xml": manifest})
    assert "encrypted with a password" in sentence(tmp_path / "locked.odt")


def test_files_that_break_off(path):
    deck(path, [pic(xfrm(0, 0, 1, 1))])
    whole = path.read_bytes()
    for length in (0, 1, 4, 30, len(whole) // 2, len(whole) - 30, len(whole) - 1):
        path.write_bytes(whole[:length])
        try:
            checked(path)
        except UnreadableFile as error:
            assert "fault of its own" not in str(error)


def test_bytes_changed_at_random(path):
    """Two hundred decks with some bytes of their XML, or of the archive, changed."""
    deck(path, [pic(xfrm(0, 0, 1, 1)) * 3], media={"a.png": picture(60, 40, "PNG")})
    whole = path.read_bytes()
    with zipfile.ZipFile(path) as file:
        parts = {one: file.read(one) for one in file.namelist()}
    luck = random.Random(5)
    for number in range(60):
        if number % 2:
            data = bytearray(whole)
            for _ in range(luck.randint(1, 20)):
                data[luck.randrange(len(data))] = luck.randrange(256)
            path.write_bytes(data)
        else:
            name = luck.choice([one for one in parts if one.endswith((".xml", ".rels"))])
            data = bytearray(parts[name])
            for _ in range(luck.randint(1, 6)):
                data[luck.randrange(len(data))] = luck.randrange(32, 127)
            package(path, parts | {name: bytes(data)})
        try:
            checked(path)
        except UnreadableFile as error:
            assert "fault of its own" not in str(error), number


def test_flat_documents_with_broken_data(tmp_path):
    path = tmp_path / "flat.fodg"
    office = "urn:oasis:names:tc:opendocument:xmlns:office:1.0"
    draw = "urn:oasis:names:tc:opendocument:xmlns:drawing:1.0"
    body = (
        "<office:drawing><draw:page><draw:frame><draw:image><office:binary-data>{}"
        "</office:binary-data></draw:image></draw:frame></draw:page></office:drawing>"
    )
    for data in ("!!!", "AAAA", ""):
        path.write_text(
            f'<office:document xmlns:office="{office}" xmlns:draw="{draw}">'
            f"<office:body>{body.format(data)}</office:body></office:document>"
        )
        assert checked(path).images == []


def test_an_svg_that_uses_itself(tmp_path):
    path = tmp_path / "self.svg"
    uses = "".join(
        f'<g id="g{n}"><use href="#g{n + 1}"/><use href="#g{n + 1}"/></g>' for n in range(40)
    )
    path.write_text(
        f'<svg xmlns="http://www.w3.org/2000/svg"><g id="a"><use href="#a"/></g>{uses}'
        '<g id="g40"/></svg>'
    )
    found = checked(path)
    assert found.images == []
    assert "not all followed" in found.report.read.pages[0].left_out


def test_a_picture_that_breaks_off(path):
    data = picture(300, 200)
    found = checked(deck(path, [pic(xfrm(0, 0, 1, 1))], media={"a.jpg": data[:300]}))
    assert found.images == []
    assert "incomplete" in found.report.read.pages[0].left_out


def test_a_zip_inside_a_zip_is_not_opened(tmp_path):
    inner = io.BytesIO()
    with zipfile.ZipFile(inner, "w", zipfile.ZIP_DEFLATED) as file:
        file.writestr("bomb", b"\0" * 50_000_000)
    path = package(tmp_path / "nested.zip", {"inner.zip": inner.getvalue()})
    assert "none of a document" in sentence(path)
