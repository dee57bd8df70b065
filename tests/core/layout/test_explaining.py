"""Why a placement has its verdict, with its own figures."""

import pytest

from harnet.core.layout.explaining import verdict_reasons
from harnet.core.layout.figures import figures_of
from harnet.core.layout.placing import Adjusts, Source, placed_at_native_size, scaled_to_density
from harnet.core.measure.units import Unit
from harnet.core.measure.verdict import Verdict
from harnet.core.targets.shipped import SHIPPED

COATED = SHIPPED[0]


def told(ppi, unit=Unit.INCH, **more):
    source = Source(px_w=600, px_h=400, tag_x=300, tag_y=300, **more)
    placement = scaled_to_density(placed_at_native_size(source, 0, 0), ppi, ppi, Adjusts.FRAME)
    figures = figures_of(placement, COATED)
    return figures.verdict, verdict_reasons(placement, figures, unit)


@pytest.mark.parametrize(
    "ppi, verdict, words",
    [
        (60, Verdict.COARSE, "60 is below the floor"),
        (200, Verdict.THIN, "looks soft in print"),
        (280, Verdict.NEAR, "280 is a little below 300"),
        (300, Verdict.FULL, "300 is enough"),
        (1200, Verdict.SURPLUS, "above the ceiling"),
    ],
)
def test_each_verdict_is_explained_by_its_figures(ppi, verdict, words):
    found, reasons = told(ppi)
    assert found is verdict and words in reasons[-1]
    # Arithmetic: 600 × 400 px, so many inches at that density.
    assert f"600 × 400 pixels and is drawn {round(600 / ppi, 2):g}" in reasons[0]
    assert f"{ppi} pixels for each inch" in reasons[0]
    assert reasons[1].startswith(
        "Coated press asks 300 ppi, lets 270 pass, and has its floor at 100"
    )


def test_the_reach_is_named_where_it_helps():
    # 600 px at 300 ppi: 2 × 1.33 in.
    assert "2 × 1.33 in at most" in told(60)[1][-1]


def test_one_bit_art_has_its_own_limits():
    _, reasons = told(1200, is_bilevel=True)
    assert "asks 1200 ppi of 1-bit pictures" in reasons[1].replace("\u00a0", "").replace(
        "1 200", "1200"
    )


def test_vectors_need_no_pixels():
    source = Source(px_w=100, px_h=100, is_vector=True)
    placement = placed_at_native_size(source, 0, 0)
    [only] = verdict_reasons(placement, figures_of(placement, COATED), Unit.MM)
    assert "sharp at any size" in only
