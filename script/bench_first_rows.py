"""A long document in a browser: from its upload to the first rows: `script/bench long`."""

import contextlib
import os
import statistics
import subprocess
import sys
import time
from pathlib import Path

from bench_hand import CHROMIUM, served
from grown import empty_studio
from playwright.sync_api import sync_playwright

CLUSTER = "var/bench-postgres"
GOAL_ROWS_S, GOAL_WHOLE_S = 1.0, 15.0
_WHOLE = "5\u00a0000 pages, 20\u00a0000 images"


def first_rows(told, path: Path) -> None:
    """Seconds from the choice of a file to its first rows, and to its last page."""
    with (
        empty_studio(CLUSTER) as settings,
        _working(settings),
        served(settings) as base,
        sync_playwright() as playwright,
    ):
        found = next(one for one in CHROMIUM if Path(one).exists())
        browser = playwright.chromium.launch(executable_path=found, args=["--no-sandbox"])
        page = browser.new_context(viewport={"width": 1280, "height": 800}).new_page()
        rows, whole = [], []
        for _ in range(3):
            page.goto(f"{base}/documents")
            page.locator("#files").wait_for(state="attached")
            begun = time.perf_counter()
            page.set_input_files("#files", path)
            page.get_by_role("link", name="is being read; see it").click()
            page.locator(".document-rows tbody tr").first.wait_for()
            rows.append(time.perf_counter() - begun)
            page.get_by_text(_WHOLE).first.wait_for(timeout=120_000)
            whole.append(time.perf_counter() - begun)
        told("the same, first rows in a browser", statistics.median(rows), "s", GOAL_ROWS_S)
        told("the same, all rows in a browser", statistics.median(whole), "s", GOAL_WHOLE_S)
        browser.close()


@contextlib.contextmanager
def _working(settings):
    env = os.environ | {
        "HARNET_DATABASE": settings.database_url,
        "HARNET_DATA": str(settings.data_folder),
        "HARNET_LOG": "warning",
    }
    with subprocess.Popen([sys.executable, "-m", "harnet.worker.main"], env=env) as process:
        try:
            yield
        finally:
            process.terminate()
