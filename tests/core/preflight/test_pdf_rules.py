"""Rules on a PDF as a whole, each with a case that it finds and one that it does not."""

from dataclasses import replace

import pytest

from harnet.core.documents.userspace import placement_from, seen_space
from harnet.core.layout.placing import Source
from harnet.core.measure.geometry import Matrix
from harnet.core.preflight.pdf_rules import RULES_ON_PAINTED, pages_text
from harnet.core.preflight.rules import all_rules, findings_of
from harnet.core.preflight.subject import CheckedDocument
from harnet.core.targets.severity import Severity
from harnet.core.targets.shipped import target_named
from harnet.core.targets.target import Expectations

COATED = target_named("coated")
OPAQUE = replace(COATED, expects=Expectations(allows_transparency=False))
SOUND = CheckedDocument(name="leaflet.pdf", target=COATED, pages=4)
CASES = {
    "font-not-embedded": (replace(SOUND, unembedded_fonts=("Helvetica",)), SOUND),
    "trim-box-missing": (replace(SOUND, pages_without_trim=(2,)), SOUND),
    "bleed-missing": (replace(SOUND, pages_without_bleed=(1, 3)), SOUND),
    "page-transparent": (
        replace(SOUND, target=OPAQUE, transparent_pages=(4,)),
        replace(SOUND, transparent_pages=(4,), target=replace(COATED, expects=Expectations())),
    ),
    "content-not-followed": (replace(SOUND, left_out=((2, "what is nested"),)), SOUND),
    "pdf-damaged": (replace(SOUND, is_damaged=True), SOUND),
}


@pytest.mark.parametrize("rule_id", CASES)
def test_each_finds_its_case_and_not_the_other(rule_id):
    bad, good = CASES[rule_id]
    assert [found.rule_id for found in findings_of(bad)] == [rule_id]
    assert findings_of(good) == []


@pytest.mark.parametrize(
    "pages, total, headline, start",
    [
        ((1,), 1, "no trim box", "Page 1 has no trim box; its crop box"),
        ((1, 2), 2, "no trim box", "Pages 1 to 2 have no trim box; their crop boxes"),
        ((2,), 4, "no trim box on page 2", "Page 2 has no trim box; its"),
    ],
)
def test_a_missing_trim_box_is_said_of_its_pages(pages, total, headline, start):
    [found] = findings_of(replace(SOUND, pages=total, pages_without_trim=pages))
    assert found.headline == headline and found.sentence.startswith(start)


def test_every_rule_on_pdfs_stands_in_the_table_and_can_be_switched_off():
    on_pdfs = {rule.id for rule in all_rules() if rule.find.__module__.endswith("pdf_rules")}
    assert on_pdfs == set(CASES)
    assert {rule.id for rule in all_rules()} >= RULES_ON_PAINTED
    quiet = replace(COATED, severities=(("font-not-embedded", Severity.OFF),))
    assert findings_of(replace(SOUND, target=quiet, unembedded_fonts=("Helvetica",))) == []


@pytest.mark.parametrize(
    "pages, text",
    [
        ((3,), "page 3"),
        ((1, 2, 3, 7), "pages 1 to 3, 7"),
        ((1, 3, 5, 7, 9, 11, 13, 15, 17), "pages 1, 3, 5, 7, 9, 11, 13, 15 and 1 more"),
    ],
)
def test_page_numbers_are_drawn_together(pages, text):
    assert pages_text(pages) == text


@pytest.mark.parametrize(
    "turn, place",
    [(0, (10, 170)), (90, (20, 10)), (180, (90, 20)), (270, (170, 90))],
)
def test_a_turned_page_is_turned_clockwise_about_what_is_seen(turn, place):
    # ISO 32000-2, table 31: Rotate, in degrees clockwise. A point 10 from the left and 20 from the
    # bottom of a box of 100 by 190 that begins at (5, 7), followed by hand.
    space = seen_space((5, 7, 105, 197), turn)
    assert space.matrix.applied(15, 27) == pytest.approx(place)
    assert (space.width_pt, space.height_pt) == ((100, 190) if turn % 180 == 0 else (190, 100))


def test_a_painted_picture_keeps_its_corners_and_densities_as_a_placement():
    matrix = Matrix(60, 80, 40, -30, 10, 20)
    placement = placement_from(Source(px_w=200, px_h=100), matrix)
    density = placement.density
    assert density is not None
    assert (density.x, density.y) == pytest.approx((72 * 200 / 100, 72 * 100 / 50))
    corners = {(round(x, 6), round(y, 6)) for x, y in placement.corners}
    assert corners == {(10, 20), (70, 100), (110, 70), (50, -10)}
