"""Facing pages, common pages and what fills them."""

import pytest

from harnet.core.layout.facing import facing_page, shift_to_facing
from harnet.core.layout.sheets import PAGE_FORMATS, filling_ppi
from harnet.core.measure.units import Unit


@pytest.mark.parametrize(
    "number, count, beside", [(1, 12, None), (2, 12, 3), (3, 12, 2), (12, 12, None), (11, 12, 10)]
)
def test_the_page_beside(number, count, beside):
    assert facing_page(number, count, True) == beside
    assert facing_page(number, count, False) is None


def test_there_and_back_is_where_it_was():
    # page 2 of 400 pt lies left of page 3 of 500 pt
    x = 390.0
    there = x + shift_to_facing(2, 400, 500)
    assert there == -10 and there + shift_to_facing(3, 500, 400) == x


def test_every_common_page_has_a_size_that_is_known():
    sizes = {one.name: one.size_pt for group in PAGE_FORMATS.values() for one in group}
    # ISO 216 and arithmetic; 13⅓ × 7½ in is 1 280 × 720 px at 96 (calculation)
    assert sizes["A4"] == pytest.approx((595.2756, 841.8898), abs=1e-3)
    assert [side / 72 * 96 for side in sizes["Slide 16:9"]] == pytest.approx([1280, 720])
    assert sizes["Letter"] == (612, 792)
    pixels = PAGE_FORMATS["Screens, pixels"]
    assert all(one.unit is Unit.PX for one in pixels)


def test_what_fills_a_page():
    # 6 000 × 4 000 px on 10 × 15 in, in either orientation: 400 ppi
    assert filling_ppi(6000, 4000, 720, 1080) == filling_ppi(4000, 6000, 1080, 720) == 400
