"""Pages of an untrusted PDF as image files, in a process of its own with limits."""

import tempfile
from pathlib import Path
from typing import Any

import pypdfium2

from harnet.core.documents.document import DocumentPage, page_values
from harnet.core.errors import ValueOutOfRange
from harnet.core.measure.wording import grouped
from harnet.core.output.page_images import (
    ImageSettings,
    image_name,
    image_settings_from_values,
)
from harnet.core.output.page_pixels import PagePixels, pixels_of_pages
from harnet.media.bounded import Order, Tell
from harnet.media.errors import TooLarge, UnreadableFile
from harnet.media.pagedrawing.page_image import (
    MAX_IMAGE_PX,
    PageFile,
    read_back_image,
    render_page,
    save_page_image,
)
from harnet.media.pdf.opening.opened import opened_pdf
from harnet.media.pdf.reading.visible_page import attributes_of, seen_page

_MILLION = 1_000_000


def work(order: Order, tell: Tell) -> Order:
    """What happens in the process: see `harnet.media.bounded`.

    With no `settings` the answer has the `pages` as values; else their images are written into
    `folder`, named after `title`, and it has of each the `file`, the `page`, what was promised and
    what was found. What was asked for and cannot be is answered as `refused`.

    Raises:
        UnreadableFile: the PDF cannot be read or drawn.
    """
    path, name = Path(order["path"]), order["name"]
    with opened_pdf(path, name) as pdf:
        seen = [seen_page(attributes_of(page)) for page in pdf.pages]
    pages = [page for page, _ in seen]
    if order["settings"] is None:
        return {"pages": [page_values(page) for page in pages]}
    settings = image_settings_from_values(order["settings"])
    profile = Path(order["profile"]) if order["profile"] else None
    rows = []
    try:
        wanted = pixels_of_pages(pages, settings)
        with pypdfium2.PdfDocument(path) as drawn:
            for done, one in enumerate(wanted):
                tell([done, len(wanted)])
                page, unit = seen[one.page_number - 1]
                file = _named(order, settings, one, len(pages))
                _write(drawn[one.page_number - 1], page, unit, one, settings, file, profile)
                rows.append(_row(one, file))
    except (TooLarge, ValueOutOfRange) as error:
        return {"refused": str(error)}
    except (pypdfium2.PdfiumError, IndexError):
        raise UnreadableFile(name, "its pages cannot be drawn") from None
    tell([len(wanted), len(wanted)])
    return {"images": rows}


def _named(order: Order, settings: ImageSettings, one: PagePixels, count: int) -> Path:
    name = image_name(settings, order["title"], one.page_number, count, one.density_ppi)
    return Path(order["folder"]) / name


def _write(
    page: pypdfium2.PdfPage,
    seen: DocumentPage,
    unit: float,
    one: PagePixels,
    settings: ImageSettings,
    path: Path,
    profile: Path | None,
) -> None:
    """Draws a page as it is seen, within its trim unless all of it is asked for.

    Raises:
        TooLarge: it would have more pixels than anybody can use, or no quality keeps it small.
    """
    if one.px_w * one.px_h > MAX_IMAGE_PX:
        raise TooLarge(
            f"Page {one.page_number} would have {grouped(one.px_w)} × {grouped(one.px_h)} pixels;"
            f" the limit is {MAX_IMAGE_PX // _MILLION} million. Choose a lower density."
        )
    box = seen.box if settings.with_bleed else seen.cut
    page.set_cropbox(*(edge / unit for edge in box))
    with tempfile.TemporaryDirectory(dir=path.parent) as folder:
        pixels = Path(folder) / "pixels"
        render_page(page, one.px_w, one.px_h, pixels, with_notes=True)
        made = PageFile(one.page_number, one.px_w, one.px_h, one.density_ppi)
        save_page_image(pixels, made, settings, path, profile)


def _row(one: PagePixels, path: Path) -> dict[str, Any]:
    found = read_back_image(path)
    return {
        "page": one.page_number,
        "file": path.name,
        "bytes": path.stat().st_size,
        "px_promised": [one.px_w, one.px_h],
        "px_found": [found.px_w, found.px_h],
        "density_promised": one.density_ppi,
        "density_found": found.density_x,
        "colour": found.colour,
        "profile": found.profile,
    }
