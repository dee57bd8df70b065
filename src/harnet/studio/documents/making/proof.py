"""The proof of an improved copy, of many pages in several processes side by side."""

from collections.abc import Callable
from concurrent.futures import ThreadPoolExecutor
from os import sched_getaffinity
from pathlib import Path
from threading import Lock
from typing import Any

from harnet.media.bounded import Order
from harnet.media.pixels.registration.drawn import poorer
from harnet.studio.documents.making.apart import document_apart

_BY = "proving"
_LEAST_PAGES = 8
"""Fewer pages are drawn sooner than another process is started."""
_MOST_PROCESSES = 4


def proven(
    before: Path,
    name: str,
    order: Order,
    page_count: int,
    tell: Callable[[int, int], None],
    look_up: Callable[[], None] | None,
) -> dict[str, Any]:
    """What `harnet.media.pdf.improving.proving` answers of all pages.

    Whatever `tell` or `look_up` raises ends the proof; neither is called twice at once.

    Raises:
        UnreadableFile: one of the PDFs cannot be read.
    """
    processes = min(len(sched_getaffinity(0)), _MOST_PROCESSES, page_count // _LEAST_PAGES)
    if processes < 2:
        return document_apart(_BY, before, name, order, tell, look_up)
    edges = [page_count * one // processes for one in range(processes + 1)]
    done, lock = [0] * processes, Lock()

    def drawn(number: int) -> dict[str, Any]:
        def told(pages: int, _of: int) -> None:
            with lock:
                done[number] = pages
                tell(sum(done), page_count)

        def looked_up() -> None:
            with lock:
                if look_up is not None:
                    look_up()

        between = {"between": edges[number : number + 2]}
        return document_apart(_BY, before, name, order | between, told, looked_up)

    with ThreadPoolExecutor(processes) as pool:
        return _joined(list(pool.map(drawn, range(processes))))


def _joined(proofs: list[dict[str, Any]]) -> dict[str, Any]:
    """The proofs of stretches of pages as one: of images painted on several, the poorest."""
    drawn: dict[str, dict[str, Any]] = {}
    for proof in proofs:
        for key, values in proof["drawn"].items():
            drawn[key] = poorer(drawn.get(key), values)
    pages = [page for proof in proofs for page in proof["pages"]]
    return {**proofs[0], "pages": pages, "drawn": drawn}
