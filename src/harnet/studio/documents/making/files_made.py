"""Images of a checked PDF, and its pages as images, made in the background and put into a ZIP."""

from collections.abc import Sequence
from pathlib import Path
from typing import Any

from sqlalchemy.orm import Session

from harnet.core.errors import ValueOutOfRange
from harnet.core.measure.wording import counted
from harnet.core.output.page_images import image_settings_from_values
from harnet.store.tables.documents import DocumentWork
from harnet.studio.common.errors import Refused, sentence_of
from harnet.studio.common.zipped import zipped
from harnet.studio.documents.making.extracting import extract_images
from harnet.studio.documents.making.page_images import write_page_images
from harnet.studio.pictures.profiles import profile_file
from harnet.studio.tasks.work import Work


def make_files_of_images(
    work: Work[DocumentWork], folder: Path, path: Path, name: str, settings: dict[str, Any]
) -> None:
    """Writes images of the PDF at `path` as files, with a table of them.

    `settings` has `chosen`, pairs of page and place or None for all, and `with_alpha`.
    """
    made = _new_folder(folder)
    chosen = settings["chosen"]
    extracted = extract_images(
        path,
        name,
        made,
        chosen=None if chosen is None else [(page, place) for page, place in chosen],
        with_alpha=settings["with_alpha"],
        tell=work.tell,
        look_up=work.look_up,
    )
    result = {
        "files": len({one.file for one in extracted if one.file}),
        "left": [
            {"page": one.image.page_number, "place": one.image.place, "why": one.how}
            for one in extracted
            if not one.file
        ],
    }
    _keep(work, folder, sorted(made.iterdir()), f"{Path(name).stem} images.zip", result)


def make_page_images(
    work: Work[DocumentWork], folder: Path, path: Path, name: str, settings: dict[str, Any]
) -> None:
    """Writes pages of the PDF at `path` as images and reads them back.

    `settings` are those of page images as values. One page leaves as its image, more as a ZIP.

    Raises:
        Refused: there are no such pages, an image would be too large, or one is not as promised.
    """
    wanted = image_settings_from_values(settings)
    made = _new_folder(folder)
    try:
        images = write_page_images(
            path,
            name,
            wanted,
            made,
            profile=profile_file(work.studio, wanted.profile, folder),
            tell=work.tell,
            look_up=work.look_up,
        )
    except ValueOutOfRange as error:
        raise Refused(sentence_of(error)) from None
    if not images.is_kept:
        raise Refused("An image was not written as promised; nothing was kept.")
    count = counted(len(images.paths), "page")
    title = f"{Path(name).stem} {count}.zip" if len(images.paths) > 1 else images.paths[0].name
    _keep(work, folder, images.paths, title, {"images": list(images.rows)})


def _new_folder(folder: Path) -> Path:
    made = folder / "made"
    made.mkdir()
    return made


def _keep(
    work: Work[DocumentWork],
    folder: Path,
    paths: Sequence[Path],
    title: str,
    result: dict[str, Any],
) -> None:
    """Stores what was made, a ZIP unless it is one file that is named so itself."""
    is_alone = len(paths) == 1 and paths[0].name == title
    file = paths[0] if is_alone else folder / "made.zip"
    if not is_alone:
        zipped(list(paths), file)
    sha256, size = work.studio.blobs.put_file(file), file.stat().st_size

    def keep(_session: Session, row: DocumentWork) -> None:
        row.sha256, row.size_bytes, row.result, row.file_name = sha256, size, result, title

    work.finish(keep)
