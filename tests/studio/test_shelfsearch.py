"""Finding pictures on the shelves."""

import pytest

from harnet.core.targets.shipped import target_named
from harnet.store.tables.pictures import Picture, Shelf
from harnet.studio.pictures.search import Wanted, found

OWN, TRUST = Shelf(name="My pictures", folder="/"), Shelf(name="from the trust", folder="/")


def picture(name, px_w, px_h, colour="rgb", licence="", shelf=OWN):
    facts = {
        "kind": "raster" if px_w else "vector",
        "format": "x",
        "px_w": px_w,
        "px_h": px_h,
        "density_x": None,
        "density_y": None,
        "colour": colour,
        "bits": 8,
        "channels": 3,
        "alpha": False,
        "lossy": False,
        "icc": None,
        "frames": 1,
        "size_bytes": 1,
        "width_pt": None if px_w else 100.0,
        "height_pt": None if px_w else 100.0,
    }
    return Picture(file_name=name, facts=facts, licence=licence, shelf=shelf)


SHELF = [
    picture("harbour-morning.jpg", 5184, 3456),
    picture("harbour-gull.png", 312, 500, "palette", "CC-BY-4.0"),
    picture("chart.tif", 8000, 8000, "bilevel", shelf=TRUST),
    picture("crest.svg", None, None, "vector"),
]


@pytest.mark.parametrize(
    "wanted, names",
    [
        (Wanted(), ["harbour-morning.jpg", "harbour-gull.png", "chart.tif", "crest.svg"]),
        (Wanted(words="HARBOUR"), ["harbour-morning.jpg", "harbour-gull.png"]),
        (Wanted(words="gull harbour"), ["harbour-gull.png"]),
        (Wanted(words="nothing"), []),
        (Wanted(shape="lying"), ["harbour-morning.jpg"]),
        (Wanted(shape="upright"), ["harbour-gull.png"]),
        (Wanted(shape="square"), ["chart.tif", "crest.svg"]),
        (Wanted(kind="vector"), ["crest.svg"]),
        (Wanted(colour="bilevel"), ["chart.tif"]),
        (Wanted(licence="CC-BY-4.0"), ["harbour-gull.png"]),
        (Wanted(licence="none stated"), ["harbour-morning.jpg", "chart.tif", "crest.svg"]),
        (Wanted(shelf="from the trust"), ["chart.tif"]),
        (
            Wanted(order="name"),
            ["chart.tif", "crest.svg", "harbour-gull.png", "harbour-morning.jpg"],
        ),
        # 8 000 px of 1-bit art at 1 200 ppi reach less far than 5 184 px at 300
        (
            Wanted(order="reach"),
            ["crest.svg", "harbour-morning.jpg", "chart.tif", "harbour-gull.png"],
        ),
        (
            Wanted(order="pixels"),
            ["chart.tif", "harbour-morning.jpg", "harbour-gull.png", "crest.svg"],
        ),
    ],
)
def test_what_is_found_and_in_which_order(wanted, names):
    assert [one.file_name for one in found(SHELF, wanted, target_named("coated"))] == names
