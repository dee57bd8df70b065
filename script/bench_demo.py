"""The demo's views as they come: their time on the server, and the first look in a browser.

`script/bench demo`. A browser with an empty cache behind 10 Mbit/s and 40 ms, as Chromium emulates
them: when a page can be used, what its scripts and styles weigh, how much of it moved as it came.
"""

import re
import statistics
import time
from functools import partial
from pathlib import Path

from bench_hand import CHROMIUM, served
from bench_views import time_view
from grown import empty_studio
from playwright.sync_api import sync_playwright

from harnet.demo.__main__ import load_demo
from harnet.web.app import create_app

ROOT = Path(__file__).resolve().parents[1]
CLUSTER = "var/bench-postgres"
GOAL_MS, GOAL_MEASURE_MS = 120, 20
NETWORK = {
    "offline": False,
    "latency": 40,
    "downloadThroughput": 10e6 / 8,
    "uploadThroughput": 10e6 / 8,
}
GOAL_USABLE_S, GOAL_KB, GOAL_SHIFT = 1.5, 150, 0.0
_SHIFTS = """() => { window.shift = 0; new PerformanceObserver((list) => {
  for (const one of list.getEntries()) window.shift += one.value;
}).observe({ type: "layout-shift", buffered: true }); }"""


def demo(told_view, told_page) -> None:
    """Tells of each view the time that 95 of 100 answers stay below, then of the first looks."""
    with empty_studio(CLUSTER) as settings:
        load_demo(settings, ROOT / "var" / "bench demo pictures")
        client = create_app(settings).test_client()
        paths = _paths(client)
        for name, path in paths.items():
            goal = GOAL_MEASURE_MS if name == "measure" else GOAL_MS
            time_view(told_view, client, f"demo: {name}", path, goal)
        with served(settings) as base, sync_playwright() as playwright:
            found = next(one for one in CHROMIUM if Path(one).exists())
            browser = playwright.chromium.launch(executable_path=found, args=["--no-sandbox"])
            for name in ("jobs", "a page", "pictures", "a document"):
                _first_look(browser, base + paths[name], name, told_page)
            browser.close()


def _paths(client):
    jobs = client.get("/jobs").text
    job = re.search(r'<a class="job-row"\s+href="(/jobs/\d+)/pages"', jobs)[1]
    page = client.get(f"{job}/pages?page=4").text
    item = page.partition('data-item="')[2].partition('"')[0]
    document = re.search(r'href="(/documents/\d+)"', client.get("/documents").text)[1]
    measure = f"{job}/pages/measure?items={item}:1&kind=move&dx=3&dy=4&px_pt=1&snap=yes&page=4"
    return {
        "jobs": "/jobs",
        "a page": f"{job}/pages?page=4",
        "a page, one selected": f"{job}/pages?page=4&select={item}",
        "measure": measure,
        "ledger": f"{job}/ledger",
        "preflight": f"{job}/preflight",
        "output": f"{job}/output",
        "page images": f"{job}/output?kind=image",
        "settings": f"{job}/settings",
        "pick by fit": f"{job}/matches/{item}",
        "pictures": "/pictures",
        "a picture": "/pictures/1",
        "documents": "/documents",
        "a document": document,
        "its report": f"{document}/report",
        "improve": f"{document}/improve",
        "targets": "/targets",
        "find anything": "/find?text=gull",
        "activity": "/activity",
        "running": "/running",
        "guide": "/guide",
    }


def _note(kept, name, event):
    kept[event["requestId"]] = event[name]


def _first_look(browser, address, name, told) -> None:
    usable, weights, shifts = [], [], []
    for _ in range(3):
        context = browser.new_context(viewport={"width": 1280, "height": 800})
        page, sizes, kinds = context.new_page(), {}, {}
        network = context.new_cdp_session(page)
        network.send("Network.enable")
        network.send("Network.emulateNetworkConditions", NETWORK)
        network.on("Network.responseReceived", partial(_note, kinds, "type"))
        network.on("Network.loadingFinished", partial(_note, sizes, "encodedDataLength"))
        page.add_init_script(f"({_SHIFTS})()")
        start = time.perf_counter()
        # Scripts that are deferred have run by then: buttons, keys and the pointer are at work.
        page.goto(address, wait_until="domcontentloaded")
        usable.append(time.perf_counter() - start)
        page.wait_for_load_state("networkidle")
        counted = [key for key, kind in kinds.items() if kind in ("Script", "Stylesheet")]
        weights.append(sum(sizes.get(key, 0) for key in counted) / 1000)
        shifts.append(page.evaluate("window.shift"))
        context.close()
    told(f"first look at {name}: usable", statistics.median(usable), "s", GOAL_USABLE_S)
    told(f"first look at {name}: scripts and styles", max(weights), "kB", GOAL_KB)
    told(f"first look at {name}: moved as it came", max(shifts), "of the view", GOAL_SHIFT)
