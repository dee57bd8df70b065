"""The check values of pictures once more, as the web view says them.

Every figure is arithmetic; those marked *stated* are also stated in practice.
"""

import re

import pytest

from harnet.core.pictures.picture import Colour, Facts, Kind, facts_as_values
from harnet.store.tables.pictures import Picture
from harnet.studio.pictures.shelves import shelf_named


@pytest.fixture
def picture_of(studio):
    """A picture known by its header alone, of any size."""

    def known(px_w, px_h, bits=8, tag=72.0):
        facts = Facts(
            kind=Kind.RASTER,
            format="tiff",
            px_w=px_w,
            px_h=px_h,
            density_x=tag,
            density_y=tag,
            colour=Colour.RGB,
            bits=bits,
            channels=3,
            alpha=False,
            lossy=False,
            icc=None,
            frames=1,
            size_bytes=1,
        )
        with studio.session() as session:
            shelf = shelf_named(studio, session, "My pictures")
            name = f"{px_w}x{px_h}.tif"
            picture = Picture(
                shelf=shelf, file_name=name, sha256=f"{px_w:032}{px_h:032}", size_bytes=1,
                modified_ns=1, facts=facts_as_values(facts),
            )  # fmt: skip
            session.add(picture)
            session.flush()
            return picture.id

    return known


@pytest.fixture
def said(client):
    """The words of a page, spaces made plain."""

    def words(address, **query):
        answer = client.get(address, query_string=query)
        assert answer.status_code == 200
        text = re.sub(r"<[^>]+>", " ", answer.text)
        return re.sub(r"\s+", " ", text.replace("\xa0", " "))

    return words


@pytest.fixture
def field(client):
    """The three fields of the calculator after one of them was changed."""

    def fields(picture_id, **asked):
        query = {"mode": "keep", "unit": "in", "width": "1", "height": "1", "density": "300"}
        answer = client.get(f"/pictures/{picture_id}/calculator", query_string=query | asked)
        found = re.findall(r'name="(width|height|density)"\s+value="([^"]*)"', answer.text)
        return {name: float(value) for name, value in found}

    return fields


@pytest.mark.parametrize(
    "px, expected",
    [
        # stated: 182.9 × 121.9 cm at 72, 43.9 × 29.3 cm at 300
        ((5184, 3456), {"Web screen": "182.88 × 121.92 cm", "Coated press": "43.89 × 29.26 cm"}),
        ((3840, 2160), {"Coated press": "32.51 × 18.28 cm"}),
    ],
)
def test_reach_in_centimetres(picture_of, said, px, expected):
    words = said(f"/pictures/{picture_of(*px)}")
    for target, size in expected.items():
        assert re.search(rf"{target} \d+ ppi {size}", words), size


@pytest.mark.parametrize(
    "px, density, width, height",
    [
        ((850, 600), 300, 2.833, 2),  # stated: "about 3"
        ((3840, 2160), 300, 12.8, 7.2),
        ((1512, 2088), 300, 5.04, 6.96),  # stated: "5 by 7"
        ((432, 288), 300, 1.44, 0.96),
        ((432, 288), 200, 2.16, 1.44),
        ((3600, 2400), 300, 12, 8),  # stated
    ],
)
def test_a_density_leads_to_a_size(picture_of, field, px, density, width, height):
    found = field(picture_of(*px), changed="density", density=str(density))
    assert (found["width"], found["height"]) == pytest.approx((width, height), abs=0.001)


@pytest.mark.parametrize(
    "px, width, density, height",
    [
        ((3600, 2400), 18, 200, 12),  # stated
        ((3600, 2400), 6, 600, 4),  # stated
        ((4288, 2848), 12, 357.3, 7.97),  # stated: 357 ppi
        ((4288, 2848), 10, 428.8, 6.642),  # stated: 6.64 in high
    ],
)
def test_a_width_leads_to_a_density(picture_of, field, px, width, density, height):
    found = field(picture_of(*px), changed="width", width=str(width))
    assert found["density"] == pytest.approx(density, abs=0.06)
    assert found["height"] == pytest.approx(height, abs=0.001)


@pytest.mark.parametrize(
    "px, bits, asked, expected",
    [
        # stated
        ((5184, 3456), 8, {"width": "72", "density": "300"},
         ["21 600 × 14 400 px",
          "94 % of them would be interpolated", "from 51.3 MiB to 889.9 MiB"]),
        ((3600, 2400), 8, {"width": "18", "density": "300"},
         ["5 400 × 3 600 px", "150 % of the edge", "from 24.7 MiB to 55.6 MiB"]),
        ((3600, 2400), 8, {"width": "18", "density": "225"}, ["112.5 % of the edge"]),
    ],
)  # fmt: skip
def test_changing_the_pixels_says_what_would_happen(picture_of, said, px, bits, asked, expected):
    query = {"mode": "change", "unit": "in", "height": "1", "changed": "density"} | asked
    words = said(f"/pictures/{picture_of(*px, bits=bits)}/calculator", **query)
    for text in expected:
        assert text in words


@pytest.mark.parametrize(
    "px, bits, expected",
    [
        ((5184, 3456), 8, "Unpacked 51.3 MiB"),
        ((4288, 2848), 16, "Unpacked 69.9 MiB"),
        ((4928, 3264), 8, "Unpacked 46.0 MiB"),
        ((4928, 3264), 8, "16.1 megapixels"),
        ((5184, 3456), 8, "Native size 182.9 × 121.9 cm"),
    ],
)
def test_facts(picture_of, said, px, bits, expected):
    assert expected in said(f"/pictures/{picture_of(*px, bits=bits)}")


def test_the_wall_says_pixels_and_reach_and_no_file_size(picture_of, said):
    picture_of(3600, 2400)
    words = said("/pictures", target="coated")
    assert "3 600 × 2 400 px up to 304 × 203 mm" in words
    assert " kB" not in words and " MB" not in words


def test_the_copy_form_asks_for_a_frames_pixels(picture_of, said):
    # arithmetic: 336 × 267 mm at 300 ppi are 3 969 × 3 154 px; here of a picture of 336 : 267
    picture_id = picture_of(5376, 4272)
    words = said(f"/pictures/{picture_id}/copy", width="336", unit="mm", density="300")
    assert "3 969 × 3 154 px, 336 × 267 mm at 300 ppi" in words
    assert "auto takes lanczos3, the sharper one for shrinking" in words


class TestWhatIsTyped:
    """Pixels are pixels and percent are percent; what was shown rounded is kept exactly."""

    BEFORE = {"exact_width": str(5184 / 300 * 72), "exact_density": "300"}

    def test_percent_of_the_pixels(self, picture_of, said):
        query = {"mode": "change", "unit": "in", "shown_unit": "in", "changed": "width"}
        words = said(
            f"/pictures/{picture_of(5184, 3456)}/calculator",
            **query, **self.BEFORE, width="50 %", density="300",
        )  # fmt: skip
        assert "needs 2 592 × 1 728 px, 50 % of the edge" in words

    def test_percent_of_the_size(self, picture_of, field):
        number = picture_of(5184, 3456)
        fields = field(number, **self.BEFORE, changed="width", width="200%", shown_unit="in")
        assert fields["density"] == 150

    def test_pixels_are_pixels(self, picture_of, said):
        query = {"mode": "change", "unit": "px", "shown_unit": "px", "changed": "width"}
        words = said(
            f"/pictures/{picture_of(5184, 3456)}/calculator",
            **query, **self.BEFORE, width="2000", density="300",
        )  # fmt: skip
        assert "needs 2 000 × 1 333 px" in words

    def test_kept_pixels_cannot_be_typed(self, picture_of, said):
        query = {"mode": "keep", "unit": "px", "shown_unit": "px", "changed": "width"}
        words = said(
            f"/pictures/{picture_of(5184, 3456)}/calculator",
            **query, **self.BEFORE, width="2000", density="300",
        )  # fmt: skip
        assert "choose “Change the pixels” to have others" in words

    @pytest.mark.parametrize("px_w, px_h", [(5184, 3456), (1511, 997), (3333, 2221)])
    def test_doubling_the_density_doubles_the_pixels(self, picture_of, said, px_w, px_h):
        before = {"exact_width": str(px_w / 300 * 72), "exact_density": "300"}
        query = {"mode": "change", "unit": "cm", "shown_unit": "cm", "changed": "density"}
        words = said(
            f"/pictures/{picture_of(px_w, px_h)}/calculator", **query, **before, density="600"
        )
        doubled = f"{2 * px_w:,} × {2 * px_h:,}".replace(",", " ")
        assert f"needs {doubled} px, 200 % of the edge" in words
