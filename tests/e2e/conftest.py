"""A running Harnet, web and worker, with the demo's data; and Debian's Chromium to drive it."""

import fcntl
import hashlib
import os
import re
import shutil
import socket
import subprocess
import sys
import time
import urllib.request
from collections.abc import Iterator
from contextlib import ExitStack, contextmanager
from pathlib import Path

import psycopg
import pytest
from playwright.sync_api import Locator, Page, expect

from harnet.demo.__main__ import load_demo
from harnet.store.database import migrate
from harnet.studio.common.settings import Settings
from tests.support.databases import drop_database, filled_database, new_database

ROOT = Path(__file__).resolve().parents[2]
AXE = ROOT / "node_modules" / "axe-core" / "axe.min.js"
KEPT_PICTURES = ROOT / "var" / "test demo pictures"
"""The generated pictures are kept between runs, like the demo's own."""

expect.set_options(timeout=45_000)
"""Time only for what never comes: a machine that others use as well may be slow."""


@pytest.fixture(scope="session")
def browser_type_launch_args():
    return {
        "executable_path": "/usr/bin/chromium-headless-shell",
        "args": [
            "--no-sandbox",
            "--disable-gpu",
            "--disable-background-networking",
            "--disable-component-update",
            "--disable-sync",
            "--no-first-run",
        ],
    }


@pytest.fixture(scope="session")
def browser_context_args(live):
    return {"viewport": {"width": 1280, "height": 800}, "base_url": live.address}


class Live:
    """The running application."""

    def __init__(self, address: str, settings: Settings) -> None:
        self.address = address
        self.settings = settings
        self.shelf = settings.shelves_folder / "Tarnholm shelf"


@pytest.fixture(scope="session")
def filled(tmp_path_factory):
    """The address of a database with the demo's data, and the settings that go with it.

    Tests run side by side: the first process loads the demo, the others copy what it has loaded.
    """
    scratch = tmp_path_factory.getbasetemp()
    if "PYTEST_XDIST_WORKER" in os.environ:
        scratch = scratch.parent
    original, copy = scratch / "demo", tmp_path_factory.mktemp("studio") / "demo"
    template = f"harnet_demo_{hashlib.sha256(bytes(scratch)).hexdigest()[:12]}"

    def load(url: str) -> None:
        migrate(url)
        with alone(KEPT_PICTURES.with_suffix(".lock")):
            load_demo(Settings(url, original / "data"), KEPT_PICTURES)

    with ExitStack() as stack:
        with alone(scratch / "demo.lock"):
            if not original.exists():
                drop_database(template)
            filled_database(template, load)
            shutil.copytree(original, copy)
            url = stack.enter_context(new_database("e2e", template))
        with psycopg.connect(url.replace("+psycopg", "")) as link:
            moved = "update shelf set folder = replace(folder, %s, %s)"
            link.execute(moved, (str(original), str(copy)))
        yield Settings(url, copy / "data")
    with alone(scratch / "demo.lock"):
        drop_database(template)


@contextmanager
def alone(path: Path) -> Iterator[None]:
    """Keeps the processes of the tests apart; what the file holds says nothing."""
    path.parent.mkdir(parents=True, exist_ok=True)
    with path.open("w") as lock:
        fcntl.flock(lock, fcntl.LOCK_EX)
        yield


@pytest.fixture(scope="session")
def live(filled):
    with served(filled) as address:
        yield Live(address, filled)


@contextmanager
def served(settings: Settings) -> Iterator[str]:
    """Web and worker on a studio, as processes of their own: the address, once it answers."""
    with socket.socket() as probe:
        probe.bind(("127.0.0.1", 0))
        port = probe.getsockname()[1]
    env = os.environ | {
        "HARNET_DATABASE": settings.database_url,
        "HARNET_DATA": str(settings.data_folder),
    }
    web = [Path(sys.executable).with_name("gunicorn"), "--threads", "8", "--no-control-socket"]
    processes = [
        subprocess.Popen(
            [*web, "--log-level", "warning", "--bind", f"127.0.0.1:{port}", "harnet.web.serve:app"],
            env=env,
        ),
        subprocess.Popen([sys.executable, "-m", "harnet.worker.main"], env=env),
    ]
    address = f"http://127.0.0.1:{port}"
    for _ in range(200):
        try:
            urllib.request.urlopen(f"{address}/health/live", timeout=5).close()
            break
        except OSError:
            time.sleep(0.1)
    yield address
    for process in processes:
        process.terminate()
    for process in processes:
        process.wait(20)


_EXPECTED = re.compile(r"status of 4|Error Code 4|htmx:(afterRequest|sendAbort)")
"""What is no fault: refusals, and requests that a newer one replaces while they run."""


@pytest.fixture
def page(page: Page):
    """A page that fails its test when the browser reports an error of its own."""
    failures = []
    page.set_default_timeout(90_000)
    page.on("pageerror", lambda error: failures.append(str(error)))
    page.on(
        "console",
        lambda message: (
            failures.append(message.text)
            if message.type == "error" and not _EXPECTED.search(message.text)
            else None
        ),
    )
    yield page
    assert failures == []


def follow(locator) -> None:
    """Clicks what leads to another page and waits until that page's scripts are at work."""
    with locator.page.expect_navigation(wait_until="load"):
        locator.click()


@contextmanager
def answer_shown(page: Page, address: str) -> Iterator[None]:
    """Does what asks for an address, given in part, and waits until the page shows the answer.

    The answer's arrival is too soon: the parts that it replaces are still on the page then.
    """
    page.evaluate(
        """(address) => {
            window.answerShown = new Promise((done, fail) => {
                setTimeout(() => fail(new Error(`no answer from ${address}`)), 90000);
                document.addEventListener("htmx:afterRequest", ({ detail }) => {
                    if (detail.successful && detail.pathInfo.finalRequestPath.includes(address)) {
                        done();
                    }
                });
            });
        }""",
        address,
    )
    yield
    page.evaluate("window.answerShown")


def job_address(page: Page, title: str) -> str:
    """The address of a job's Pages view, found by its title however many jobs there are."""
    follow(found(page, "Jobs", title))
    expect(page.locator("#canvas")).to_be_visible()
    return page.url.split("?")[0]


def open_document(page: Page, name: str) -> None:
    """Opens a checked document: the first that came with the name, however many came since."""
    follow(found(page, "Documents", name).last)
    expect(page.locator(".document-rows")).to_be_visible()


def found(page: Page, kind: str, text: str) -> Locator:
    """The links to what has a text in its name, looked for as a person does."""
    page.goto("/jobs")
    page.get_by_label("Find jobs, pictures, documents").fill(text)
    with page.expect_navigation(wait_until="load"):
        page.keyboard.press("Enter")
    return page.get_by_role("region", name=kind).get_by_role("link", name=text)


def drag(page: Page, start: tuple[float, float], by: tuple[float, float], steps: int = 8) -> None:
    """A real pointer: down, several moves, up."""
    x, y = start
    page.mouse.move(x, y)
    page.mouse.down()
    page.mouse.move(x + by[0], y + by[1], steps=steps)
    measured(page)
    with answer_shown(page, "/gesture"):
        page.mouse.up()


def measured(page: Page) -> None:
    """Waits until the figures on the page are those of where the hand is."""
    expect(page.locator("#canvas")).to_have_attribute("aria-busy", "false")


def text_of(page: Page):
    """The field of the selected text frame's text."""
    return page.locator("textarea[name=text]")


def text_form(page: Page):
    """The form that it belongs to; the card has another one for the frame's place and size."""
    return page.locator("form", has=text_of(page))


def middle(locator) -> tuple[float, float]:
    box = locator.bounding_box()
    return box["x"] + box["width"] / 2, box["y"] + box["height"] / 2


def paste_picture(page: Page, path: Path) -> None:
    """A picture from the clipboard, as a screenshot tool leaves it there."""
    page.evaluate(
        """(data) => {
            const transfer = new DataTransfer();
            const bytes = new Uint8Array(data);
            transfer.items.add(new File([bytes], "image.png", { type: "image/png" }));
            document.dispatchEvent(
                new ClipboardEvent("paste", { clipboardData: transfer, bubbles: true }),
            );
        }""",
        list(path.read_bytes()),
    )


def to_place(page, name):
    """A picture of the list of those to place, found by its name however many came since."""
    search = page.get_by_label("Search pictures by name")
    if search.input_value() != name:
        with answer_shown(page, "/pages/pictures"):
            search.fill(name)
    return page.locator(".place", has_text=name).first


def place(page, name):
    """Places a picture of the list on the page shown, and waits for its card."""
    entry = to_place(page, name)
    with answer_shown(page, "/place"):
        entry.click()
    expect(page.locator(".card-title h2")).to_have_text(name)


def field(page, name):
    """A field of the card of a placed picture."""
    return page.locator(f".figures input[name={name}]")


def serious_faults(page: Page) -> list[str]:
    """What a checker of accessibility finds on the page shown that is serious or worse."""
    page.add_script_tag(content=AXE.read_text())
    faults: list[str] = page.evaluate(
        """async () => (await axe.run({ resultTypes: ["violations"] })).violations
            .filter((one) => ["serious", "critical"].includes(one.impact))
            .map((one) => one.id + one.nodes.map((node) => " | " + node.html.slice(0, 160)))"""
    )
    return faults
