"""Each preflight rule, with a case on each side of its boundary, and with its threshold moved.

The boundaries are Harnet's own decisions or common practice, as their constants say; the figures
of each case are arithmetic.
"""

from dataclasses import dataclass, field, replace
from typing import Any

import pytest

from harnet.core.layout import page_edges as pagefit
from harnet.core.layout.figures import figures_of
from harnet.core.layout.page_edges import Side
from harnet.core.layout.placing import Content, Placement, Source
from harnet.core.measure import density
from harnet.core.measure.geometry import Box
from harnet.core.measure.units import Unit
from harnet.core.pictures import detail
from harnet.core.pictures.detail import Detail
from harnet.core.pictures.picture import Colour, Facts, Kind
from harnet.core.pictures.rights import Rights
from harnet.core.preflight.check import check
from harnet.core.preflight.finding import Fix
from harnet.core.preflight.rules import Rule, all_rules, findings_of, job_rules, rule
from harnet.core.preflight.subject import Around, Checked, CheckedFrame, CheckedText, FileState
from harnet.core.targets.severity import Severity
from harnet.core.targets.shipped import SHIPPED, target_named
from harnet.core.targets.target import Expectations, Target

COATED = SHIPPED[0]
FACTS = Facts(
    kind=Kind.RASTER,
    format="jpeg",
    px_w=1000,
    px_h=800,
    density_x=300.0,
    density_y=300.0,
    colour=Colour.RGB,
    bits=8,
    channels=3,
    alpha=False,
    lossy=True,
    icc="sRGB",
    frames=1,
    size_bytes=9000,
    jpeg_quality=90,
)
PAGE = Around(page_w_pt=420, page_h_pt=595, bleed_pt=8.5)
KNOWN = Rights("CC0-1.0")
FRAME = Box(100, 100, 200, 100)


@dataclass
class Case:
    """A placed picture by what differs from one that has nothing wrong."""

    ppi: float | tuple[float, float] = 300.0
    box: Box = FRAME
    target: Target = COATED
    facts: dict[str, Any] = field(default_factory=dict)
    around: Around = PAGE
    offset: tuple[float, float] = (0.0, 0.0)
    more: dict[str, Any] = field(default_factory=dict)
    is_filled: bool = True
    """Whether the frame is cut down to a picture smaller than it."""

    def found(self) -> list[str]:
        ppi_x, ppi_y = self.ppi if isinstance(self.ppi, tuple) else (self.ppi, self.ppi)
        facts = replace(FACTS, **self.facts)
        source = Source(
            px_w=1000,
            px_h=800,
            is_vector=facts.is_vector,
            is_bilevel=facts.colour is Colour.BILEVEL,
        )
        frame = self.box
        if self.is_filled:
            width, height = 1000 * 72 / ppi_x, 800 * 72 / ppi_y
            frame = replace(frame, width=min(frame.width, width), height=min(frame.height, height))
        placement = Placement(
            source=source, frame=frame, content=Content(72 / ppi_x, 72 / ppi_y, *self.offset)
        )
        subject = Checked(
            item_id=7,
            page_number=1,
            name="slipway.jpg",
            placement=placement,
            figures=figures_of(placement, self.target),
            **{
                "file_state": FileState.IN_PLACE,
                "unit": Unit.MM,
                "facts": facts,
                "around": self.around,
                "target": self.target,
                "rights": KNOWN,
                **self.more,
            },
        )
        return [finding.rule_id for finding in findings_of(subject)]


VECTOR = {"kind": Kind.VECTOR, "format": "svg", "colour": Colour.VECTOR, "lossy": False}
BILEVEL = {"colour": Colour.BILEVEL, "lossy": False, "format": "tiff", "jpeg_quality": None}
FUSSY = replace(
    COATED,
    expects=Expectations(
        colours=(Colour.CMYK,),
        formats=("tiff",),
        profiled=(Colour.CMYK,),
        allows_transparency=False,
        least_jpeg_quality=75,
    ),
)
EVERYTHING = replace(COATED, expects=Expectations())

BOUNDARIES: dict[str, tuple[Case, Case]] = {
    # rule: a case that it finds, and one a hair away that it does not.
    "density-below-floor": (Case(99.9), Case(100)),
    "density-below-tolerance": (Case(269.9), Case(270)),
    "bilevel-below-tolerance": (
        Case(1079.9, facts=BILEVEL),
        Case(1080, facts=BILEVEL),
    ),
    "density-above-ceiling": (Case(900.1), Case(900)),
    # A picture of 1 000 px at 360 ppi is 200 pt wide, as the frame is.
    "frame-not-filled": (Case(361, is_filled=False), Case(360, is_filled=False)),
    "uneven-scale": (Case((300, 303.1)), Case((300, 303))),
    "detail-below-pixels": (
        Case(more={"detail": Detail(0.549, 0.5)}),
        Case(more={"detail": Detail(0.55, 0.5)}),
    ),
    "colour-unfit": (
        Case(target=replace(COATED, expects=Expectations(colours=(Colour.CMYK, Colour.GREY)))),
        Case(target=replace(COATED, expects=Expectations(colours=(Colour.CMYK, Colour.RGB)))),
    ),
    "profile-missing": (
        Case(facts={"colour": Colour.CMYK, "icc": None}),
        Case(facts={"colour": Colour.CMYK, "icc": "Press"}),
    ),
    "palette-picture": (
        Case(facts={"colour": Colour.PALETTE, "lossy": False}),
        Case(facts={"colour": Colour.RGB, "lossy": False}),
    ),
    "lossy-quality": (Case(facts={"jpeg_quality": 59}), Case(facts={"jpeg_quality": 60})),
    "format-unfit": (Case(facts={"format": "webp"}), Case(facts={"format": "tiff"})),
    "transparency-forbidden": (
        Case(target=replace(FUSSY, expects=Expectations(allows_transparency=False)),
             facts={"alpha": True}),
        Case(target=replace(FUSSY, expects=Expectations(allows_transparency=True)),
             facts={"alpha": True}),
    ),
    "drawn-in-pixels": (Case(more={"looks_drawn": True}), Case(more={"looks_drawn": False})),
    "file-missing": (
        Case(more={"file_state": FileState.MISSING}),
        Case(more={"file_state": FileState.CARRIED}),
    ),
    "file-changed": (
        Case(more={"file_state": FileState.CHANGED}),
        Case(more={"file_state": FileState.IN_PLACE}),
    ),
    "file-loose": (
        Case(more={"file_state": FileState.LOOSE}),
        Case(more={"file_state": FileState.CARRIED}),
    ),
    "picture-fonts-loose": (
        Case(facts={**VECTOR, "unembedded_fonts": ("Helvetica",)}),
        Case(facts={**VECTOR, "unembedded_fonts": ()}),
    ),
    "rights-unknown": (
        Case(more={"rights": Rights("", "I. Varga")}),
        Case(more={"rights": Rights("One print run")}),
    ),
    "bleed-not-reached": (
        # The trim's left edge is at 0, its bleed at −8.5 pt; half a millimetre is 1.417 pt.
        Case(box=Box(1.41, 100, 200, 100)),
        Case(box=Box(1.43, 100, 200, 100)),
    ),
    "off-page": (Case(box=Box(420, 100, 200, 100)), Case(box=Box(419.9, 100, 200, 100))),
    "hidden-picture": (
        Case(around=replace(PAGE, hidden_by="a rectangle")),
        Case(around=replace(PAGE, hidden_by="")),
    ),
    "crosses-fold": (
        Case(around=replace(PAGE, across_pt=12.0)), Case(around=replace(PAGE, across_pt=0.0)),
    ),
    "frame-shows-nothing": (Case(offset=(200.0, 0.0)), Case(offset=(199.9, 0.0))),
}  # fmt: skip


@pytest.mark.parametrize("rule_id", BOUNDARIES)
def test_a_rule_finds_what_is_over_its_boundary_and_nothing_else(rule_id):
    over, within = BOUNDARIES[rule_id]
    assert rule_id in over.found()
    assert rule_id not in within.found()


def test_a_picture_with_nothing_wrong_has_no_finding():
    assert Case().found() == []


def moved(case: Case, **limits: float) -> Case:
    return replace(case, target=replace(case.target, **limits))


MUTATIONS: dict[str, Any] = {
    # rule: the case within the boundary, once the threshold moved a little.
    "density-below-floor": lambda case: moved(case, floor_ppi=100.1),
    "density-below-tolerance": lambda case: moved(case, tolerance=0.0999),
    "bilevel-below-tolerance": lambda case: moved(case, bilevel_ppi=1201.0),
    "density-above-ceiling": lambda case: moved(case, ceiling_ppi=899.9),
    "lossy-quality": lambda case: moved(
        case, expects=replace(case.target.expects, least_jpeg_quality=61)
    ),
}
CONSTANTS = [
    # rule, where its threshold is kept, a value that takes the case within over the boundary
    ("uneven-scale", density, "UNEVEN_ABOVE", 0.0099),
    ("detail-below-pixels", detail, "MUCH_LOWER_BELOW", 0.551),
    ("bleed-not-reached", pagefit, "AT_EDGE_PT", 1.44),
]


@pytest.mark.parametrize("rule_id", MUTATIONS)
def test_a_moved_limit_of_the_target_is_noticed(rule_id):
    _, within = BOUNDARIES[rule_id]
    assert rule_id in MUTATIONS[rule_id](within).found()


@pytest.mark.parametrize("rule_id, module, name, value", CONSTANTS)
def test_a_moved_threshold_is_noticed(monkeypatch, rule_id, module, name, value):
    _, within = BOUNDARIES[rule_id]
    monkeypatch.setattr(module, name, value)
    assert rule_id in within.found()


def test_every_rule_on_pictures_stands_in_the_table():
    on_pictures = {rule.id for rule in all_rules() if rule.on is Checked}
    assert on_pictures == set(BOUNDARIES)
    assert len(job_rules()) == len(BOUNDARIES) + 4


def text(lines, lost):
    return CheckedText(
        item_id=3,
        page_number=2,
        name="“Boats leave”",
        frame=Box(0, 0, 100, 40),
        lines=lines,
        lines_lost=lost,
        unit=Unit.MM,
        around=PAGE,
        target=COATED,
    )


def test_text_that_does_not_fit_blocks():
    [finding] = check([text(6, 3)])
    assert (finding.rule_id, finding.severity) == ("text-overflow", Severity.BLOCKING)
    assert finding.headline == "3 lines of 6 do not fit"
    assert check([text(6, 1)])[0].headline == "1 line of 6 does not fit"
    assert check([text(6, 0)]) == []


def test_characters_that_the_font_cannot_print_block_and_are_named():
    subject = replace(
        text(2, 0), font="Bitter", missing_glyphs=("Ε", "λ"), other_font="Source Serif"
    )
    [finding] = check([subject])
    assert (finding.rule_id, finding.severity) == ("glyph-missing", Severity.BLOCKING)
    assert finding.headline == "Bitter has no glyph for “Ε”, “λ”"
    assert "Source Serif" in finding.sentence and finding.fixes == (Fix.FONT,)
    [finding] = check([replace(subject, missing_glyphs=("语",) * 20, other_font="")])
    assert finding.fixes == () and finding.headline.endswith("and 8 more")


def test_an_empty_frame_says_the_pixels_it_waits_for():
    frame = CheckedFrame(
        item_id=4,
        page_number=1,
        name="Empty frame",
        frame=Box(0, 0, 144, 72),
        unit=Unit.MM,
        around=PAGE,
        target=COATED,
        needed_px=(600, 300),
    )
    [finding] = check([frame])
    assert finding.rule_id == "empty-frame"
    assert "at least 600 × 300 pixels" in finding.sentence


def test_a_frame_whose_picture_was_asked_for_and_not_found_blocks():
    frame = CheckedFrame(
        item_id=4,
        page_number=1,
        name="lamp.jpg",
        frame=Box(0, 0, 144, 72),
        unit=Unit.MM,
        around=PAGE,
        target=COATED,
        needed_px=(600, 300),
        asked_for="lamp.jpg",
    )
    [finding] = check([frame])
    assert (finding.rule_id, finding.severity) == ("picture-not-found", Severity.BLOCKING)
    assert finding.sentence.startswith("“lamp.jpg” belongs here")


# Tone pictures are judged against 300, 1-bit art against its own 1200.
@pytest.mark.parametrize(
    "ppi, facts, expected",
    [
        (1100, BILEVEL, []),
        (300, BILEVEL, ["density-below-floor"]),
        (400, BILEVEL, ["bilevel-below-tolerance"]),
        (299.9994, {}, []),
        (10, VECTOR, []),
        ((72, 80), VECTOR, ["uneven-scale"]),
    ],
)
def test_pictures_are_judged_by_what_they_are_made_of(ppi, facts, expected):
    assert [one for one in Case(ppi, facts=facts).found() if one != "density-above-ceiling"] == (
        expected
    )


def test_a_target_decides_how_much_a_rule_matters():
    case = Case(50)
    assert case.found() == ["density-below-floor"]
    off = replace(COATED, severities=(("density-below-floor", Severity.OFF),))
    assert replace(case, target=off).found() == []
    note = replace(COATED, severities=(("density-below-floor", Severity.NOTE),))
    assert note.severity_of("density-below-floor", Severity.BLOCKING) is Severity.NOTE


def test_no_expectation_means_that_anything_goes():
    strange = {"colour": Colour.LAB, "format": "webp", "alpha": True, "icc": None}
    assert Case(target=EVERYTHING, facts=strange).found() == []


@pytest.mark.parametrize(
    "box, sides",
    [
        (Box(0, 100, 50, 50), {Side.LEFT: 8.5}),
        (Box(-4, -8.5, 50, 50), {Side.LEFT: 4.5}),
        (Box(370, 545, 58.5, 50), {Side.BOTTOM: 8.5}),
        (Box(-8.5, -8.5, 437, 612), {}),
    ],
)
def test_an_edge_that_is_met_needs_its_bleed(box, sides):
    found = pagefit.sides_without_bleed(box.corners(), 420, 595, 8.5)
    assert found == pytest.approx(sides)


def test_the_spine_of_a_book_needs_no_bleed():
    at_left = Case(box=Box(0, 100, 200, 100))
    assert at_left.found() == ["bleed-not-reached"]
    assert replace(at_left, around=replace(PAGE, spine=Side.LEFT)).found() == []


def test_a_turned_frame_is_seen_by_its_corners():
    turned = Placement(
        source=Source(px_w=1000, px_h=800),
        frame=Box(-30, 100, 40, 40),
        content=Content(1, 1),
        rotation_deg=45.0,
    )
    # Its half diagonal is 28.3 pt: from −38.3 to 18.3 pt.
    assert not pagefit.is_off_page(turned.corners, 420, 595)
    away = replace(turned, frame=Box(-49, 100, 40, 40))
    assert pagefit.is_off_page(away.corners, 420, 595)


def test_what_lies_under_something_is_covered():
    def region(*box):
        return pagefit.Region(Box(*box).corners())

    small, large = region(10, 10, 20, 20), region(0, 0, 40, 40)
    assert small.is_covered_by(large)
    assert not large.is_covered_by(small)
    assert not region(30, 30, 20, 20).is_covered_by(large)
    assert not small.is_covered_by(pagefit.Region([]))
    assert not pagefit.Region([]).is_covered_by(large)


def test_worst_comes_first_then_rule_by_rule():
    def one(ppi, number):
        source = Source(px_w=1000, px_h=800)
        placement = Placement(
            source=source, frame=Box(100, 100, 200, 100), content=Content(72 / ppi, 72 / ppi)
        )
        figures = figures_of(placement, target_named("300"))
        return Checked(
            item_id=number,
            page_number=number,
            name="a.jpg",
            placement=placement,
            figures=figures,
            file_state=FileState.IN_PLACE,
            unit=Unit.MM,
            facts=FACTS,
            around=PAGE,
            target=target_named("300"),
            rights=KNOWN,
        )

    findings = check([one(200, 1), one(60, 9), one(50, 2)])
    assert [(finding.severity, finding.page_number) for finding in findings] == [
        (Severity.BLOCKING, 2),
        (Severity.BLOCKING, 9),
        (Severity.WARNING, 1),
    ]
    assert findings[0].badness == pytest.approx(1 - 50 / 300)
    assert findings[2].headline == "200 ppi, 100 short of 300"
    assert "1\u00a0000 × 800 pixels, enough for 84.6 × 67.7 mm" in findings[2].sentence
    assert findings[2].fixes == (Fix.DENSER, Fix.REACH)


@pytest.mark.parametrize("x, y, word", [(371, 320, "taller"), (320, 371, "wider")])
def test_a_stretch_says_its_direction(x, y, word):
    source = Source(px_w=1000, px_h=800)
    placement = Placement(
        source=source, frame=Box(100, 100, 190, 100), content=Content(72 / x, 72 / y)
    )
    figures = figures_of(placement, COATED)
    subject = Checked(
        item_id=1,
        page_number=1,
        name="a.jpg",
        placement=placement,
        figures=figures,
        file_state=FileState.IN_PLACE,
        unit=Unit.MM,
        facts=FACTS,
        around=PAGE,
        target=COATED,
        rights=KNOWN,
    )
    [finding] = check([subject])
    assert f"16\u00a0% {word}" in finding.headline


def test_rule_ids_are_unique():
    ids = [one.id for one in all_rules()]
    assert len(set(ids)) == len(ids)
    assert all(isinstance(one, Rule) and one.looks_for for one in all_rules())
    with pytest.raises(ValueError, match="two rules"):
        rule("file-missing", "Files", Severity.NOTE, "nothing", Checked)(lambda one: None)


def test_detail_is_said_in_round_figures():
    assert Detail(0.25, 1).pixels(5184) == 1300
    assert Detail(0.25, 1).pixels(40) == 10
    assert not Detail(0.3, 0.49).is_much_lower
