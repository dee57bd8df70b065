"""What each view takes in a large studio, answered by one process: `script/bench views`."""

import gc
import statistics
import time

import brotli
from grown import STRIDE, add_documents, empty_studio, fill
from reportlab.lib.utils import ImageReader
from reportlab.pdfgen.canvas import Canvas

from harnet.standins.studio import open_studio
from harnet.web.app import create_app

CLUSTER = "var/bench-postgres"
JOBS, PAGES, PER_PAGE, PICTURES, DOCUMENTS = 1_000, 1, 5, 10_000, 500
"""5 000 placements in all."""
REQUESTS = 20
GOAL_MS, GOAL_MEASURE_MS = 200, 20


def views(told, image) -> None:
    """Prints the time that 95 of 100 answers stay below, and their size compressed."""
    with empty_studio(CLUSTER) as settings:
        studio = open_studio(settings)
        job = fill(studio, JOBS, PAGES, PER_PAGE, PICTURES) + JOBS // 2 * STRIDE
        leaflet = _document(settings.data_folder, image)
        document = add_documents(studio, leaflet, DOCUMENTS)
        studio.engine.dispose()
        client = create_app(settings).test_client()
        for name, path, goal in _asked(client, job, document):
            time_view(told, client, name, path, goal)


def _document(folder, image):
    path = folder / "leaflet.pdf"
    canvas = Canvas(str(path))
    for _ in range(4):
        for index in range(5):
            canvas.drawImage(ImageReader(image), 20, 20 + 150 * index, 240, 140)
        canvas.showPage()
    canvas.save()
    return path


def _asked(client, job, document):
    of_job = f"/jobs/{job}"
    page = client.get(f"{of_job}/pages").text
    item = page.partition('data-item="')[2].partition('"')[0]
    return (
        ("jobs", "/jobs", GOAL_MS),
        ("a page", f"{of_job}/pages", GOAL_MS),
        ("a page, one selected", f"{of_job}/pages?select={item}", GOAL_MS),
        (
            "measure while the hand moves",
            f"{of_job}/pages/measure?items={item}:1&kind=move&dx=3&dy=4&px_pt=1&snap=yes",
            GOAL_MEASURE_MS,
        ),
        ("ledger", f"{of_job}/ledger", GOAL_MS),
        ("preflight", f"{of_job}/preflight", GOAL_MS),
        ("output", f"{of_job}/output", GOAL_MS),
        ("settings of a job", f"{of_job}/settings", GOAL_MS),
        ("pictures", "/pictures", GOAL_MS),
        ("pictures by a name", "/pictures?text=quay+17", GOAL_MS),
        ("a picture", "/pictures/17", GOAL_MS),
        ("documents", "/documents", GOAL_MS),
        ("a document", f"/documents/{document}", GOAL_MS),
        ("report on a document", f"/documents/{document}/report", GOAL_MS),
        ("targets", "/targets", GOAL_MS),
        ("find anything", "/find?text=quay+17", GOAL_MS),
        ("activity", "/activity", GOAL_MS),
        ("running", "/running", GOAL_MS),
    )


def time_view(told, client, name, path, goal):
    """Tells the time that 95 of 100 answers stay below, and what one weighs compressed."""
    answer = client.get(path)
    # What the benchmark itself has made is not for the collector to go through in a request.
    gc.collect()
    gc.freeze()
    times = []
    for _ in range(REQUESTS):
        start = time.perf_counter()
        client.get(path)
        times.append((time.perf_counter() - start) * 1000)
    slowest = statistics.quantiles(times, n=20)[-1]
    size_kb = len(brotli.compress(answer.data, quality=4)) / 1000
    told(name, answer.status_code, slowest, goal, size_kb)
