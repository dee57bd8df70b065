"""Finding pictures on the shelves."""

import pytest

from harnet.core.targets.shipped import target_named
from harnet.store.tables.pictures import Picture, Shelf
from harnet.studio.pictures.search import PictureFilter, found


def picture(name, px_w, px_h, colour="rgb", licence="", shelf="My pictures"):
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
    about = {"sha256": "0" * 64, "size_bytes": 1, "modified_ns": 0}
    return shelf, Picture(file_name=name, facts=facts, licence=licence, **about)


@pytest.fixture
def session(studio):
    """With the pictures below on their shelves, the first the newest."""
    with studio.session() as session:
        shelves = {name: Shelf(name=name, folder=f"/{name}") for name, _ in map(made, SHELF)}
        session.add_all(shelves.values())
        session.flush()
        for shelf, picture in map(made, reversed(SHELF)):
            picture.shelf = shelves[shelf]
            session.add(picture)
            session.flush()
        yield session


def made(about):
    return picture(*about[0], **about[1])


def of(*about, **more):
    return about, more


SHELF = [
    of("harbour-morning.jpg", 5184, 3456),
    of("harbour-gull.png", 312, 500, "palette", "CC-BY-4.0"),
    of("chart.tif", 8000, 8000, "bilevel", shelf="from the trust"),
    of("crest.svg", None, None, "vector"),
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
def test_what_is_found_and_in_which_order(session, wanted, names):
    count, pictures = found(session, wanted, target_named("coated"))
    assert [one.file_name for one in pictures] == names
    assert count == len(names)
    # And a page of it.
    again, some = found(session, wanted, target_named("coated"), first=1, most=2)
    assert ([one.file_name for one in some], again) == (names[1:3], count)
