"""Work on an untrusted document in a process of its own; its content says by which module."""

from collections.abc import Callable
from pathlib import Path
from typing import Any

from harnet.media.beginning import require_file
from harnet.media.bounded import Order, work_apart
from harnet.media.packages.signature import FileKind, document_kind

_SECONDS, _MEMORY_BYTES = 6 * 3600, 6_000_000_000


PDF_MODULES = {
    "extracting": "harnet.media.pdf.extracting.process",
    "matching": "harnet.media.pdf.improving.matching",
    "copying": "harnet.media.pdf.improving.copying",
    "proving": "harnet.media.pdf.improving.proving",
}
_PACKAGE_MODULES = "harnet.media.packages.making."


def document_apart(task: str, path: Path, name: str, *rest: Any) -> dict[str, Any]:
    """Does one of the tasks of `PDF_MODULES` on a document of any format; see `module_apart`.

    Raises:
        UnreadableFile: the document cannot be read.
    """
    require_file(path, name)
    is_pdf = document_kind(path, name) is FileKind.PDF
    return module_apart(PDF_MODULES[task] if is_pdf else _PACKAGE_MODULES + task, path, name, *rest)


def module_apart(
    module: str,
    path: Path,
    name: str,
    order: Order,
    tell: Callable[[int, int], None] | None = None,
    look_up: Callable[[], None] | None = None,
) -> dict[str, Any]:
    """Runs a module's `work` on a document and returns its answer; `tell` hears how much is done.

    Whatever `tell` or `look_up` raises ends the work.

    Raises:
        UnreadableFile: the document cannot be read.
    """
    require_file(path, name)
    return work_apart(
        module,
        {"path": str(path), "name": name} | order,
        name=name,
        seconds=_SECONDS,
        memory_bytes=_MEMORY_BYTES,
        tell=(lambda told: tell(*told)) if tell is not None else None,
        look_up=look_up,
    )
