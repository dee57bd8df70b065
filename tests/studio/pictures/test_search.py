"""Finding pictures on the shelves."""

import pytest

from harnet.core.targets.shipped import target_named
from harnet.store.tables.pictures import Picture, Shelf
from harnet.studio.pictures.search import PictureFilter, found

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
        (PictureFilter(), ["harbour-morning.jpg", "harbour-gull.png", "chart.tif", "crest.svg"]),
        (PictureFilter(words="HARBOUR"), ["harbour-morning.jpg", "harbour-gull.png"]),
        (PictureFilter(words="gull harbour"), ["harbour-gull.png"]),
        (PictureFilter(words="nothing"), []),
        (PictureFilter(shape="landscape"), ["harbour-morning.jpg"]),
        (PictureFilter(shape="portrait"), ["harbour-gull.png"]),
        (PictureFilter(shape="square"), ["chart.tif", "crest.svg"]),
        (PictureFilter(kind="vector"), ["crest.svg"]),
        (PictureFilter(colour="bilevel"), ["chart.tif"]),
        (PictureFilter(licence="CC-BY-4.0"), ["harbour-gull.png"]),
        (PictureFilter(licence="none stated"), ["harbour-morning.jpg", "chart.tif", "crest.svg"]),
        (PictureFilter(shelf="from the trust"), ["chart.tif"]),
        (
            PictureFilter(order="name"),
            ["chart.tif", "crest.svg", "harbour-gull.png", "harbour-morning.jpg"],
        ),
        # 8 000 px of 1-bit art at 1 200 ppi reach less far than 5 184 px at 300
        (
            PictureFilter(order="reach"),
            ["crest.svg", "harbour-morning.jpg", "chart.tif", "harbour-gull.png"],
        ),
        (
            PictureFilter(order="pixels"),
            ["chart.tif", "harbour-morning.jpg", "harbour-gull.png", "crest.svg"],
        ),
    ],
)
def test_what_is_found_and_in_which_order(wanted, names):
    assert [one.file_name for one in found(SHELF, wanted, target_named("coated"))] == names
