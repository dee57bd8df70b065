"""How what is held follows the hand in a browser, near its server and far: `script/bench hand`."""

import contextlib
import math
import os
import socket
import statistics
import subprocess
import sys
import tempfile
import time
import urllib.request
from pathlib import Path

from grown import empty_studio
from playwright.sync_api import sync_playwright

from harnet.demo.many import lay_out_many
from harnet.standins.studio import open_studio
from harnet.studio.jobs.jobs import NewJob, make_job
from harnet.studio.pictures.importing import import_picture
from harnet.studio.pictures.shelves import shelf_named

HARNET = Path(sys.executable).parent / "harnet"
CLUSTER = "var/bench-postgres"
LATENCIES_MS = (0, 40, 120, 300)
CHROMIUM = ("/usr/bin/chromium-headless-shell", "/usr/bin/chromium")
STEPS = 60
GOAL_PX, GOAL_FRAMES = 1.5, 50
_FRAMES = """() => { window.shown = 0; const note = () => { window.shown += 1;
  requestAnimationFrame(note); }; requestAnimationFrame(note); }"""
_BOX = """() => new Promise((done) => requestAnimationFrame(() => {
  const box = document.querySelector('.item.selected path.frame').getBoundingClientRect();
  done([box.left, box.top]); }))"""


def hand(told, image) -> None:
    """Distance of a frame from the hand at four latencies; frames a second on full pages."""
    with empty_studio(CLUSTER) as settings:
        studio = open_studio(settings)
        pages = [_page(studio, count, image) for _, count in _PAGES]
        with served(settings) as base, sync_playwright() as playwright:
            found = next(one for one in CHROMIUM if Path(one).exists())
            browser = playwright.chromium.launch(executable_path=found, args=["--no-sandbox"])
            for latency in LATENCIES_MS:
                off = _distance(browser, f"{base}{pages[0]}", latency)
                told(f"frame from the hand, network of {latency} ms", off, "px", GOAL_PX)
            for path, (quality, count) in zip(pages, _PAGES, strict=True):
                frames = _frames(browser, f"{base}{path}", quality)
                what = f"frames a second, {count} placements in {quality}"
                told(what, frames, "a second", GOAL_FRAMES)
            browser.close()


_PAGES = (("exact", 40), ("light", 200))


def _page(studio, count, image) -> str:
    """The address of a page with so many pictures on it."""
    with tempfile.TemporaryDirectory() as folder, studio.session() as session:
        path = Path(folder) / "quay.jpg"
        image.save(path, quality=90, dpi=(300, 300))
        with path.open("rb") as file:
            shelf = shelf_named(studio, session, "Quay")
            picture = import_picture(studio, session, shelf, path.name, file)
        job = make_job(session, NewJob.measured("Catalogue", 210, 297))
        lay_out_many(session, job.id, [picture], count)
        return f"/jobs/{job.id}/pages"


@contextlib.contextmanager
def served(settings):
    """The address of a studio that is served."""
    with socket.socket() as probe:
        probe.bind(("127.0.0.1", 0))
        port = probe.getsockname()[1]
    env = os.environ | {
        "HARNET_DATABASE": settings.database_url,
        "HARNET_DATA": str(settings.data_folder),
        "HARNET_LOG": "warning",
    }
    with subprocess.Popen([HARNET, "serve", "--port", str(port)], env=env) as process:
        try:
            base = f"http://127.0.0.1:{port}"
            while True:
                try:
                    urllib.request.urlopen(f"{base}/health/live").close()
                    break
                except OSError:
                    time.sleep(0.2)
            yield base
        finally:
            process.terminate()


def _opened(browser, address, quality="light"):
    page = browser.new_context(viewport={"width": 1280, "height": 800}).new_page()
    page.goto(address)
    page.get_by_role("button", name="Preview:").click()
    # The answer has the page loaded once more.
    with page.expect_navigation(wait_until="load"):
        page.locator(f'[hx-vals=\'{{"quality": "{quality}"}}\']').click()
    page.goto(address)
    page.locator(".item.picture path.frame").first.wait_for()
    box = page.locator(".item.picture path.frame").first.bounding_box()
    middle = (box["x"] + box["width"] / 2, box["y"] + box["height"] / 2)
    page.mouse.click(*middle)
    page.locator(".item.selected .outline").first.wait_for()
    # What is to be drawn in full arrives after the page.
    page.wait_for_load_state("networkidle")
    return page, middle


def _distance(browser, address, latency_ms) -> float:
    """Mean distance of the frame from where the hand took it, free of snapping, in pixels."""
    page, (x, y) = _opened(browser, address)
    network = page.context.new_cdp_session(page)
    network.send("Network.enable")
    whole = {"offline": False, "downloadThroughput": -1, "uploadThroughput": -1}
    network.send("Network.emulateNetworkConditions", {**whole, "latency": latency_ms})
    before = page.evaluate(_BOX)
    page.keyboard.down("Alt")
    page.mouse.move(x, y)
    page.mouse.down()
    off = []
    for step in range(3, STEPS):
        dx, dy = 2.3 * step, 120 * math.sin(step / 20)
        page.mouse.move(x + dx, y + dy)
        left, top = page.evaluate(_BOX)
        off.append(math.hypot(left - before[0] - dx, top - before[1] - dy))
    page.mouse.up()
    page.context.close()
    return statistics.mean(off)


def _frames(browser, address, quality) -> float:
    """Frames of the screen a second while a picture is dragged for three seconds."""
    page, (x, y) = _opened(browser, address, quality)
    page.mouse.move(x, y)
    page.mouse.down()
    page.mouse.move(x + 5, y + 5)
    page.evaluate(_FRAMES)
    begun = time.perf_counter()
    step = 0
    while time.perf_counter() - begun < 3:
        step += 1
        page.mouse.move(x + 150 * math.sin(step / 40), y + 2 * (step % 100))
    shown, spent = page.evaluate("() => window.shown"), time.perf_counter() - begun
    page.mouse.up()
    page.context.close()
    return shown / spent
