"""A copy with notes: content unchanged, notes where the pictures are, seen by other readers."""

import hashlib

import numpy as np
import pikepdf
import pypdf
import pypdfium2
import pytest

from harnet.core.targets.shipped import target_named
from harnet.studio.documents.check import check_document
from harnet.studio.documents.notes import notes_on, write_noted
from tests.support.pdfs import ByHand


@pytest.fixture
def by_hand(tmp_path):
    return ByHand(tmp_path / "hand.pdf")


def noted(by_hand, target="300"):
    check = check_document(by_hand.path, "hand.pdf", target_named(target))
    out = by_hand.path.with_name("noted.pdf")
    placed = write_noted(by_hand.path, "hand.pdf", notes_on(check.images, check.report.target), out)
    return out, placed


def contents(path):
    """A hash of every page's content and of every image, as they are stored."""
    hashes = []
    with pikepdf.open(path) as pdf:
        for page in pdf.pages:
            hashes.append(page.Contents.read_raw_bytes())
            hashes += [x.read_raw_bytes() for x in page.Resources.XObject.values() if "/Width" in x]
    return [hashlib.sha256(data).hexdigest() for data in hashes]


def test_the_poor_one_gets_a_note_with_its_figures(by_hand):
    by_hand.resources.XObject["/X"] = by_hand.image()
    # 150 ppi, then 300 ppi, then one that is off the page.
    by_hand.painted(
        "q 144 0 0 96 20 30 cm /X Do Q q 72 0 0 48 20 200 cm /X Do Q q 144 0 0 96 900 0 cm /X Do Q"
    )
    before = by_hand.path.read_bytes()
    out, placed = noted(by_hand)
    assert placed == 1 and by_hand.path.read_bytes() == before
    [note] = pypdf.PdfReader(out).pages[0]["/Annots"]
    note = note.get_object()
    assert note["/Subtype"] == "/Square"
    assert note["/Contents"] == "150 ppi, thin; 300 ppi wanted, 50\u00a0% short."
    assert [float(edge) for edge in note["/Rect"]] == pytest.approx([20, 30, 164, 126])


def test_page_content_and_images_keep_their_bytes(by_hand):
    by_hand.resources.XObject["/X"] = by_hand.image()
    by_hand.painted("q 144 0 0 96 20 30 cm /X Do Q")
    out, _ = noted(by_hand)
    assert contents(out) == contents(by_hand.path)


def test_pdfium_shows_the_note_and_nothing_else_changes(by_hand):
    by_hand.resources.XObject["/X"] = by_hand.image()
    by_hand.painted("q 144 0 0 96 20 30 cm /X Do Q")
    out, _ = noted(by_hand)

    def drawn(path):
        with pypdfium2.PdfDocument(path) as pdf:
            return pdf[0].render(scale=2).to_numpy()[..., :3].astype(int)

    changed = np.abs(drawn(out) - drawn(by_hand.path)).max(axis=2) > 8
    ys, xs = np.nonzero(changed)
    # A line around 20 to 164 and 30 to 126 points, on a page 400 points high.
    assert (xs.min() / 2, xs.max() / 2) == pytest.approx((20, 164), abs=1.5)
    assert (400 - ys.max() / 2, 400 - ys.min() / 2) == pytest.approx((30, 126), abs=1.5)
    inside = changed[(2 * (400 - 120)) : (2 * (400 - 36)), 56:316]
    assert not inside.any()


def test_kept_annotations_stay_and_a_page_unit_is_counted(by_hand):
    by_hand.page.obj.UserUnit = 2
    by_hand.page.obj.Annots = pikepdf.Array(
        [
            pikepdf.Dictionary(
                Type=pikepdf.Name.Annot, Subtype=pikepdf.Name.Text, Rect=pikepdf.Array([0, 0, 9, 9])
            )
        ]
    )
    by_hand.resources.XObject["/X"] = by_hand.image()
    by_hand.painted("q 72 0 0 48 20 30 cm /X Do Q")
    out, placed = noted(by_hand)
    first, second = (note.get_object() for note in pypdf.PdfReader(out).pages[0]["/Annots"])
    assert placed == 1 and first["/Subtype"] == "/Text"
    assert [float(edge) for edge in second["/Rect"]] == pytest.approx([20, 30, 92, 78])
