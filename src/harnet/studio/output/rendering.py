"""Files from a document: a PDF or page images, read back, each with its receipt.

No database stands behind this: the worker, the command line and packs from elsewhere share it.
"""

import tempfile
from collections.abc import Callable
from pathlib import Path
from typing import Any

from harnet.core.output.page_images import (
    ImageSettings,
    image_name,
    page_numbers,
    plain_title,
)
from harnet.core.output.pdf_settings import PdfColour, PdfSettings
from harnet.core.output.treatment import Treatment, treatment_of
from harnet.media.pagedrawing.page_image import read_back_image, write_page_image
from harnet.media.pagedrawing.plan import PagePlan, PagesToDraw, PicturePart
from harnet.media.pdf.writing.finish import Finish
from harnet.media.pdf.writing.readback import read_back
from harnet.media.pdf.writing.write import write_pdf
from harnet.media.pixels.colour import cmyk_profile_file
from harnet.studio.output.pdf_receipt import pdf_receipt
from harnet.studio.output.receipts import images_receipt
from harnet.studio.pictures.importing import safe_file_name

Progress = Callable[[int, int], None]


def selected_pages(document: PagesToDraw, pages: str) -> tuple[PagePlan, ...]:
    """The pages meant by `all`, or by numbers and ranges.

    Raises:
        ValueOutOfRange: no such page.
    """
    return tuple(document.plans[number - 1] for number in page_numbers(pages, len(document.plans)))


def make_pdf(
    document: PagesToDraw,
    settings: PdfSettings,
    path: Path,
    progress: Progress,
    profile: Path | None = None,
) -> dict[str, Any]:
    """Writes the PDF and returns its receipt; `profile` is the supplied CMYK profile.

    Raises:
        UnreadableFile: a picture's file cannot be read any longer.
        ValueOutOfRange: pages that the document does not have.
    """
    plans = selected_pages(document, settings.pages)
    with tempfile.TemporaryDirectory(dir=path.parent) as folder:
        intent = cmyk_profile_file(profile, Path(folder)) if settings.has_intent else None
        finish = finish_by(settings, document, intent)
        promises = write_pdf(plans, document.title, path, progress, treatments_by(settings), finish)
        return pdf_receipt(plans, promises, read_back(path), document.title, finish)


def finish_by(settings: PdfSettings, document: PagesToDraw, intent: Path | None) -> Finish:
    """What stands around the pictures by these settings; `intent` is the profile's file."""
    return Finish(
        standard=settings.standard,
        intent=intent,
        is_inked=settings.colour is PdfColour.INTENT,
        crop_marks=settings.crop_marks,
        registration_marks=settings.registration_marks,
        language=settings.language,
        dated=document.edited_at,
    )


def treatments_by(settings: PdfSettings) -> Callable[[PicturePart], Treatment]:
    """What happens to each picture by these settings."""
    return lambda part: treatment_of(part.facts, part.placement, settings)


def make_images(
    document: PagesToDraw,
    settings: ImageSettings,
    folder: Path,
    progress: Progress,
    profile: Path | None = None,
) -> tuple[list[Path], dict[str, Any]]:
    """Writes a file a page into `folder`; returns the files in page order, and the receipt.

    Raises:
        UnreadableFile: a picture's file cannot be read any longer.
        TooLarge: no quality keeps an image under its limit of bytes.
        ValueOutOfRange: pages that the document does not have.
    """
    plans = selected_pages(document, settings.pages)
    written, paths = [], []
    for done, plan in enumerate(plans):
        progress(done, len(plans))
        size = settings.size_of(plan.width_pt, plan.height_pt, plan.bleed_pt)
        ppi = settings.density_for(*size)
        title = plain_title(document.title)
        name = image_name(settings, title, plan.number, len(document.plans), ppi)
        path = folder / safe_file_name(name)
        _, promises = write_page_image(plan, settings, path, profile)
        written.append((plan, settings.px_for(*size), ppi, promises, read_back_image(path)))
        paths.append(path)
    progress(len(plans), len(plans))
    return paths, images_receipt(written, settings.colour)
