"""Outputs made in a process of their own: untrusted pixels are never decoded by the worker."""

import os
import pickle
from collections.abc import Callable
from concurrent.futures.process import BrokenProcessPool
from dataclasses import dataclass
from pathlib import Path
from typing import Any

from harnet.core.errors import ValueOutOfRange
from harnet.core.output.page_images import ImageSettings
from harnet.core.output.pdf_settings import PdfSettings
from harnet.media.bounded import Order, Tell, work_apart
from harnet.media.errors import TooLarge, UnreadableFile
from harnet.media.pagedrawing.plan import PagesToDraw
from harnet.studio.output.rendering import make_images, make_pdf

_SECONDS, _MEMORY_BYTES = 6 * 3600, 12_000_000_000
"""Address space, to which mapped files count; what is really used stays under 600 MB."""
_REFUSALS: dict[str, type[Exception]] = {"too large": TooLarge, "out of range": ValueOutOfRange}
Progress = Callable[[int, int], None]


@dataclass(frozen=True, slots=True)
class RenderRequest:
    """What is to be made: a PDF by PDF settings, page images by image settings."""

    document: PagesToDraw
    settings: PdfSettings | ImageSettings
    profile: Path | None = None


@dataclass(frozen=True, slots=True)
class RenderResult:
    """The files that were made, in page order, and their receipt."""

    paths: tuple[Path, ...]
    receipt: dict[str, Any]


def make_apart(
    making: RenderRequest,
    folder: Path,
    progress: Progress = lambda done, total: None,
    look_up: Callable[[], None] | None = None,
) -> RenderResult:
    """Makes the files in `folder`, which must be empty, and reads them back.

    Whatever `progress` and `look_up` raise ends the work; `look_up` is called twice a second.

    Raises:
        UnreadableFile: a picture's file cannot be read any longer.
        TooLarge: no quality keeps an image under its limit of bytes.
        ValueOutOfRange: pages that the document does not have.
    """
    order = folder / "order"
    order.write_bytes(pickle.dumps(making))
    answer = work_apart(
        "harnet.studio.output.bounded_rendering",
        {"order": str(order), "folder": str(folder)},
        name=making.document.title,
        seconds=_SECONDS,
        memory_bytes=_MEMORY_BYTES,
        tell=lambda steps: progress(*steps),
        look_up=look_up,
    )
    order.unlink()
    for kind, error in _REFUSALS.items():
        if kind in answer:
            raise error(answer[kind])
    return RenderResult(tuple(folder / name for name in answer["files"]), answer["receipt"])


def work(order: Order, tell: Tell) -> Order:
    """What happens in the process: see `harnet.media.bounded`.

    Raises:
        UnreadableFile: a picture's file cannot be read any longer.
    """
    # Written by the process that began this one, of its own values.
    making: RenderRequest = pickle.loads(Path(order["order"]).read_bytes())
    folder = Path(order["folder"])
    document, settings = making.document, making.settings

    def progress(done: int, total: int) -> None:
        tell([done, total])

    try:
        if isinstance(settings, PdfSettings):
            paths = [folder / "made.pdf"]
            receipt = make_pdf(document, settings, paths[0], progress, making.profile)
        else:
            hands = len(os.sched_getaffinity(0))
            profile = making.profile
            paths, receipt = make_images(document, settings, folder, progress, profile, hands)
    except BrokenProcessPool:
        raise UnreadableFile(
            document.title, "its content made the decoder crash", "Look for damaged pictures in it"
        ) from None
    except TooLarge as error:
        return {"too large": str(error)}
    except ValueOutOfRange as error:
        return {"out of range": str(error)}
    return {"files": [path.name for path in paths], "receipt": receipt}
