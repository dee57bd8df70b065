"""`harnet extract`: every image of a document as a file of its own."""

import sys
import tempfile
from pathlib import Path

import click

from harnet.cli.export import progress_of
from harnet.cli.files import password_option
from harnet.core.documents.extraction import ExtractedImage
from harnet.core.measure.wording import counted
from harnet.media.errors import UnreadableFile
from harnet.studio.documents.making.extracting import TABLE_NAME, extract_images
from harnet.studio.documents.making.unlocking import readable

_SOME_LEFT, _CANNOT_READ = 1, 2
_PATH = click.Path(path_type=Path)


@click.command()
@click.argument("file", type=_PATH)
@click.option("--to", "folder", type=_PATH, required=True, help="The folder to write into.")
@click.option("--pages", default="all", show_default=True, help="Pages, such as 1-3,7.")
@password_option
@click.option("--alpha", is_flag=True, help="Write masks as alpha; such images become PNG or TIFF.")
def extract(file: Path, folder: Path, pages: str, password: str, alpha: bool) -> None:
    """Every image in FILE, a document, as a file in a folder, with a table of them, images.csv.

    Of a PDF, JPEG and JPEG 2000 are written byte for byte, CCITT data as TIFF; the rest becomes PNG
    or TIFF without loss, with its ICC profile and the density that it has on its page. Of other
    documents every image keeps its bytes. Exit code 0: all
    were written; 1: some cannot be decoded, and the table says why; 2: nothing was written.
    """
    try:
        folder.mkdir(parents=True, exist_ok=True)
        with (
            tempfile.TemporaryDirectory(dir=folder, prefix=".harnet-") as name,
            readable(file, str(file), password) as (plain, _),
        ):
            made = Path(name)
            extracted = extract_images(
                plain, str(file), made, pages=pages, with_alpha=alpha, tell=progress_of("image")
            )
            taken = [one.name for one in sorted(made.iterdir()) if (folder / one.name).exists()]
            if taken:
                raise UnreadableFile(
                    str(folder), f"it holds {taken[0]} already", "Name an empty folder"
                )
            for one in sorted(made.iterdir()):
                one.replace(folder / one.name)
    except UnreadableFile as error:
        click.echo(str(error), err=True)
        sys.exit(_CANNOT_READ)
    except OSError as error:
        click.echo(f"{error.filename}: {(error.strerror or str(error)).lower()}", err=True)
        sys.exit(_CANNOT_READ)
    sys.exit(_told(folder, extracted))


def _told(folder: Path, extracted: list[ExtractedImage]) -> int:
    files = {one.file for one in extracted if one.file}
    for one in extracted:
        if not one.file:
            image = one.image
            click.echo(f"page {image.page_number}, image {image.place}: {one.how}", err=True)
    left = sum(not one.file for one in extracted)
    click.echo(f"{folder}: {counted(len(files), 'image')} and {TABLE_NAME}")
    return _SOME_LEFT if left else 0
