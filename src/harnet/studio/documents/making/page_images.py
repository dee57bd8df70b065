"""Pages of a PDF made elsewhere as images: how many pixels they leave with, and the files."""

from collections.abc import Callable
from dataclasses import dataclass
from pathlib import Path
from typing import Any

from harnet.core.documents.document import DocumentPage, page_from
from harnet.core.errors import ValueOutOfRange
from harnet.core.output.page_images import (
    ImageSettings,
    image_settings_as_values,
    plain_title,
)
from harnet.core.output.pair import Pair
from harnet.studio.documents.making.apart import module_apart
from harnet.studio.pictures.importing import safe_file_name

_BY = "harnet.media.pagedrawing.document_pages"


@dataclass(frozen=True, slots=True)
class PageImages:
    """The files of page images in page order, and of each what was promised and found."""

    paths: tuple[Path, ...]
    rows: tuple[dict[str, Any], ...]

    @property
    def is_kept(self) -> bool:
        """Whether every image has the pixels and the density tag that were promised."""
        return all(_is_kept(row) for row in self.rows)


def _is_kept(row: dict[str, Any]) -> bool:
    tag = Pair(row["density_promised"], row["density_found"])
    return row["px_promised"] == row["px_found"] and tag.is_kept


def pages_of_pdf(path: Path, name: str) -> list[DocumentPage]:
    """The pages of a PDF with their boxes and turns; their content is not looked at.

    Raises:
        UnreadableFile: the PDF cannot be read.
    """
    answer = _done(path, name, {"settings": None})
    return [page_from(one) for one in answer["pages"]]


def write_page_images(
    path: Path,
    name: str,
    settings: ImageSettings,
    folder: Path,
    *,
    profile: Path | None = None,
    tell: Callable[[int, int], None] = lambda _done, _of: None,
    look_up: Callable[[], None] | None = None,
) -> PageImages:
    """Writes the pages' images into a folder that is there and empty, and reads them back.

    Whatever `tell` or `look_up` raises ends the work. `profile` is the CMYK profile of images in
    inks, None the generic one.

    Raises:
        UnreadableFile: the PDF cannot be read or drawn.
        ValueOutOfRange: there are no such pages, or their images would be too large.
    """
    order = {
        "settings": image_settings_as_values(settings),
        "title": safe_file_name(plain_title(Path(name).stem)),
        "folder": str(folder),
        "profile": str(profile) if profile else "",
    }
    answer = _done(path, name, order, tell, look_up)
    if "refused" in answer:
        raise ValueOutOfRange(answer["refused"])
    rows = tuple(answer["images"])
    return PageImages(tuple(folder / row["file"] for row in rows), rows)


def _done(
    path: Path,
    name: str,
    order: dict[str, Any],
    tell: Callable[[int, int], None] = lambda _done, _of: None,
    look_up: Callable[[], None] | None = None,
) -> dict[str, Any]:
    return module_apart(_BY, path, name, order, tell, look_up)
