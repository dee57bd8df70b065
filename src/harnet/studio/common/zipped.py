"""Files put into a ZIP, the same bytes for the same files."""

from pathlib import Path
from zipfile import ZIP_STORED, ZipFile, ZipInfo

_FIXED_TIME = (1980, 1, 1, 0, 0, 0)
"""The time of files in a ZIP, so that the same pages give the same bytes."""


def zipped(paths: list[Path], made: Path) -> None:
    """Puts files into a ZIP, in order; images are compressed already."""
    with ZipFile(made, "w", ZIP_STORED) as pack:
        for path in paths:
            with path.open("rb") as file, pack.open(ZipInfo(path.name, _FIXED_TIME), "w") as into:
                while block := file.read(1 << 20):
                    into.write(block)
