"""Two machines over one database and one bucket: a designer's path while each of them is killed."""

import json
import os
import signal
import socket
import subprocess
import threading
from pathlib import Path

import pikepdf
import pytest
from PIL import Image
from playwright.sync_api import expect

from tests.e2e.conftest import follow, place
from tests.support.databases import new_database
from tests.support.pictures import photo

ROOT = Path(__file__).resolve().parents[2]
LONG = 180_000
VICTIMS = ("web one", "web two", "worker one", "worker two")


class Cluster:
    """What script/cluster started, and what it said last."""

    def __init__(self, process):
        self.process, self.said = process, None
        self._news = threading.Condition()
        threading.Thread(target=self._listen, daemon=True).start()

    def _listen(self):
        for line in self.process.stdout:
            with self._news:
                self.said = json.loads(line)
                self._news.notify_all()

    def waits_for(self, is_so):
        """What was said last, once it is so."""
        with self._news:
            assert self._news.wait_for(lambda: self.said is not None and is_so(self.said), 120)
            return self.said

    def kill(self, name):
        """Ends a process at once, with all that belongs to it; its number."""
        number = self.said["processes"][name]
        os.killpg(number, signal.SIGKILL)
        return number


@pytest.fixture
def cluster(browser_type_launch_args):
    with new_database("cluster") as url, socket.socket() as probe:
        probe.bind(("127.0.0.1", 0))
        port = probe.getsockname()[1]
        probe.close()
        process = subprocess.Popen(
            [ROOT / ".venv" / "bin" / "python", ROOT / "script" / "cluster", str(port)],
            env=os.environ | {"HARNET_CLUSTER_DATABASE": url},
            stdout=subprocess.PIPE,
            text=True,
        )
        try:
            found = Cluster(process)
            found.waits_for(lambda _said: True)
            yield found
        finally:
            process.terminate()
            process.wait(60)


def test_a_designers_path_whichever_is_killed(cluster, browser, tmp_path):
    said = cluster.said
    context = browser.new_context(
        viewport={"width": 1280, "height": 800}, base_url=said["address"], accept_downloads=True
    )
    page = context.new_page()
    page.set_default_timeout(90_000)
    page.goto("/sign-in")
    page.get_by_label("Name").fill(said["name"])
    page.get_by_label("Password").fill(said["password"])
    follow(page.get_by_role("button", name="Sign in"))
    # The first password was made by whoever started the cluster.
    page.get_by_label("Current password").fill(said["password"])
    page.get_by_label("New password, 12 characters or more").fill("nine lamps under the stair")
    page.get_by_label("New password again").fill("nine lamps under the stair")
    follow(page.get_by_role("button", name="Change password"))
    # What others put into a bucket becomes a shelf, whichever machine looks there.
    page.goto("/pictures")
    page.get_by_role("button", name="Shelves").click()
    page.get_by_label("Watch a folder").fill("s3://harnet/handed-in")
    page.get_by_role("button", name="Watch folder").click()
    expect(page.locator(".tile", has_text="flags at the quay.jpg")).to_be_visible(timeout=LONG)
    for seed, victim in enumerate(VICTIMS, 1):
        number = cluster.kill(victim)
        goes_the_path(page, tmp_path, seed)
        # Only one is away at a time: it answers again before the next is killed.
        back = cluster.waits_for(lambda said, v=victim, n=number: said["processes"][v] != n)
        assert back["processes"][victim] != number
    context.close()


def goes_the_path(page, folder, seed):
    """A picture is uploaded, placed and exported; what comes out holds its pixels."""
    name = f"quay {seed}.jpg"
    pixels = Image.fromarray(photo(1200, 800, seed=seed))
    pixels.save(folder / name, dpi=(300, 300), quality=95)
    page.goto("/pictures")
    page.locator("#files").set_input_files(folder / name)
    expect(page.locator(".upload-sum")).to_have_text("1 added", timeout=LONG)
    page.goto("/jobs/new")
    page.get_by_label("Title").fill(f"Quay flyer {seed}")
    page.get_by_role("button", name="A5", exact=True).click()
    follow(page.get_by_role("button", name="Create job"))
    place(page, name)
    follow(page.get_by_role("link", name="Output"))
    page.get_by_text("Keep every pixel").click()
    page.get_by_role("button", name="Export PDF").click()
    made = page.locator(".made[data-state=done]")
    expect(made).to_contain_text("1 of 1 pictures as promised", timeout=LONG)
    with page.expect_download() as download:
        made.get_by_role("link", name="Download").click()
    download.value.save_as(folder / f"{seed}.pdf")
    with pikepdf.open(folder / f"{seed}.pdf") as pdf:
        [image] = pdf.pages[0].get_images().values()
        assert (image.Width, image.Height) == (1200, 800)
