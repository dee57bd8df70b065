"""Images of documents, made up."""

from random import Random

from harnet.core.documents.images import ImageKind, ImageOnPage
from harnet.core.measure.geometry import Matrix


def picture_by(chance: Random, place: int) -> ImageOnPage:
    """Made up: of all kinds, turned, skewed, cropped, not visible; some densities at limits."""
    kind = chance.choices(list(ImageKind), [8, 1, 1])[0]
    px_w, px_h = chance.randint(1, 9000), chance.randint(1, 9000)
    matrix = Matrix(*(chance.uniform(-300, 300) for _ in range(4)), 3.0, 4.0)
    if chance.random() < 0.6:
        limits = (75, 100, 270, 300, 299.95, 450, 0.01, 0.0001, 1200)
        scale = 72 / chance.choice(limits)
        matrix = Matrix(px_w * scale, 0.0, 0.0, px_h * scale, 3.0, 4.0)
    is_raster = kind is ImageKind.RASTER
    return ImageOnPage(
        id=0,
        page_number=1 + place // 20,
        place=place,
        px_w=px_w if is_raster else 0,
        px_h=px_h if is_raster else 0,
        colour=chance.choice(["rgb", "cmyk", "grey", "bilevel"]),
        bits=8,
        matrix=matrix,
        object_number=0,
        has_profile=False,
        has_alpha=False,
        filters=chance.choice(["", "emf"]) if not is_raster else "",
        unseen=chance.choice(["", "", "", "off the page", "behind another"]),
        source=chance.choice(["page", "glyph"]),
        pieces=(),
        kind=kind,
        crop=chance.choice([(0.0, 0.0, 0.0, 0.0), (0.1, 0.2, 0.25, 0.0), (0.5, 0.0, 0.5, 0.0)]),
        shape_name=chance.choice(["", "", "Ärmel 2"]),
        link="a b.jpg" if kind is ImageKind.LINKED else "",
    )
