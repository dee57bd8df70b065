"""Outputs: page images on all cores, and what they cost the hand: `script/bench outputs`."""

import os
import pickle
import statistics
import subprocess
import sys
import tempfile
import time
from concurrent.futures import ThreadPoolExecutor
from dataclasses import replace
from datetime import UTC, datetime
from pathlib import Path

from bench_jobs import first_item, job_of, shelf_of
from grown import empty_studio

from harnet.core.output.page_images import ImageSettings
from harnet.media.pagedrawing.plan import PagesToDraw
from harnet.media.pdf.writing.write import write_pdf
from harnet.standins.studio import open_studio
from harnet.studio.output.bounded_rendering import RenderRequest, make_apart
from harnet.web.app import create_app
from harnet.worker.main import GIVES_WAY_BY

CLUSTER = "var/bench-postgres"
PAGES = 100
GOAL_RATIO, GOAL_SLOWER = 0.3, 2.0
ROUNDS = 60
_BUSY = """
import os, pickle, sys, tempfile
from pathlib import Path
os.nice(int(sys.argv[2]))
from harnet.studio.output.bounded_rendering import make_apart
request = pickle.loads(Path(sys.argv[1]).read_bytes())
while True:
    with tempfile.TemporaryDirectory() as folder:
        make_apart(request, Path(folder))
"""


def outputs(told, told_figure, plan, jpegs) -> None:
    """Page images against a general tool, then the time of `measure` beside two outputs."""
    plans = tuple(
        replace(plan(path, number), width_pt=595, height_pt=842)
        for number, path in enumerate(jpegs[:PAGES], 1)
    )
    document = PagesToDraw("Bench", plans, datetime(2026, 1, 1, tzinfo=UTC))
    request = RenderRequest(document, ImageSettings(density_ppi=300))
    with tempfile.TemporaryDirectory() as name:
        folder = Path(name)
        start = time.perf_counter()
        with tempfile.TemporaryDirectory() as made:
            make_apart(request, Path(made))
        ours = time.perf_counter() - start
        write_pdf(plans, "Bench", folder / "all.pdf")
        hands = len(os.sched_getaffinity(0))
        start = time.perf_counter()
        with ThreadPoolExecutor(hands) as pool:
            list(pool.map(lambda hand: _drawn_by_the_tool(folder, hand, hands), range(hands)))
        theirs = time.perf_counter() - start
        told(f"{PAGES} pages as PNG at 300 ppi", ours, "pdftoppm", theirs, GOAL_RATIO)
        order = folder / "order"
        order.write_bytes(pickle.dumps(request))
        _measure_beside(told_figure, order, jpegs)


def _drawn_by_the_tool(folder, hand, hands):
    first, last = hand * PAGES // hands + 1, (hand + 1) * PAGES // hands
    command = ["pdftoppm", "-r", "300", "-png", "-f", str(first), "-l", str(last)]
    subprocess.run([*command, folder / "all.pdf", folder / f"page-{hand}"], check=True)


def _measure_beside(told, order, jpegs):
    with empty_studio(CLUSTER) as settings:
        studio = open_studio(settings)
        with studio.session() as session:
            job = job_of(session, 5, shelf_of(session, jpegs[:20]))
        with studio.session() as session:
            item = first_item(session, job)
        client = create_app(settings).test_client()
        path = f"/jobs/{job}/pages/measure?items={item}:1&kind=move&dx=3&dy=4&px_pt=1&snap=yes"
        alone = _median_ms(client, path)
        command = [sys.executable, "-c", _BUSY, str(order), str(GIVES_WAY_BY)]
        busy = [subprocess.Popen(command) for _ in range(2)]
        try:
            time.sleep(5)
            beside = _median_ms(client, path)
        finally:
            for one in busy:
                one.terminate()
                one.wait()
        told("measure beside two outputs, against alone", beside / alone, "times", GOAL_SLOWER)
        studio.engine.dispose()


def _median_ms(client, path):
    client.get(path)
    times = []
    for _ in range(ROUNDS):
        start = time.perf_counter()
        assert client.get(path).status_code == 200
        times.append((time.perf_counter() - start) * 1000)
        # As questions come while a hand moves.
        time.sleep(0.03)
    return statistics.median(times)
