"""What the hand holds is where the hand is, however long the way to the server."""

import math
import re
from contextlib import contextmanager
from statistics import mean

import pytest
from playwright.sync_api import expect

from tests.e2e.conftest import answer_shown, follow, measured, middle, place

LATENCIES_MS = (0, 40, 120, 300)
NEAR_PX = 1.5
STEPS = 24


@pytest.fixture
def flyer(page):
    page.goto("/jobs/new")
    page.get_by_label("Title").fill("At a distance")
    page.get_by_role("button", name="A5", exact=True).click()
    follow(page.get_by_role("button", name="Create job"))
    place(page, "fog-signal.jpg")


@contextmanager
def far_away(page, latency_ms):
    """The server is that far away; emulated by the browser."""
    network = page.context.new_cdp_session(page)
    network.send("Network.enable")
    whole = {"offline": False, "downloadThroughput": -1, "uploadThroughput": -1}
    network.send("Network.emulateNetworkConditions", {**whole, "latency": latency_ms})
    yield
    network.send("Network.emulateNetworkConditions", {**whole, "latency": 0})


def edges(page, what):
    """Left, top, right and bottom of what is drawn, in the next frame of the screen."""
    return page.evaluate(
        """(what) => new Promise((done) => requestAnimationFrame(() => {
          const box = document.querySelector(what).getBoundingClientRect();
          done([box.left, box.top, box.right, box.bottom]);
        }))""",
        what,
    )


FRAME, PIXELS = ".item.selected path.frame", ".item.selected image.seen"


@contextmanager
def pulled(page, start, to, what):
    """Yields what lies where at each step of the hand, with the way it went until then."""
    before = edges(page, what)
    page.mouse.move(*start)
    page.mouse.down()
    seen = []
    for step in range(1, STEPS + 1):
        dx, dy = to[0] * step / STEPS, to[1] * step / STEPS
        page.mouse.move(start[0] + dx, start[1] + dy)
        seen.append(((dx, dy), [a - b for a, b in zip(edges(page, what), before, strict=True)]))
    # The first pixels decide whether it is a press.
    yield [one for one in seen if math.hypot(*one[0]) > 4]
    measured(page)
    with answer_shown(page, "/gesture"):
        page.mouse.up()


def handle(page, name):
    return middle(page.locator(f".item.selected [data-handle={name}]"))


@pytest.mark.parametrize("latency_ms", LATENCIES_MS)
def test_frame_picture_and_edges_follow(page, flyer, latency_ms):
    with far_away(page, latency_ms):
        page.keyboard.down("Alt")
        for what, way in ((FRAME, (37, 53)), (PIXELS, (-37, -53))):
            with pulled(page, middle(page.locator(FRAME)), way, what) as seen:
                off = [math.hypot(by[0] - x, by[1] - y) for (x, y), by in seen]
                assert mean(off) < NEAR_PX, off
        with pulled(page, handle(page, "e"), (-60, 11), FRAME) as seen:
            assert mean(abs(by[2] - x) for (x, _), by in seen) < NEAR_PX
            assert max(abs(by[0]) + abs(by[1]) + abs(by[3]) for _, by in seen) < NEAR_PX
        page.keyboard.up("Alt")
        # The picture moves inside its frame, which stays.
        page.locator("#pan").click()
        with pulled(page, middle(page.locator(FRAME)), (31, -22), PIXELS) as seen:
            off = [math.hypot(by[0] - x, by[1] - y) for (x, y), by in seen]
            assert mean(off) < NEAR_PX, off


@pytest.mark.parametrize("latency_ms", [0, 300])
def test_a_corner_scales_and_a_turn_turns(page, flyer, latency_ms):
    with far_away(page, latency_ms):
        page.keyboard.down("Alt")
        before = edges(page, FRAME)
        width, height = before[2] - before[0], before[3] - before[1]
        # Along its diagonal, the corner is where the hand is.
        with pulled(page, handle(page, "se"), (-90, -90 * height / width), FRAME) as seen:
            off = [math.hypot(by[2] - x, by[3] - y) for (x, y), by in seen]
            assert mean(off) < NEAR_PX, off
        page.keyboard.up("Alt")
        centre = middle(page.locator(FRAME))
        start = handle(page, "turn")
        arm = centre[1] - start[1]
        page.mouse.move(*start)
        page.mouse.down()
        off = []
        for degrees in range(6, 60, 3):
            angle = math.radians(degrees)
            hand = (centre[0] + arm * math.sin(angle), centre[1] - arm * math.cos(angle))
            page.mouse.move(*hand)
            box = edges(page, ".item.selected .handle.turn")
            off.append(math.hypot((box[0] + box[2]) / 2 - hand[0], (box[1] + box[3]) / 2 - hand[1]))
        assert mean(off) < NEAR_PX, off
        measured(page)
        with answer_shown(page, "/gesture"):
            page.mouse.up()


def test_handles_stay_at_their_frame_while_the_view_is_zoomed(page, flyer):
    """The answers of the server are far away: what is drawn is where the page itself put it."""

    def corners_off():
        frame = edges(page, FRAME)
        found = {"nw": frame[:2], "se": frame[2:], "ne": (frame[2], frame[1])}
        return [math.dist(handle(page, name), corner) for name, corner in found.items()]

    with far_away(page, 2000):
        page.keyboard.down("Alt")
        x, y = handle(page, "se")
        page.mouse.move(x, y)
        page.mouse.down()
        for step in range(1, 7):
            page.mouse.move(x - 15 * step, y - 10 * step)
        assert max(corners_off()) < NEAR_PX
        width = edges(page, FRAME)[2] - edges(page, FRAME)[0]
        page.keyboard.down("Control")
        page.mouse.wheel(0, -60)
        page.keyboard.up("Control")
        page.wait_for_function(
            "([what, width]) => document.querySelector(what).getBoundingClientRect().width > width",
            arg=[FRAME, 1.1 * width],
        )
        assert max(corners_off()) < NEAR_PX
        page.mouse.move(x - 60, y - 40)
        assert max(corners_off()) < NEAR_PX
    measured(page)
    with answer_shown(page, "/gesture"):
        page.mouse.up()
    page.keyboard.up("Alt")
    assert max(corners_off()) < NEAR_PX


def test_letting_go_jumps_no_farther_than_things_snap(page, flyer):
    """Beside the middle of the page, which the frame snaps to within 6 px."""
    with far_away(page, 120):
        for by in ((9, 14), (-5, 3), (4, -2), (-3, -7)):
            start = middle(page.locator(".item.picture"))
            with pulled(page, start, by, FRAME):
                shown = edges(page, FRAME)
            after = edges(page, FRAME)
            jump = max(abs(a - b) for a, b in zip(shown, after, strict=True))
            assert jump <= 6.5, jump


def test_given_up_everything_stands_where_it_stood(page, flyer):
    before = edges(page, FRAME)
    page.locator("#deselect").click()
    expect(page.locator(".item.selected")).to_have_count(0)
    with far_away(page, 300):
        x, y = middle(page.locator(".item.picture"))
        page.mouse.move(x, y)
        page.mouse.down()
        page.mouse.move(x + 44, y + 30, steps=6)
        # No answer has come yet, and the page knows how it stands without one.
        page.keyboard.press("Escape")
        there = edges(page, ".item.picture path.frame")
        page.mouse.up()
    assert max(abs(a - b) for a, b in zip(there, before, strict=True)) < 0.5


def test_a_second_pull_begins_where_the_first_one_ended(page, flyer):
    """Before the first one is answered."""
    with far_away(page, 300):
        page.keyboard.down("Alt")
        before = edges(page, FRAME)
        x, y = middle(page.locator(".item.picture"))
        for _ in range(2):
            page.mouse.move(x, y)
            page.mouse.down()
            page.mouse.move(x + 20, y + 10, steps=5)
            there = edges(page, FRAME)
            page.mouse.up()
            x, y = x + 20, y + 10
        assert there[0] - before[0] == pytest.approx(40, abs=NEAR_PX)
        page.keyboard.up("Alt")
        measured(page)
    expect(page.locator(".history .dropdown-item")).to_have_count(4)
    after = edges(page, FRAME)
    assert after[0] - before[0] == pytest.approx(40, abs=NEAR_PX)


def test_the_marker_of_the_reach_bar_is_where_the_hand_is(page, flyer):
    bar = page.locator(".reach-bar").bounding_box()
    with far_away(page, 300):
        y = bar["y"] + bar["height"] / 2
        page.mouse.move(bar["x"] + 60, y)
        page.mouse.down()
        off = []
        for step in range(1, 13):
            x = bar["x"] + 60 + 6 * step
            page.mouse.move(x, y)
            box = edges(page, ".reach-bar .now-mark path")
            off.append(abs((box[0] + box[2]) / 2 - x))
        assert mean(off) < NEAR_PX, off
        measured(page)
        with answer_shown(page, "/gesture"):
            page.mouse.up()


def test_the_flag_of_the_ruler_is_where_the_hand_is(page, flyer):
    follow(page.get_by_role("link", name="Ledger"))
    with far_away(page, 120):
        start = middle(page.locator("#flag rect").nth(1))
        at_rest = edges(page, "#flag")
        page.mouse.move(*start)
        page.mouse.down()
        off = []
        for step in range(1, 31):
            page.mouse.move(start[0] - 6 * step, start[1] + 2)
            off.append(abs(edges(page, "#flag")[0] - at_rest[0] + 6 * step))
        assert mean(off) < NEAR_PX, off
        page.mouse.up()
    expect(page.locator(".tried")).to_contain_text("Trying")


@pytest.mark.parametrize("latency_ms", [0, 300])
def test_a_crop_is_drawn_to_where_the_hand_is(page, latency_ms):
    page.goto("/pictures?words=harbour-morning")
    follow(page.locator(".tile[data-name='harbour-morning.jpg']").first)
    page.get_by_label("Change the pixels").check()
    follow(page.get_by_role("link", name="Set up this copy"))
    with far_away(page, latency_ms):
        box = page.locator(".crop-area").bounding_box()
        start = (box["x"] + 20, box["y"] + 30)
        page.mouse.move(*start)
        page.mouse.down()
        off = []
        for step in range(1, STEPS + 1):
            hand = (start[0] + 5 * step, start[1] + 3 * step)
            page.mouse.move(*hand)
            drawn = edges(page, ".crop-area rect")
            off.append(math.hypot(drawn[2] - hand[0], drawn[3] - hand[1]))
        assert mean(off) < NEAR_PX, off
        with answer_shown(page, "/copy/form"):
            page.mouse.up()


@pytest.mark.parametrize("latency_ms", [0, 300])
def test_the_wipe_is_where_the_hand_is(page, latency_ms):
    numbers = []
    for name in ("fog-signal.jpg", "harbour-morning.jpg"):
        page.goto(f"/pictures?words={name}")
        follow(page.locator(f".tile[data-name='{name}']").first)
        numbers.append(page.url.partition("/pictures/")[2].partition("?")[0])
    page.goto("/compare?one={}&other={}".format(*numbers))
    expect(page.locator(".looks")).to_have_attribute("aria-busy", "false")
    page.get_by_role("button", name="wipe").click()
    seen = page.locator("canvas").nth(1)
    with far_away(page, latency_ms):
        whole = seen.bounding_box()
        x, y = middle(page.get_by_label("Wipe position"))
        page.mouse.move(x, y)
        page.mouse.down()
        off = []
        for step in range(-STEPS, STEPS + 1):
            hand = x + step * (whole["width"] - 2) / (2 * STEPS)
            page.mouse.move(hand, y)
            inset = seen.evaluate("c => c.style.clipPath")
            share = float(re.search(r"([\d.]+)%", inset)[1]) / 100 if "%" in inset else 0.0
            off.append(abs(whole["x"] + share * whole["width"] - hand))
        assert mean(off) < NEAR_PX, off
        page.mouse.up()
