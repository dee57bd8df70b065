"""Each preflight rule, with a case on each side of its boundary."""

from dataclasses import replace

import pytest

from harnet.core.figures import figures_of
from harnet.core.geometry import Box
from harnet.core.placing import Content, Placement, Source
from harnet.core.preflight.check import check
from harnet.core.preflight.finding import Checked, FileState, Fix, Severity
from harnet.core.preflight.rules import rule, rule_ids
from harnet.core.target import own_target
from harnet.core.units import Unit


def checked(ppi_x, ppi_y=None, *, state=FileState.IN_PLACE, page=1, is_vector=False):
    source = Source(1000, 800, is_vector=is_vector)
    content = Content(72 / ppi_x, 72 / (ppi_y or ppi_x))
    placement = Placement(source, Box(0, 0, 200, 100), content)
    figures = figures_of(placement, own_target(300))
    return Checked(7, page, "slipway.jpg", placement, figures, state, Unit.MM)


def test_line_art_in_pixels_is_advised_to_become_vector():
    assert found(replace(checked(1200), looks_drawn=True)) == ["drawn-in-pixels"]
    assert found(replace(checked(1200, is_vector=True), looks_drawn=True)) == []


def found(one):
    return [finding.rule_id for finding in check([one])]


@pytest.mark.parametrize(
    "one, expected",
    [
        (checked(99.9), ["density-below-floor"]),
        (checked(100), ["density-below-tolerance"]),
        (checked(269.9), ["density-below-tolerance"]),
        (checked(270), []),
        (checked(300, 303), []),
        (checked(300, 303.1), ["uneven-scale"]),
        (checked(2000), []),
        (checked(300, state=FileState.MISSING), ["file-missing"]),
        (checked(300, state=FileState.CHANGED), ["file-changed"]),
        (checked(10, is_vector=True), []),
        (checked(72, 80, is_vector=True), ["uneven-scale"]),
    ],
)
def test_rules_at_their_boundaries(one, expected):
    assert found(one) == expected


def test_worst_comes_first_then_by_page():
    findings = check([checked(200, page=1), checked(50, page=9), checked(50, page=2)])
    assert [(finding.severity, finding.page_number) for finding in findings] == [
        (Severity.BLOCKING, 2),
        (Severity.BLOCKING, 9),
        (Severity.WARNING, 1),
    ]


def test_a_finding_says_what_is_short_and_what_is_enough():
    [finding] = check([checked(200)])
    assert finding.headline == "200 ppi, 100 short of 300"
    assert "1\u00a0000 × 800 pixels, enough for 84.7 × 67.7 mm" in finding.sentence
    assert finding.fixes == (Fix.REACH,)


@pytest.mark.parametrize("x, y, word", [(171, 148, "taller"), (148, 171, "wider")])
def test_a_stretch_says_its_direction(x, y, word):
    stretched = [f for f in check([checked(x, y)]) if f.rule_id == "uneven-scale"]
    assert f"16\u00a0% {word}" in stretched[0].headline


def test_rule_ids_are_unique():
    assert len(set(rule_ids())) == len(rule_ids()) == 7
    with pytest.raises(ValueError, match="two rules"):
        rule("file-missing")(lambda one: None)
