"""For any placement and original, the density found in a copy is the one that was promised."""

import math
import tempfile
from pathlib import Path

import pikepdf
import pytest
from hypothesis import HealthCheck, given, settings
from hypothesis import strategies as some
from PIL import Image

from harnet.core.documents.comparison import Comparison, comparison_as_values
from harnet.core.documents.improving import AT_TARGET, MOST_TIMES, ImproveSettings
from harnet.core.targets.shipped import target_named
from harnet.core.targets.target import own_target
from harnet.media.pdf.reading.images import painted_images
from harnet.studio.documents.making.improving import look_for_originals, make_copy, plan_from
from tests.support.pdfs import ByHand, listed_by_poppler
from tests.support.pictures import photo


@given(
    width_pt=some.floats(30, 150),
    stretch=some.floats(0.8, 1.25),
    angle_deg=some.floats(0, 360),
    px=some.tuples(some.integers(40, 160), some.integers(40, 160)),
    denser=some.floats(1.2, 6),
    target_ppi=some.integers(120, 500),
    most_times=some.sampled_from([AT_TARGET, MOST_TIMES]),
)
@settings(max_examples=12, deadline=None, derandomize=True, suppress_health_check=list(HealthCheck))
def test_the_density_found_is_the_one_promised(
    width_pt, stretch, angle_deg, px, denser, target_ppi, most_times
):
    with tempfile.TemporaryDirectory() as name:
        folder = Path(name)
        target = own_target(float(target_ppi), target_named("coated"))
        original_px = tuple(round(denser * edge) for edge in px)
        large = Image.fromarray(photo(*original_px, seed=px[0]))
        large.save(folder / "original.png")
        made = ByHand(folder / "poor.pdf")
        stream = pikepdf.Stream(made.pdf, large.resize(px, Image.Resampling.LANCZOS).tobytes())
        stream.Subtype, stream.Width, stream.Height = pikepdf.Name.Image, *px
        stream.BitsPerComponent, stream.ColorSpace = 8, pikepdf.Name.DeviceRGB
        made.resources.XObject.I = made.pdf.make_indirect(stream)
        height_pt = width_pt * px[1] / px[0] * stretch
        turn = math.radians(angle_deg)
        matrix = (
            *(width_pt * math.cos(turn), width_pt * math.sin(turn)),
            *(-height_pt * math.sin(turn), height_pt * math.cos(turn), 200, 200),
        )
        figures = " ".join(f"{one:.6f}" for one in matrix)
        made.painted(f"q {figures} cm /I Do Q".encode())
        [values] = look_for_originals(made.path, "poor.pdf", [], target).images
        scale = [large_edge / edge for large_edge, edge in zip(original_px, px, strict=True)]
        candidate = {
            "path": str(folder / "original.png"),
            "sureness": "sure",
            "comparison": comparison_as_values(
                Comparison(difference=0.5, floor=0.5, area=0.0, spot=0.0, untoned=0.5)
            ),
            "registration": {
                "edge_px": min(px),
                "to_original": [scale[0], 0, 0, scale[1], 0, 0],
                "similarity": 0.99,
                "points": 50,
                "unevenness": abs(scale[0] / scale[1] - 1),
                "beyond_px": 0.0,
            },
        }
        wishes = ImproveSettings(target=target, most_times=most_times)
        plan = plan_from([values | {"candidate": candidate}], made.path, "poor.pdf", wishes)
        receipt = make_copy(plan, folder / "copy.pdf", folder)
        assert receipt.is_proven, receipt.faults
        [row] = receipt.rows
        _, [found] = painted_images(folder / "copy.pdf")
        assert found.density.worst == pytest.approx(row["new_ppi"], abs=0.1)
        [(_, px_w, px_h, *ppi)] = listed_by_poppler(folder / "copy.pdf")
        assert (px_w, px_h) == (row["new_px_w"], row["new_px_h"])
        assert min(ppi) == pytest.approx(row["new_ppi"], abs=1), "as poppler sees it"
        if row["fate"] == "replaced":
            # Whole pixels leave a little over.
            assert row["new_ppi"] <= most_times * target_ppi * (1 + 1 / min(px_w, px_h)) + 0.5
