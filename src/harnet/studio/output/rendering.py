"""Files from a document: a PDF or page images, read back, each with its receipt.

No database stands behind this: the worker, the command line and packs from elsewhere share it.
"""

import tempfile
from collections.abc import Callable, Iterator
from concurrent.futures import ProcessPoolExecutor
from contextlib import ExitStack
from dataclasses import dataclass
from functools import partial
from multiprocessing import get_context
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
from harnet.media.forking import die_with_parent
from harnet.media.pagedrawing.page_image import FoundImageFile, read_back_image, write_page_image
from harnet.media.pagedrawing.plan import PagePlan, PagesToDraw, PicturePart
from harnet.media.pdf.writing.finish import Finish
from harnet.media.pdf.writing.readback import read_back
from harnet.media.pdf.writing.write import Promise, write_pdf
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
    hands: int = 1,
) -> tuple[list[Path], dict[str, Any]]:
    """Writes a file a page into `folder`; returns the files in page order, and the receipt.

    With `hands` above 1 so many processes are forked that share the pages, so this one must have
    no threads.

    Raises:
        UnreadableFile: a picture's file cannot be read any longer.
        TooLarge: no quality keeps an image under its limit of bytes.
        ValueOutOfRange: pages that the document does not have.
    """
    plans = selected_pages(document, settings.pages)
    title, count = plain_title(document.title), len(document.plans)
    write = partial(_page_written, settings, title, count, folder, profile)
    progress(0, len(plans))
    written, paths = [], []
    with ExitStack() as stack:
        made: Iterator[_WrittenPage] = map(write, plans)
        if hands > 1 and len(plans) > 1:
            pool = ProcessPoolExecutor(min(hands, len(plans)), get_context("fork"), die_with_parent)
            stack.callback(pool.shutdown, cancel_futures=True)
            made = pool.map(write, plans)
        for done, one in enumerate(made, 1):
            written.append((plans[done - 1], one.px, one.density_ppi, one.promises, one.found))
            paths.append(one.path)
            progress(done, len(plans))
    return paths, images_receipt(written, settings.colour)


@dataclass(frozen=True, slots=True, kw_only=True)
class _WrittenPage:
    """The file of one page, what was promised of its pictures, and what was found in it."""

    path: Path
    px: tuple[int, int]
    density_ppi: float
    promises: list[Promise]
    found: FoundImageFile


def _page_written(
    settings: ImageSettings,
    title: str,
    count: int,
    folder: Path,
    profile: Path | None,
    plan: PagePlan,
) -> _WrittenPage:
    """Writes a page of `count` as an image file, and reads it back."""
    size = settings.size_of(plan.width_pt, plan.height_pt, plan.bleed_pt)
    ppi = settings.density_for(*size)
    path = folder / safe_file_name(image_name(settings, title, plan.number, count, ppi))
    _, promises = write_page_image(plan, settings, path, profile)
    return _WrittenPage(
        path=path,
        px=settings.px_for(*size),
        density_ppi=ppi,
        promises=promises,
        found=read_back_image(path),
    )
