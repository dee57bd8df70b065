"""A drawing or a page of a PDF as one form, and the raster images inside it."""

import io
from dataclasses import dataclass
from pathlib import Path

import pikepdf

from harnet.core.documents.userspace import seen_space
from harnet.core.measure.geometry import Matrix
from harnet.core.pictures.picture import MOST_INNER_IMAGES, Colour, InnerImage
from harnet.media.errors import UnreadableFile
from harnet.media.pdf.opening.opened import opened_pdf
from harnet.media.pdf.reading.images import PageReader
from harnet.media.pdf.reading.visible_page import attributes_of, seen_page


@dataclass(frozen=True, slots=True)
class VectorForm:
    """A form of a PDF, and the map from its space to the picture's unit square, y downwards."""

    form: pikepdf.Object
    to_unit: Matrix


@dataclass(frozen=True, slots=True, kw_only=True)
class Inside:
    """What a drawing holds: its size, its images, how many, and fonts by name alone.

    `images` are the least dense ones; their matrices map the unit square to the drawing at
    `width_pt` × `height_pt`.
    """

    width_pt: float
    height_pt: float
    images: tuple[InnerImage, ...] = ()
    image_count: int = 0
    unembedded_fonts: tuple[str, ...] = ()
    is_transparent: bool = True


def drawn_as_pdf(path: Path, name: str) -> bytes:
    """An SVG as a PDF of one page.

    Raises:
        UnreadableFile: it cannot be drawn.
    """
    # Half a second to load, which every other file would wait for in its process.
    import cairosvg  # noqa: PLC0415

    try:
        return bytes(cairosvg.svg2pdf(bytestring=path.read_bytes(), unsafe=False))
    except Exception as error:
        # The drawing library raises whatever its parts raise.
        raise UnreadableFile(
            name, f"it could not be drawn as vector ({type(error).__name__})"
        ) from error


def vector_form(pdf: pikepdf.Pdf, path: Path, name: str) -> VectorForm:
    """An SVG, or the first page of a PDF with its notes' drawings, as a form of `pdf`.

    Raises:
        UnreadableFile: it cannot be drawn, or not be read.
    """
    if _is_pdf(path):
        with opened_pdf(path, name) as source:
            return _form_of(pdf, source)
    with pikepdf.open(io.BytesIO(drawn_as_pdf(path, name))) as source:
        return _form_of(pdf, source)


def inside_pdf(pdf: pikepdf.Pdf, name: str, looks_at_fonts: bool = True) -> Inside:
    """The images that the first page of an open PDF shows, and its fonts.

    Raises:
        UnreadableFile: it shows more images than anybody could look at.
    """
    reader = PageReader(pdf, name)
    page, painted = reader.page(1, looks_at_fonts=looks_at_fonts)
    space = seen_space(page.box, page.turn_deg)
    seen = [one for one in painted if not one.unseen]
    seen.sort(key=lambda one: one.density.worst * (0.25 if one.colour is Colour.BILEVEL else 1))
    images = tuple(
        InnerImage(
            one.px_w,
            one.px_h,
            one.matrix.then(space.matrix).as_tuple(),
            one.colour is Colour.BILEVEL,
        )
        for one in seen[:MOST_INNER_IMAGES]
    )
    fonts = tuple(sorted(reader.fonts.names)) if looks_at_fonts else ()
    return Inside(
        width_pt=space.width_pt,
        height_pt=space.height_pt,
        images=images,
        image_count=len(seen),
        unembedded_fonts=fonts,
        is_transparent=page.is_transparent,
    )


def inside_svg(path: Path, name: str) -> Inside:
    """The images inside an SVG, found in what is printed of it.

    Raises:
        UnreadableFile: it cannot be drawn.
    """
    with pikepdf.open(io.BytesIO(drawn_as_pdf(path, name))) as pdf:
        return inside_pdf(pdf, name, looks_at_fonts=False)


def _is_pdf(path: Path) -> bool:
    with path.open("rb") as file:
        return b"%PDF-" in file.read(1024)


def _form_of(pdf: pikepdf.Pdf, source: pikepdf.Pdf) -> VectorForm:
    page = source.pages[0]
    if "/Annots" in page.obj:
        # What notes and form fields draw belongs to the page's looks; what they do stays behind.
        source.generate_appearance_streams()
        source.flatten_annotations("print")
    seen, unit = seen_page(attributes_of(page))
    box = [side / unit for side in seen.box]
    form = page.as_form_xobject(handle_transformations=False)
    form.BBox = pikepdf.Array(box)
    space = seen_space(box, seen.turn_deg)
    to_unit = space.matrix.then(Matrix.scaling(1 / space.width_pt, 1 / space.height_pt))
    return VectorForm(pdf.copy_foreign(source.make_indirect(form)), to_unit)
