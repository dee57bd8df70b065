"""The check values of the trade, each with where it comes from.

*arithmetic*: follows from the definition of a density. *common practice, no source*: what the
trade goes by. Standards are named from memory; their texts were not at hand.
"""

import pytest
from hypothesis import given
from hypothesis import strategies as st

from harnet.core.errors import ValueOutOfRange
from harnet.core.layout.placing import Adjusts, Source, placed_at_native_size, scaled_by
from harnet.core.measure.density import (
    EffectiveDensity,
    density_from_distance,
    density_from_screen,
    effective_density,
    headroom,
    judged_ppi,
    native_length_pt,
    pixels_needed,
    reach_pt,
)
from harnet.core.measure.geometry import Matrix
from harnet.core.measure.units import Unit, from_points, to_points
from harnet.core.measure.verdict import Verdict, verdict_of
from harnet.core.pictures.resampling import page_px, resampled, unpacked_bytes
from harnet.core.pictures.sizing import (
    PrintSize,
    with_density,
    with_height,
    with_other_pixels,
    with_width,
)
from harnet.core.targets.shipped import SHIPPED, target_named

MIB = 2**20


def cm(length_pt):
    return from_points(length_pt, Unit.CM)


def inches(length_pt):
    return from_points(length_pt, Unit.INCH)


class TestUnits:
    def test_a_point_is_a_72nd_of_an_inch(self):
        # ISO 32000-2, 8.3.2.3 (default user space)
        assert to_points(1, Unit.INCH) == 72

    def test_a_css_pixel_is_a_96th_of_an_inch(self):
        # CSS Values and Units Level 3, absolute lengths
        assert to_points(96, Unit.PX) == 72

    def test_an_inch_is_25_4_mm(self):
        # International yard and pound agreement of 1959, from memory
        assert to_points(25.4, Unit.MM) == pytest.approx(72, abs=1e-12)

    def test_bank_card(self):
        # ISO/IEC 7810 ID-1: 85.60 × 53.98 mm
        assert to_points(85.60, Unit.MM) == pytest.approx(242.65, abs=0.01)
        assert to_points(53.98, Unit.MM) == pytest.approx(153.01, abs=0.01)


class TestReach:
    # all arithmetic, and stated in practice
    @pytest.mark.parametrize(
        "px, ppi, expected_cm",
        [
            (5184, 72, 182.9),
            (3456, 72, 121.9),
            (5184, 300, 43.9),
            (3456, 300, 29.3),
            (3840, 300, 32.5),
        ],
    )
    def test_in_centimetres(self, px, ppi, expected_cm):
        assert cm(reach_pt(px, ppi)) == pytest.approx(expected_cm, abs=0.05)

    @pytest.mark.parametrize(
        "px, ppi, expected_in",
        [
            (850, 300, 2.83),
            (3840, 300, 12.8),
            (1512, 300, 5.04),
            (2088, 300, 6.96),
            (432, 300, 1.44),
            (288, 300, 0.96),
            (432, 200, 2.16),
            (288, 200, 1.44),
            (3600, 300, 12),
            (2400, 300, 8),
        ],
    )
    def test_in_inches(self, px, ppi, expected_in):
        assert inches(reach_pt(px, ppi)) == pytest.approx(expected_in, abs=0.005)

    @pytest.mark.parametrize("ppi", [0, -1, float("nan")])
    def test_no_reach_without_a_density(self, ppi):
        with pytest.raises(ValueOutOfRange, match="above 0"):
            reach_pt(100, ppi)


class TestEffectiveDensity:
    @pytest.mark.parametrize("width_in, ppi", [(18, 200), (6, 600), (12, 300)])
    def test_3600_px_over_a_width(self, width_in, ppi):
        # arithmetic, and stated in practice
        matrix = Matrix(width_in * 72, 0, 0, width_in * 48, 0, 0)
        density = effective_density(3600, 2400, matrix)
        assert (density.x, density.y) == pytest.approx((ppi, ppi))

    def test_4288_px_twelve_inches_wide(self):
        # arithmetic, and stated in practice: 357 ppi
        assert round(effective_density(4288, 2848, Matrix(864, 0, 0, 573.8, 0, 0)).x) == 357

    def test_4288_by_2848_ten_inches_wide_is_6_64_high(self):
        # arithmetic, and stated in practice
        assert inches(with_width(4288, 2848, 720).height_pt) == pytest.approx(6.64, abs=0.005)
        ppi = 4288 / 10
        assert inches(reach_pt(2848, ppi)) == pytest.approx(6.64, abs=0.005)

    def test_72_ppi_tag_placed_at_28_8_percent_is_250(self):
        # arithmetic, and stated in practice
        placed = placed_at_native_size(Source(px_w=1000, px_h=800, tag_x=72, tag_y=72), 0, 0)
        small = scaled_by(placed, 0.288, 0.288, Adjusts.FRAME)
        assert small.density.x == pytest.approx(250)

    def test_skew_is_judged_in_its_worst_direction(self):
        # arithmetic: a shear by 1 has the singular values (√5 ± 1) / 2
        skewed = Matrix(72, 0, 72, 72, 0, 0)
        density = effective_density(300, 300, skewed)
        assert density.worst == pytest.approx(300 / ((5**0.5 + 1) / 2))
        assert density.x == pytest.approx(300)

    def test_a_tag_of_11811_per_metre_counts_as_300(self):
        # PNG, ISO/IEC 15948, pHYs: 11 811 px/m → 299.9994 ppi
        assert judged_ppi(11811 * 0.0254) == 300
        assert judged_ppi(2835 * 0.0254) == 72

    def test_headroom_is_what_is_left_over_the_target(self):
        assert headroom(600, 300) == 1
        assert headroom(61, 300) == pytest.approx(-0.797, abs=0.001)

    def test_native_size_without_a_tag_assumes_72(self):
        # Exif (CIPA DC-008): 72 where the density is unknown
        assert native_length_pt(720, None) == 720
        assert native_length_pt(720, 144) == 360


class TestResampling:
    def test_5184_by_3456_forced_to_300_at_its_72_ppi_size(self):
        # arithmetic, and stated in practice
        width, height = native_length_pt(5184, 72), native_length_pt(3456, 72)
        change = resampled(5184, 3456, width, height, 300)
        assert (change.px_w, change.px_h) == (21600, 14400)
        assert change.interpolated_share == pytest.approx(0.942, abs=0.0005)
        assert unpacked_bytes(5184, 3456, 3, 8) / MIB == pytest.approx(51.3, abs=0.05)
        assert unpacked_bytes(21600, 14400, 3, 8) / MIB == pytest.approx(889.9, abs=0.05)

    def test_3600_by_2400_enlarged_to_18_inches(self):
        # arithmetic, and stated in practice
        width, height = to_points(18, Unit.INCH), to_points(12, Unit.INCH)
        at_300 = resampled(3600, 2400, width, height, 300)
        assert at_300.edge_percent == pytest.approx(150)
        assert unpacked_bytes(3600, 2400, 3, 8) / MIB == pytest.approx(24.7, abs=0.05)
        assert unpacked_bytes(at_300.px_w, at_300.px_h, 3, 8) / MIB == pytest.approx(55.6, abs=0.05)
        assert resampled(3600, 2400, width, height, 225).edge_percent == pytest.approx(112.5)

    def test_shrinking_invents_nothing(self):
        assert resampled(3600, 2400, 72, 48, 300).interpolated_share == 0

    def test_unpacked_sizes(self):
        # arithmetic, and stated in practice
        assert unpacked_bytes(4288, 2848, 3, 16) / MIB == pytest.approx(69.9, abs=0.05)
        assert unpacked_bytes(4928, 3264, 3, 8) / MIB == pytest.approx(46.0, abs=0.05)

    def test_frame_of_336_by_267_mm(self):
        # arithmetic
        assert pixels_needed(to_points(336, Unit.MM), 300) == 3969
        assert pixels_needed(to_points(267, Unit.MM), 300) == 3154

    def test_less_than_a_pixel_is_refused(self):
        with pytest.raises(ValueOutOfRange, match="less than one pixel"):
            resampled(100, 100, 0.01, 10, 72)


class TestPagesAsImages:
    def test_a4_at_300(self):
        # ISO 216: 210 × 297 mm, and arithmetic
        width, height = to_points(210, Unit.MM), to_points(297, Unit.MM)
        assert page_px(width, height, 300) == (2480, 3508)

    @pytest.mark.parametrize(
        "dpi, px",
        [
            (96, (1280, 720)),
            (100, (1333, 750)),
            (150, (2000, 1125)),
            (200, (2667, 1500)),
            (250, (3333, 1875)),
            (300, (4000, 2250)),
        ],
    )
    def test_page_of_13_and_a_third_by_7_and_a_half_inches(self, dpi, px):
        # arithmetic, and stated in practice
        assert page_px(960, 540, dpi) == px

    @pytest.mark.parametrize("dpi, px", [(96, (960, 720)), (300, (3000, 2250))])
    def test_page_of_10_by_7_and_a_half_inches(self, dpi, px):
        # arithmetic, and stated in practice
        assert page_px(720, 540, dpi) == px

    def test_a_pixel_page_is_as_large_as_its_density_says(self):
        # arithmetic
        width = to_points(1920, Unit.PX, 96)
        height = to_points(1080, Unit.PX, 96)
        assert (inches(width), inches(height)) == (20, 11.25)
        assert page_px(width, height, 300) == (6000, 3375)


class TestTargets:
    @pytest.mark.parametrize(
        "key, ppi",
        [
            ("coated", 300),
            ("uncoated", 225),
            ("newsprint", 150),
            ("office", 220),
            ("large", 150),
            ("slides", 96),
            ("screen", 72),
        ],
    )
    def test_shipped_densities(self, key, ppi):
        # common practice, no source
        assert target_named(key).density_ppi == ppi

    def test_office_printing_passes_at_its_tolerance(self):
        # common practice, no source: 220, and 150 still passes
        office = target_named("office")
        assert office.passes_from_ppi == pytest.approx(149.6)
        assert verdict_of(EffectiveDensity(150, 150, 150), office) is Verdict.NEAR
        assert verdict_of(EffectiveDensity(149, 149, 149), office) is Verdict.THIN

    @pytest.mark.parametrize("lpi, factor, ppi", [(160, 1.5, 240), (150, 1.5, 225), (175, 2, 350)])
    def test_from_the_press(self, lpi, factor, ppi):
        # common practice, no source
        assert density_from_screen(lpi, factor) == ppi

    @pytest.mark.parametrize("lpi, factor", [(150, 1.4), (150, 2.1), (0, 2), (-5, 1.5)])
    def test_from_the_press_refuses_nonsense(self, lpi, factor):
        with pytest.raises(ValueOutOfRange):
            density_from_screen(lpi, factor)

    @pytest.mark.parametrize("distance_in, ppi", [(12, 286.5), (30, 114.6)])
    def test_from_the_eye(self, distance_in, ppi):
        # definition of decimal visual acuity 1.0 (ISO 8596), arithmetic
        assert density_from_distance(distance_in) == pytest.approx(ppi, abs=0.05)

    def test_an_own_figure_replaces_the_density_of_tone_pictures_alone(self):
        coated, own = target_named("coated"), target_named("250 ppi")
        assert (own.density_ppi, own.bilevel_ppi, own.passes_from_ppi) == (250, 1200, 225)
        assert own.for_bits(True).floor_ppi == pytest.approx(coated.for_bits(True).floor_ppi)
        assert own.for_bits(True).ceiling_ppi == pytest.approx(coated.for_bits(True).ceiling_ppi)
        assert (own.expects, own.tolerance) == (coated.expects, coated.tolerance)

    @pytest.mark.parametrize("key", [target.key for target in SHIPPED])
    @pytest.mark.parametrize("ppi", [60, 202.5, 1200])
    def test_an_own_figure_never_changes_the_verdict_on_1_bit_art(self, key, ppi):
        base = target_named(key)
        own = target_named(str(ppi), base=base)
        for density in (40, 150, 299, 600, 1200, 4000):
            verdicts = {verdict_of(at(density), one, is_bilevel=True) for one in (base, own)}
            # Where both densities are one figure, the base judges 1-bit art by its tone limits.
            assert len(verdicts) == 1

    @pytest.mark.parametrize("text", ["", "nonsense", "0", "-3", "nan", "inf", "20000"])
    def test_other_texts_are_no_target(self, text):
        with pytest.raises(ValueOutOfRange):
            target_named(text)

    def test_every_shipped_target_has_its_limits_in_order(self):
        for target in SHIPPED:
            assert target.floor_ppi < target.passes_from_ppi < target.density_ppi
            assert target.density_ppi < target.ceiling_ppi


def at(ppi):
    return effective_density(round(ppi * 1000), round(ppi * 1000), Matrix(72e3, 0, 0, 72e3, 0, 0))


class TestVerdicts:
    @pytest.mark.parametrize(
        "ppi, verdict",
        [
            (99.9, Verdict.COARSE),
            (100, Verdict.THIN),
            (130, Verdict.THIN),  # common practice, no source: reported as low in a 300 ppi job
            (269.9, Verdict.THIN),
            (270, Verdict.NEAR),
            (279, Verdict.NEAR),  # common practice, no source: 279 of 300 is fine
            (299.9, Verdict.NEAR),
            (299.9994, Verdict.FULL),
            (300, Verdict.FULL),
            (900, Verdict.FULL),
            (900.1, Verdict.SURPLUS),
        ],
    )
    def test_against_300(self, ppi, verdict):
        assert verdict_of(at(ppi), target_named("300")) is verdict

    @pytest.mark.parametrize(
        "ppi, verdict",
        [(300, Verdict.COARSE), (1079, Verdict.THIN), (1080, Verdict.NEAR), (1200, Verdict.FULL)],
    )
    def test_one_bit_art_against_its_own_density(self, ppi, verdict):
        assert verdict_of(at(ppi), target_named("coated"), is_bilevel=True) is verdict

    def test_only_coarse_and_thin_fall_short(self):
        assert [verdict for verdict in Verdict if verdict.falls_short] == [
            Verdict.COARSE,
            Verdict.THIN,
        ]


class TestCalculator:
    def test_keeping_the_pixels_each_figure_leads_in_turn(self):
        # arithmetic, and stated in practice: 3 600 × 2 400 px
        assert with_width(3600, 2400, 18 * 72).density_ppi == pytest.approx(200)
        assert with_width(3600, 2400, 6 * 72).density_ppi == pytest.approx(600)
        assert inches(with_height(3600, 2400, 8 * 72).width_pt) == pytest.approx(12)
        at_300 = with_density(5184, 3456, 300)
        assert (cm(at_300.width_pt), cm(at_300.height_pt)) == pytest.approx((43.9, 29.3), abs=0.05)

    def test_changing_the_pixels_says_what_would_be_invented(self):
        # arithmetic, and stated in practice
        change = with_other_pixels(5184, 3456, PrintSize(5184, 3456, 300))
        assert (change.px_w, change.px_h) == (21600, 14400)
        assert change.interpolated_share == pytest.approx(0.942, abs=0.0005)

    @given(st.integers(1, 30_000), st.integers(1, 30_000), st.floats(1, 5000))
    def test_the_triple_stays_locked(self, px_w, px_h, density):
        size = with_density(px_w, px_h, density)
        for again in (
            with_width(px_w, px_h, size.width_pt),
            with_height(px_w, px_h, size.height_pt),
        ):
            assert again.density_ppi == pytest.approx(density)
            assert (again.width_pt, again.height_pt) == pytest.approx(
                (size.width_pt, size.height_pt)
            )

    @pytest.mark.parametrize("figure", [0, -1, float("inf"), float("nan")])
    def test_nonsense_is_refused(self, figure):
        for lead in (with_width, with_height, with_density):
            with pytest.raises(ValueOutOfRange):
                lead(100, 100, figure)
        with pytest.raises(ValueOutOfRange):
            with_other_pixels(100, 100, PrintSize(100, 100, figure))

    def test_more_pixels_than_any_picture_has_are_refused(self):
        with pytest.raises(ValueOutOfRange, match="no picture is that large"):
            with_other_pixels(100, 100, PrintSize(1e6, 1e6, 300))
