"""Figures and findings kept beside placements: always right, and touched only where needed."""

import io
from dataclasses import replace
from html.parser import HTMLParser
from random import Random

import pytest
from sqlalchemy import event, select

from harnet.core.layout.placing import Placement
from harnet.core.ledger.lines import LineFilter
from harnet.core.measure.geometry import Box
from harnet.core.measure.verdict import Verdict
from harnet.core.targets.severity import Severity
from harnet.core.targets.target import own_target
from harnet.store.history import redo, undo
from harnet.store.tables.jobs import Item, Page
from harnet.store.tables.preflight import FindingRow, Judgement
from harnet.studio.common.errors import NotThere, Refused
from harnet.studio.jobs.jobs import job_with, set_target, target_of
from harnet.studio.jobs.pages import (
    add_page,
    copy_page,
    move_pages,
    remove_page,
    set_facing,
    set_page_size,
)
from harnet.studio.judging.judging import judge_job, settle
from harnet.studio.layout.arranging import add_item, restack, set_style
from harnet.studio.layout.crossing import apply_gesture
from harnet.studio.layout.gestures import Gesture
from harnet.studio.layout.placed import TEXT, placement_of, write_placement
from harnet.studio.layout.placing import place_picture, remove_items
from harnet.studio.ledger.lines import LedgerLines
from harnet.studio.output.outputs import ask_for_pdf
from harnet.studio.pictures.picture import path_of, picture_with
from harnet.studio.preflight import report as report_module
from harnet.studio.preflight.checking import accept, counts_of, findings_in, scope_of, withdraw
from harnet.studio.preflight.fixing import (
    cover_frame,
    fit_text_frame,
    pull_to_bleed,
    set_printing_font,
    shrink_frame,
)
from harnet.studio.preflight.gate import gate_settings, passed_of
from harnet.studio.preflight.report import report_as_json, report_of
from harnet.studio.preflight.report_html import report_as_html
from harnet.studio.preflight.report_pdf import report_as_pdf
from tests.support.jobs import found_in, placed_in


@pytest.fixture
def laid(studio, new_job, on_shelf, make_picture):
    """A job of three pages, a picture on each of the first two, inside one transaction."""
    job_id = new_job(pages=3, bleed_mm=3)
    first = on_shelf(make_picture("slipway.jpg", 900, 600, dpi=(300, 300)))
    second = on_shelf(make_picture("gull.png", 300, 200, seed=5))
    with studio.session() as session:
        job = job_with(session, job_id)
        items = [
            place_picture(session, job, job.pages[0], picture_with(session, first)),
            place_picture(session, job, job.pages[1], picture_with(session, second)),
        ]
        settle(session)
        yield session, job, items


def kept(session, job):
    """Everything that is kept of a job's checks."""
    session.flush()
    settle(session)
    rows = []
    for model in (Judgement, FindingRow):
        columns = [column for column in model.__table__.columns if column.key != "id"]
        found = session.execute(select(*columns).where(model.job_id == job.id))
        rows.append(sorted(str(row) for row in found))
    return rows


class TestSettling:
    def test_what_is_kept_equals_judging_everything_anew(self, laid):
        session, job, items = laid
        apply_gesture(
            session, job, [items[0]], Gesture(kind="size", dx_pt=90, dy_pt=60, handle="se")
        )
        add_item(session, job, job.pages[2], "text", Box(10, 10, 30, 12))
        set_target(session, job, "office")
        undo(session, job)
        remove_items(session, job, [items[1]])
        undo(session, job)
        redo(session, job)
        before = kept(session, job)
        judge_job(session, job)
        assert kept(session, job) == before

    def test_an_edit_judges_what_it_changed_and_what_lies_there(self, laid):
        session, job, items = laid
        page, judged = items[0].page, []
        apart = place_picture(session, job, page, items[1].picture, (60, 60))
        over = place_picture(session, job, page, items[1].picture, (200, 300))
        kept(session, job)

        @event.listens_for(session.get_bind(), "before_cursor_execute")
        def note(_conn, _cursor, statement, parameters, *_):
            if statement.startswith("DELETE FROM judgement"):
                judged.append(set(parameters.values()))

        apply_gesture(session, job, [items[0]], Gesture(kind="move", dx_pt=9, dy_pt=9))
        settle(session)
        settle(session)
        event.remove(session.get_bind(), "before_cursor_execute", note)
        assert judged == [{items[0].id, over.id}]
        assert apart.id not in judged[0]

    @pytest.mark.parametrize("seed", range(6))
    def test_judging_item_by_item_equals_judging_everything_anew(self, laid, seed):
        session, job, items = laid
        page, chance = items[0].page, Random(seed)
        crowd = [items[0]]
        for _ in range(7):
            crowd.append(place_picture(session, job, page, chance.choice(items).picture))
        crowd.append(add_item(session, job, page, "rectangle", Box(40, 40, 300, 300)))
        crowd.append(add_item(session, job, page, "frame", Box(20, 20, 80, 80)))
        kept(session, job)
        for _ in range(12):
            item = chance.choice(crowd)
            if chance.random() < 0.3:
                restack(session, job, [item], chance.choice(["front", "back"]))
            else:
                kind = chance.choice(["move", "turn", "size"])
                dx, dy = chance.uniform(-150, 150), chance.uniform(-150, 150)
                gesture = Gesture(kind=kind, dx_pt=dx, dy_pt=dy, handle="se")
                apply_gesture(session, job, [item], gesture)
            if chance.random() < 0.3:
                undo(session, job)
            settle(session)
        before, tally = kept(session, job), counts_of(job)
        judge_job(session, job)
        assert kept(session, job) == before
        assert counts_of(job) == tally

    def test_pages_that_only_move_on_are_not_judged_again(self, laid):
        session, job, items = laid
        judged = []

        @event.listens_for(session.get_bind(), "before_cursor_execute")
        def note(_conn, _cursor, statement, parameters, *_):
            if statement.startswith("DELETE FROM judgement"):
                judged.append(set(parameters.values()))

        number = add_page(session, job, 1)
        settle(session)
        event.remove(session.get_bind(), "before_cursor_execute", note)
        assert judged == [{job.pages[number - 1].id}]
        assert items[1].page.position == 2
        before = kept(session, job)
        judge_job(session, job)
        assert kept(session, job) == before

    @pytest.mark.parametrize("seed", range(4))
    def test_pages_of_a_book_are_judged_wherever_they_come_to_lie(self, laid, seed):
        session, job, items = laid
        set_facing(session, job, True, 0)
        chance = Random(seed)
        for page in list(job.pages):
            for x in (-40, job.width_pt - 50):
                place_picture(
                    session, job, page, items[1].picture, (x + 30, chance.uniform(60, 500))
                )
        kept(session, job)
        for _ in range(10):
            count = len(job.pages)
            number = chance.randint(1, count)
            step = chance.choice(["add", "copy", "move", "remove", "size", "undo"])
            if step == "add":
                add_page(session, job, number)
            elif step == "copy":
                copy_page(session, job, number)
            elif step == "move":
                move_pages(session, job, [number], chance.randint(1, count))
            elif step == "remove" and count > 1:
                remove_page(session, job, number)
            elif step == "size":
                set_page_size(session, job, number, chance.uniform(380, 460), 595)
            else:
                undo(session, job)
            session.expire_all()
            before, tally = kept(session, job), counts_of(job)
            judge_job(session, job)
            assert (kept(session, job), counts_of(job)) == (before, tally), step

    def test_undo_brings_figures_back(self, laid):
        session, job, items = laid
        before = kept(session, job)
        apply_gesture(
            session, job, [items[0]], Gesture(kind="size", dx_pt=90, dy_pt=60, handle="se")
        )
        assert kept(session, job) != before
        undo(session, job)
        assert kept(session, job) == before

    def test_the_tally_of_pages_is_the_count_of_rows(self, laid):
        session, job, _ = laid
        counts = counts_of(job)
        assert counts.verdicts == {**dict.fromkeys(Verdict, 0), Verdict.FULL: 1, Verdict.COARSE: 1}
        assert counts.open_findings == len(found_in(session, job))
        assert counts.blocking == 1

    def test_a_page_that_moves_takes_its_findings_along(self, laid):
        session, job, items = laid
        page = session.get(Page, items[1].page_id)
        other = session.get(Page, items[0].page_id)
        page.position, other.position = 0, 1
        settle(session)
        session.expire(job, ["pages"])
        by_item = {one.row.item_id: one.page_number for one in findings_in(session, job)}
        assert by_item[items[1].id] == 1

    def test_a_file_that_goes_and_comes_back(self, laid):
        session, job, items = laid
        path = path_of(items[0].picture)
        data = path.read_bytes()
        path.unlink()
        assert "file-missing" in [row.rule_id for row in found_in(session, job)]
        assert counts_of(job).missing == 1
        path.write_bytes(data)
        assert "file-missing" not in [row.rule_id for row in found_in(session, job)]
        path.write_bytes(data + b"more")
        assert "file-changed" in [row.rule_id for row in found_in(session, job)]
        # Back to the same bytes: noticed when everything is checked again.
        path.write_bytes(data)
        judge_job(session, job, is_thorough=True)
        assert "file-changed" not in [row.rule_id for row in found_in(session, job)]

    def test_hidden_by_what_lies_above_and_seen_again(self, laid):
        session, job, items = laid
        box = placement_of(items[0]).frame
        cover = add_item(session, job, job.pages[0], "rectangle", box)
        assert "hidden-picture" in [row.rule_id for row in found_in(session, job)]
        restack(session, job, [cover], "back")
        assert "hidden-picture" not in [row.rule_id for row in found_in(session, job)]
        restack(session, job, [cover], "front")
        assert "hidden-picture" in [row.rule_id for row in found_in(session, job)]
        # Nothing that was changed lies where the picture is any more.
        apply_gesture(session, job, [cover], Gesture(kind="move", dx_pt=900, dy_pt=900))
        assert "hidden-picture" not in [row.rule_id for row in found_in(session, job)]
        undo(session, job)
        remove_items(session, job, [cover])
        assert "hidden-picture" not in [row.rule_id for row in found_in(session, job)]


class TestWhatIf:
    @pytest.mark.parametrize("ppi", [40, 150, 299.5, 1200])
    def test_trying_a_target_equals_really_changing_it(self, laid, ppi):
        session, job, _ = laid
        by_page = LineFilter(sort="page")
        lines = LedgerLines(session, job, own_target(ppi, target_of(job)))
        tried, counts = lines.shown(by_page), lines.counts()
        set_target(session, job, "own", ppi)
        settle(session)
        really = LedgerLines(session, job).shown(by_page)
        assert [(one.verdict, one.headroom) for one in tried] == [
            (one.verdict, one.headroom) for one in really
        ]
        assert counts.verdicts == counts_of(job).verdicts

    def test_filters_and_orders(self, laid):
        session, job, _items = laid
        lines = LedgerLines(session, job)

        def names(**wanted):
            return [one.name for one in lines.shown(LineFilter(**wanted))]

        assert names() == ["gull.png", "slipway.jpg"]
        assert names(sort="name", is_reversed=True) == ["slipway.jpg", "gull.png"]
        assert names(verdict="full") == ["slipway.jpg"]
        assert names(page=2) == ["gull.png"]
        assert names(text="SLIP") == ["slipway.jpg"]
        assert names(from_ppi=60, to_ppi=100) == ["gull.png"]
        assert names(colour="cmyk") == [] and names(kind="picture") == names()


class TestAccepting:
    def test_it_passes_until_the_figures_get_worse(self, laid):
        session, job, items = laid
        gull = items[1].id
        accept(session, job, gull, "density-below-floor", " A stopgap. ", "I. Varga")
        settle(session)
        assert counts_of(job).blocking == 0 and counts_of(job).accepted == 1
        (listed,) = findings_in(session, job, are_accepted=True)
        assert (listed.acceptance.reason, listed.acceptance.name) == ("A stopgap.", "I. Varga")
        # Larger on the page: fewer ppi.
        placement = placement_of(items[1])
        apply_gesture(
            session,
            job,
            [items[1]],
            Gesture(kind="width", dx_pt=placement.frame.width * 1.2, dy_pt=0),
        )
        settle(session)
        assert counts_of(job).blocking == 1 and counts_of(job).accepted == 0
        listed = next(one for one in findings_in(session, job) if one.row.item_id == gull)
        assert listed.acceptance is not None and not listed.is_accepted
        undo(session, job)
        settle(session)
        assert counts_of(job).blocking == 0
        withdraw(session, job, gull, "density-below-floor")
        settle(session)
        assert counts_of(job).blocking == 1
        undo(session, job)
        settle(session)
        assert counts_of(job).accepted == 1

    @pytest.mark.parametrize("reason, name", [("", "I. Varga"), ("  ", "I. Varga"), ("Fine", "")])
    def test_it_needs_a_reason_and_a_name(self, laid, reason, name):
        session, job, items = laid
        with pytest.raises(Refused):
            accept(session, job, items[1].id, "density-below-floor", reason, name)
        with pytest.raises(NotThere):
            withdraw(session, job, items[1].id, "density-below-floor")


class TestGate:
    def test_held_until_a_reason_is_given_and_kept(self, laid):
        session, job, _ = laid
        with pytest.raises(Refused, match="1 finding blocks"):
            ask_for_pdf(session, job)
        output = ask_for_pdf(session, job, "The client knows.", "I. Varga")
        assert output.settings["passed_gate"]["findings"] == [
            "page 2, gull.png: 72 ppi, 228 short of 300"
        ]
        (passed,) = passed_of(session, job)
        assert (passed.reason, passed.name) == ("The client knows.", "I. Varga")

    def test_open_once_what_blocked_is_accepted(self, laid):
        session, job, items = laid
        accept(session, job, items[1].id, "density-below-floor", "A stopgap.", "I. Varga")
        assert gate_settings(session, job) == {}
        assert "passed_gate" not in ask_for_pdf(session, job).settings


class TestFixes:
    def test_a_text_frame_becomes_as_tall_as_its_text(self, laid):
        session, job, _ = laid
        item = add_item(session, job, job.pages[2], "text", Box(10, 10, 80, 12))
        set_style(session, job, item, {}, "Boats leave the town quay at every full hour.")
        assert "text-overflow" in [row.rule_id for row in found_in(session, job)]
        fit_text_frame(session, job, item)
        assert "text-overflow" not in [row.rule_id for row in found_in(session, job)]
        assert (item.y_pt, item.width_pt) == (10, 80)
        with pytest.raises(Refused, match="already fits"):
            fit_text_frame(session, job, item)

    def test_a_picture_is_pulled_to_the_bleed(self, laid):
        session, job, items = laid
        placement = placement_of(items[0])
        moved = Box(0, 50, placement.frame.width, placement.frame.height)
        with_edge = Placement(source=placement.source, frame=moved, content=placement.content)
        write_placement(items[0], with_edge)
        assert "bleed-not-reached" in [row.rule_id for row in found_in(session, job)]
        pull_to_bleed(session, job, items[0])
        assert "bleed-not-reached" not in [row.rule_id for row in found_in(session, job)]
        after = placement_of(items[0])
        assert after.frame.x == pytest.approx(-job.bleed_pt)
        assert after.frame.x + after.frame.width == pytest.approx(moved.width)
        assert not after.is_uneven
        with pytest.raises(Refused, match="already reaches the bleed"):
            pull_to_bleed(session, job, items[0])


def test_the_report_says_everything_in_every_form(studio, laid):
    session, job, items = laid
    accept(session, job, items[1].id, "rights-unknown", "Ours.", "I. Varga")
    report = report_of(session, job)
    values = report_as_json(report)
    assert values["gate"] == "held" and values["checked"]["pictures"] == 2
    assert next(one["rule"] for one in values["findings"]) == "density-below-floor"
    assert values["accepted"][0]["reason"] == "Ours."
    assert scope_of(session, job).pages == 3
    by_name = {one["name"]: one for one in values["pictures"]}
    for placed in placed_in(session, job):
        assert by_name[placed.name]["ppi_x"] == pytest.approx(placed.figures.density.x, abs=1e-3)
    pdf = report_as_pdf(studio, report)
    assert pdf.startswith(b"%PDF") and len(io.BytesIO(pdf).getvalue()) > 2000
    assert report.counts.findings[Severity.BLOCKING] == 1
    assert session.get(Item, items[0].id) is not None
    page = Tags(report_as_html(studio, report))
    assert not page.addresses, "a file that needs nothing beside it"
    assert all(one.row.headline in page.text for one in (*report.findings, *report.accepted))
    assert all(placed.name in page.text for placed in report.placed)
    assert "I. Varga" in page.text and "Ours." in page.text and "Gate held" in page.text


class Tags(HTMLParser):
    """What a page says, and what it would fetch."""

    def __init__(self, page):
        super().__init__()
        self.addresses, self.text = [], ""
        self.feed(page)

    def handle_starttag(self, tag, attrs):
        asked = [value for name, value in attrs if name in ("src", "href")]
        self.addresses += [one for one in asked if not one.startswith("data:")]

    def handle_data(self, data):
        self.text += data


def test_a_long_report_is_read_part_by_part(laid, monkeypatch):
    session, job, items = laid
    monkeypatch.setattr(report_module, "A_PART", 2)
    whole = report_of(session, job)
    said = [one.row.id for one in whole.findings]
    parts = [report_of(session, job, number) for number in range(1, whole.parts + 1)]
    assert len(said) > 2 and [one.row.id for part in parts for one in part.findings] == said
    for part in parts:
        about = {one.row.item_id for one in part.findings}
        assert {one.item.id for one in part.placed} == about & {item.id for item in items}
        for item_id, placed in part.placed_by_item.items():
            assert placed.figures == whole.placed_by_item[item_id].figures
    with pytest.raises(NotThere, match="no longer has that part"):
        report_of(session, job, whole.parts + 1)


class TestTextThatCannotBePrinted:
    def test_it_blocks_until_the_font_is_changed(self, studio, new_job):
        job_id = new_job()
        with studio.session() as session:
            job = job_with(session, job_id)
            item = add_item(session, job, job.pages[0], TEXT, Box(20, 20, 200, 60))
            set_style(session, job, item, {"font": "slab-400"}, "Фонарь, Φανάρι")
            [row] = [one for one in found_in(session, job) if one.rule_id == "glyph-missing"]
            assert row.severity_rank == 0 and "“Φ”" in row.headline
            set_printing_font(session, job, item)
            assert item.style["font"] == "sans-400"
            assert [one for one in found_in(session, job) if one.rule_id == "glyph-missing"] == []
            undo(session, job)
            assert session.get(Item, item.id).style["font"] == "slab-400"


class TestFramesLeftEmpty:
    @pytest.fixture
    def loose(self, laid):
        """A picture in a frame a fifth wider and higher than it."""
        session, job, items = laid
        item = items[0]
        placement = placement_of(item)
        frame = placement.frame
        wider = Box(frame.x, frame.y, frame.width * 1.25, frame.height)
        write_placement(item, replace(placement, frame=wider))
        session.flush()
        return session, job, item

    def unfilled(self, session, job):
        return [one for one in found_in(session, job) if one.rule_id == "frame-not-filled"]

    def test_it_is_found_with_the_share_that_is_empty(self, loose):
        session, job, _ = loose
        [row] = self.unfilled(session, job)
        # arithmetic: 1.25 times as wide, a fifth is empty
        assert "20 % of its frame empty" in row.headline.replace("\u00a0", " ")

    def test_the_picture_covers_the_frame_after_one_edit(self, loose):
        session, job, item = loose
        cover_frame(session, job, item)
        assert self.unfilled(session, job) == []
        with pytest.raises(Refused, match="covers its frame"):
            cover_frame(session, job, item)

    def test_the_frame_is_cut_down_and_the_picture_stays(self, loose):
        session, job, item = loose
        before = placement_of(item)
        shrink_frame(session, job, item)
        after = placement_of(item)
        assert self.unfilled(session, job) == []
        assert after.matrix.as_tuple() == pytest.approx(before.matrix.as_tuple())
        assert after.frame.width == pytest.approx(before.frame.width / 1.25)
