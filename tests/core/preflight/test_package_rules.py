"""Rules on slide decks, texts, books and SVG, each with and without what it looks for."""

from dataclasses import replace

import pytest

from harnet.core.documents.document import (
    DocumentFacts,
    Leftover,
    LeftoverKind,
    PageKind,
    Repeated,
    SavingSettings,
    text_page,
)
from harnet.core.documents.formats import DocumentFormat
from harnet.core.documents.images import ImageKind, ImageOnPage
from harnet.core.documents.shrinking import Shrunk
from harnet.core.measure.geometry import Matrix
from harnet.core.preflight.document_images import all_findings
from harnet.core.preflight.rules import all_rules, findings_of
from harnet.core.preflight.subject import CheckedDocument
from harnet.core.targets.shipped import target_named

COATED = target_named("coated")
SOUND = CheckedDocument(name="tides.pptx", target=COATED, pages=4, noun="slide deck", part="slide")
OLD = Leftover(part="media/old.png", kind=LeftoverKind.UNUSED, size_bytes=2_000_000)
CASES = {
    "shrunk-on-saving": (
        {"shrunk": Shrunk(220, 14, 17, (3, 4)), "denser": ("slide 2, “Map”", "slide 5")},
        "14 of 17 pictures stand at exactly 220 ppi: this file was shrunk on saving. Ask for the"
        " deck before that, or the originals. 2 pictures still have more: slide 2, “Map”, slide 5.",
    ),
    "shrinks-on-saving": (
        {"saving": SavingSettings(default_ppi=150, discards_edits=True)},
        "By its settings, pictures are shrunk to 150 ppi when it is saved. Cropped-off parts and"
        " what stood before an effect are thrown away. Switch that off",
    ),
    "pictures-not-shown": (
        {"leftovers": (OLD,)},
        "1 picture, 2.0 MB, is in the file and shown nowhere: media/old.png.",
    ),
    "pictures-repeated": (
        {"repeated": (Repeated(parts=("a.png", "b.png"), size_bytes=500_000),)},
        "1 picture is in the file more than once, with the same bytes: a.png and b.png.",
    ),
    "pictures-linked": (
        {"links": ("harbour.jpg",)},
        "1 picture is linked and not in the file, so that they are not judged: harbour.jpg.",
    ),
}


@pytest.mark.parametrize("rule", CASES)
def test_each_is_found_and_not_found(rule):
    what, start = CASES[rule]
    assert findings_of(SOUND) == []
    (found,) = findings_of(replace(SOUND, **what))
    assert found.rule_id == rule
    assert found.sentence.startswith(start)


def test_every_rule_stands_in_the_table():
    rules = {one.id for one in all_rules() if one.find.__module__.endswith("package_rules")}
    assert rules == {*CASES, "cropped-parts-kept"}


def image(number, px_w=600, *, crop=(0.0, 0.0, 0.0, 0.0), page=1, **more):
    values = {
        "id": number,
        "page_number": page,
        "place": number,
        "px_w": px_w,
        "px_h": 400,
        "colour": "rgb",
        "bits": 8,
        "matrix": Matrix(144, 0, 0, 96, 0, 0),
        "object_number": 0,
        "has_profile": True,
        "has_alpha": False,
        "filters": "jpeg",
        "unseen": "",
        "source": "body",
        "pieces": (),
        "crop": crop,
        "size_bytes": 100_000,
        "part": f"media/{number}.jpg",
    }
    return ImageOnPage(**(values | more))


def text(*notes):
    return DocumentFacts(
        name="tides.docx", pages=[text_page()], format=DocumentFormat.DOCX, notes=notes
    )


def test_cropped_off_parts_are_told_with_their_bytes():
    found = all_findings([image(1, crop=(0.3, 0.1, 0, 0))], text(), COATED)
    (cropped,) = [one for one in found if one.rule_id == "cropped-parts-kept"]
    assert cropped.headline == "37\u00a0% cropped off, still in the file"
    assert "about 37 kB" in cropped.sentence


def test_a_text_without_pages_is_judged_and_pretends_to_none():
    found = all_findings([image(1, 150)], text(), COATED)
    assert "density-below-floor" in {one.rule_id for one in found}
    read = text()
    assert read.number_of(1) is None
    assert read.pages[0].kind is PageKind.TEXT


def test_what_could_not_be_read_names_the_part():
    read = text("word/header1.xml is damaged")
    (found,) = all_findings([], read, COATED)
    assert found.headline == "not everything in the text document was read"
    assert "word/header1.xml is damaged" in found.sentence


def test_links_and_vectors_are_not_judged():
    linked = image(1, 0, kind=ImageKind.LINKED, link="a.jpg", unseen="linked, not in the file")
    vector = image(2, 0, kind=ImageKind.VECTOR, filters="svg")
    found = all_findings([linked, vector], text(), COATED)
    assert [one.rule_id for one in found] == ["pictures-linked"]
