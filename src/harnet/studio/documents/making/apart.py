"""Work on an untrusted PDF in a process of its own, once the file proved to say that it is one."""

from collections.abc import Callable
from pathlib import Path
from typing import Any

from harnet.media.bounded import Order, work_apart
from harnet.media.facts.bounded_reading import require_file
from harnet.media.pdf.opening.signature import require_pdf

_SECONDS, _MEMORY_BYTES = 6 * 3600, 6_000_000_000


def pdf_apart(
    module: str,
    path: Path,
    name: str,
    order: Order,
    tell: Callable[[int, int], None] | None = None,
    look_up: Callable[[], None] | None = None,
) -> dict[str, Any]:
    """Runs a module's `work` on a PDF and returns its answer; `tell` hears how much is done.

    Whatever `tell` or `look_up` raises ends the work.

    Raises:
        UnreadableFile: the PDF cannot be read.
    """
    require_file(path, name)
    require_pdf(path, name)
    return work_apart(
        module,
        {"path": str(path), "name": name} | order,
        name=name,
        seconds=_SECONDS,
        memory_bytes=_MEMORY_BYTES,
        tell=(lambda told: tell(*told)) if tell is not None else None,
        look_up=look_up,
    )
