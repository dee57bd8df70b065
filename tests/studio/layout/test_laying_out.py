"""Arranging, links, spreads and jobs: each an edit that undo takes back, nothing ever lost."""

import io
import random
from dataclasses import replace

import numpy as np
import pikepdf
import pytest
from PIL import Image
from sqlalchemy import select

from harnet.core.errors import ValueOutOfRange
from harnet.core.layout.by_figures import FrameFigures
from harnet.core.layout.placing import Fit
from harnet.core.measure.geometry import Box, Matrix
from harnet.core.measure.units import Unit, to_points
from harnet.core.preflight.subject import FileState
from harnet.media.errors import UnreadableFile
from harnet.media.pdf.writing.write import write_pdf
from harnet.store.history import go_to, history_of, undo
from harnet.store.tables.jobs import Item, Job
from harnet.store.tables.pictures import Picture
from harnet.studio.common.errors import Refused
from harnet.studio.jobs.jobs import job_with
from harnet.studio.jobs.listing import JobStatus, duplicate_job, jobs_that_are, put
from harnet.studio.jobs.pages import copy_page, move_pages, set_page_size
from harnet.studio.judging.judging import catch_up
from harnet.studio.layout.arranging import (
    add_item,
    copies_on,
    flip,
    put_into_frame,
    restack,
    set_quality,
    set_shape,
    set_target_of,
)
from harnet.studio.layout.crossing import apply_gesture
from harnet.studio.layout.gestures import Gesture, gesture_result
from harnet.studio.layout.links import (
    carry,
    file_of,
    paste_picture,
    save_to_shelf,
    update_changed,
)
from harnet.studio.layout.placed import file_state_of, placement_of
from harnet.studio.layout.placing import place_picture, set_figures
from harnet.studio.output.task import plan_of
from harnet.studio.pictures.picture import path_of, picture_with
from harnet.studio.pictures.shelves import shelf_named
from harnet.studio.preflight.relinking import relink_all_in
from harnet.web.drawing.pages import DrawnPreview, drawn_of, spread_of
from tests.support.jobs import found_in, placed_in
from tests.support.pictures import photo


@pytest.fixture
def laid(studio, new_job, on_shelf, make_picture):
    """A job of three pages with two pictures on the first; the session, the job, the items."""
    one = on_shelf(make_picture("one.jpg", dpi=(150, 150)))
    two = on_shelf(make_picture("two.png", width=400, height=300, seed=2, dpi=(72, 72)))
    job_id = new_job(pages=3, is_facing=True)
    with studio.session() as session:
        job = job_with(session, job_id)
        for number in (one, two):
            place_picture(session, job, job.pages[0], picture_with(session, number), (200, 200))
        session.flush()
        yield session, job, list(job.pages[0].items)


def rows_of(job):
    """Every figure of every item, by page."""
    columns = [column.key for column in Item.__mapper__.column_attrs if column.key != "version"]
    return [
        [{name: getattr(item, name) for name in columns} for item in page.items]
        for page in job.pages
    ]


class TestArranging:
    def test_several_move_together_and_come_back(self, laid):
        session, job, items = laid
        before = rows_of(job)
        apply_gesture(session, job, items, Gesture(kind="move", dx_pt=30, dy_pt=-20))
        assert [item.x_pt for item in items] == [row["x_pt"] + 30 for row in before[0]]
        undo(session, job)
        assert rows_of(job) == before

    def test_stacking(self, laid):
        session, job, items = laid
        restack(session, job, [items[0]], "front")
        assert [item.id for item in job.pages[0].items] == [items[1].id, items[0].id]
        restack(session, job, [items[0]], "back")
        assert [item.id for item in job.pages[0].items] == [items[0].id, items[1].id]
        with pytest.raises(Refused, match="neither front nor back"):
            restack(session, job, items, "up")

    def test_copies_lie_aside_on_their_page_and_in_place_on_another(self, laid):
        session, job, items = laid
        (beside,) = copies_on(session, job, [items[0]], job.pages[0], "Duplicate")
        assert (beside.x_pt, beside.y_pt) == (items[0].x_pt + 14, items[0].y_pt + 14)
        there = copies_on(session, job, items, job.pages[2])
        assert [one.x_pt for one in there] == [one.x_pt for one in items]
        assert len(job.pages[2].items) == 2

    def test_mirrored_pictures(self, laid):
        session, job, items = laid
        flip(session, job, items, across=True)
        assert all(placement_of(item).matrix.determinant < 0 for item in items)

    def test_an_empty_frame_is_filled_and_swapped(self, laid):
        session, job, items = laid
        frame = add_item(session, job, job.pages[1], "frame", Box(10, 20, 144, 72))
        assert frame.picture is None and len(placed_in(session, job)) == 2
        put_into_frame(session, job, frame, items[0].picture, Fit.COVER)
        # arithmetic: 300 px over 144 pt; the frame is wider than the picture is tall
        assert placement_of(frame).density.x == pytest.approx(150)
        put_into_frame(session, job, frame, items[1].picture, Fit.COVER)
        assert (frame.x_pt, frame.width_pt) == (10, 144)
        assert placement_of(frame).density.x == pytest.approx(200)
        undo(session, job)
        undo(session, job)
        assert session.get(Item, frame.id).picture_id is None

    @pytest.mark.parametrize("kind", ["text", "rectangle", "line", "frame"])
    def test_what_is_too_small_or_unknown_is_refused(self, laid, kind):
        session, job, _ = laid
        with pytest.raises(Refused, match="too small"):
            add_item(session, job, job.pages[0], kind, Box(0, 0, 1, 50))
        with pytest.raises(Refused, match="not an item that a page can have"):
            add_item(session, job, job.pages[0], "balloon", Box(0, 0, 50, 50))

    def test_a_placement_and_a_page_may_have_targets_of_their_own(self, laid):
        session, job, items = laid

        def wanted():
            return [placed.figures.target.density_ppi for placed in placed_in(session, job)]

        set_target_of(session, job, job.pages[0], "slides")
        assert wanted() == [96, 96]
        set_target_of(session, job, items[0], "own", 40)
        assert wanted() == [40, 96]
        short = [one for one in found_in(session, job) if one.rule_id.startswith("density-below")]
        assert [one.item_id for one in short] == [items[1].id]
        set_target_of(session, job, job.pages[0], "")
        assert wanted() == [40, 300]
        with pytest.raises(Refused, match="between 1 and 10000"):
            set_target_of(session, job, items[0], "own", 0)

    def test_any_chain_of_edits_is_undone_to_the_same_values(self, laid):
        session, job, items = laid
        before, dice = rows_of(job), random.Random(7)
        steps = 0
        for _ in range(40):
            item = dice.choice(items)
            dx, dy = dice.uniform(-50, 50), dice.uniform(-50, 50)
            handle = dice.choice(["nw", "e", "s", "se"])
            act = dice.randrange(7)
            if act < 4:
                kind = ("move", "pan", "size", "turn")[act]
                apply_gesture(
                    session,
                    job,
                    [item],
                    Gesture(kind=kind, dx_pt=dx, dy_pt=dy, handle=handle, snap_pt=4.0),
                )
            elif act == 4:
                flip(session, job, [item], across=dx > 0)
            elif act == 5:
                set_shape(session, job, item, dice.choice(["ellipse", "rounded"]), abs(dx))
            else:
                box = FrameFigures.of_box(Box(dx, dy, 80 + dx, 90 + dy))
                figures = replace(box, density_ppi=200 + dx, rotation_deg=dy)
                set_figures(session, job, item, figures)
            session.flush()
        steps = len(history_of(session, job, 1000))
        after = rows_of(job)
        go_to(session, job, 0)
        placings = 2
        assert rows_of(job)[0] == [], "back to before the pictures were placed"
        first, second = sorted(edit.id for edit in history_of(session, job, 1000))[:placings]
        go_to(session, job, second)
        assert first < second and rows_of(job) == before
        newest = max(edit.id for edit in history_of(session, job, 1000))
        go_to(session, job, newest)
        assert rows_of(job) == after and steps > 20


def test_screen_and_paper_agree_on_every_corner(studio, laid, tmp_path):
    """To a hundredth of a point, however the pictures are turned, mirrored and cropped."""
    session, job, items = laid
    dice = random.Random(3)
    for _ in range(4):
        items += copies_on(session, job, [dice.choice(items)], job.pages[0])
    for item in items:
        apply_gesture(
            session, job, [item], Gesture(kind="move", dx_pt=dice.uniform(-90, 90), dy_pt=20)
        )
        apply_gesture(
            session, job, [item], Gesture(kind="turn", dx_pt=dice.uniform(0, 400), dy_pt=90)
        )
        apply_gesture(
            session,
            job,
            [item],
            Gesture(kind="size", dx_pt=40, dy_pt=dice.uniform(-20, 20), handle="se"),
        )
        apply_gesture(session, job, [item], Gesture(kind="pan", dx_pt=dice.uniform(-9, 9), dy_pt=5))
        flip(session, job, [item], across=dice.random() > 0.5)
    job = job_with(session, job.id)
    page = job.pages[0]
    write_pdf([plan_of(studio, job, page)], "t", tmp_path / "a.pdf")
    to_page = Matrix(1, 0, 0, -1, -job.bleed_pt, page.height_pt + job.bleed_pt)
    on_paper = []
    with pikepdf.open(tmp_path / "a.pdf") as pdf:
        for operands, operator in pikepdf.parse_content_stream(pdf.pages[0]):
            if str(operator) == "cm":
                matrix = Matrix(*[float(one) for one in operands]).then(to_page)
                # PDF draws on a unit square whose y grows upwards.
                corners = [(0, 1), (1, 1), (1, 0), (0, 0)]
                on_paper.append([matrix.applied(*corner) for corner in corners])
    on_screen = []
    for item in page.items:
        text = drawn_of(job, item, 1, DrawnPreview()).matrix
        matrix = Matrix(*map(float, text.removeprefix("matrix(").rstrip(")").split()))
        corners = [(0, 0), (1, 0), (1, 1), (0, 1)]
        on_screen.append([matrix.applied(*corner) for corner in corners])
    assert len(on_paper) == len(on_screen) == 6
    assert np.abs(np.asarray(on_paper) - np.asarray(on_screen)).max() < 0.01


class TestSnappingOnAPage:
    def test_to_the_page_and_to_neighbours(self, laid):
        _session, job, items = laid
        items[1].x_pt, items[1].y_pt = 330.0, 400.0
        placement = placement_of(items[0])
        to_edge = Gesture(kind="move", dx_pt=3 - placement.frame.x, dy_pt=40, snap_pt=5)
        result = gesture_result(job, [items[0]], to_edge)
        assert result.geometries[0][1].frame.x == pytest.approx(0)
        assert any(guide.is_vertical and guide.at == 0 for guide in result.guides)
        free = gesture_result(
            job, [items[0]], Gesture(kind="move", dx_pt=3 - placement.frame.x, dy_pt=40)
        )
        assert free.geometries[0][1].frame.x == pytest.approx(3) and free.guides == ()


class TestLinks:
    def test_carried_pictures_do_without_their_file(self, studio, laid):
        session, job, items = laid
        item = items[0]
        carry(studio, session, job, item)
        path_of(item.picture).unlink()
        assert file_state_of(item) is FileState.CARRIED
        assert file_of(studio, item).read_bytes()
        assert all(f.rule_id != "file-missing" for f in found_in(session, job))
        with pytest.raises(Refused, match="carried already"):
            carry(studio, session, job, item)
        out = save_to_shelf(studio, session, job, item, shelf_named(studio, session, "My pictures"))
        assert file_state_of(item) is FileState.IN_PLACE and path_of(out).exists()

    def test_a_pasted_picture_is_loose_and_can_be_put_out(self, studio, laid):
        session, job, _ = laid
        data = io.BytesIO()
        Image.fromarray(photo(120, 90, seed=8)).save(data, "PNG", dpi=(300, 300))
        data.seek(0)
        item = paste_picture(studio, session, job, job.pages[1], "image.png", data)
        assert file_state_of(item) is FileState.LOOSE
        assert placement_of(item).density.x == pytest.approx(300, abs=0.1)
        rules = [f.rule_id for f in found_in(session, job) if f.item_id == item.id]
        assert rules == ["file-loose", "rights-unknown"]
        save_to_shelf(studio, session, job, item, shelf_named(studio, session, "My pictures"))
        assert (item.holding, item.picture.file_name) == ("linked", "image.png")
        undo(session, job)
        assert session.get(Item, item.id).holding == "loose"

    def test_what_is_pasted_must_be_a_picture(self, studio, laid):
        session, job, _ = laid
        with pytest.raises(UnreadableFile, match=r"image\.png"):
            paste_picture(studio, session, job, job.pages[1], "image.png", io.BytesIO(b"hello"))
        assert job.pages[1].items == []

    def test_a_changed_file_is_updated_and_keeps_its_size_on_the_page(self, studio, laid):
        session, job, items = laid
        item = items[0]
        before = placement_of(item)
        with pytest.raises(Refused, match="has not changed"):
            update_changed(studio, session, item)
        Image.fromarray(photo(600, 400, seed=5)).save(path_of(item.picture))
        catch_up(session, job)
        assert file_state_of(item) is FileState.CHANGED
        assert update_changed(studio, session, item) == 1
        after = placement_of(item)
        assert file_state_of(item) is FileState.IN_PLACE
        assert after.drawn_size_pt == pytest.approx(before.drawn_size_pt)
        assert after.density.x == pytest.approx(2 * before.density.x)

    def test_all_missing_pictures_are_found_in_a_folder(self, studio, laid, tmp_path):
        session, job, items = laid
        folder = tmp_path / "found again"
        folder.mkdir()
        with pytest.raises(Refused, match="No picture in this job is missing"):
            relink_all_in(studio, session, job, str(folder))
        # One is found by its content under another name, the other by its name alone.
        path_of(items[0].picture).rename(folder / "renamed.jpg")
        path_of(items[1].picture).unlink()
        Image.fromarray(photo(800, 600, seed=2)).save(folder / "two.png")
        before = [placement_of(item).drawn_size_pt for item in items]
        assert relink_all_in(studio, session, job, str(folder)) == (2, 0)
        assert [item.picture.file_name for item in items] == ["renamed.jpg", "two.png"]
        assert [placement_of(item).drawn_size_pt for item in items] == [
            pytest.approx(size) for size in before
        ]
        undo(session, job)
        assert {item.picture.file_name for item in job.pages[0].items} == {"one.jpg", "two.png"}


class TestPagesAndJobs:
    def test_spreads_lie_like_a_books(self, laid):
        _, job, _ = laid
        assert [spread_of(job, number) for number in (1, 2, 3)] == [[1], [2, 3], [2, 3]]
        job.is_facing = False
        assert spread_of(job, 2) == [2]

    def test_a_page_is_copied_and_moved_and_comes_back(self, laid):
        session, job, _items = laid
        assert copy_page(session, job, 1) == 2
        assert len(job.pages) == 4 and len(job.pages[1].items) == 2
        assert move_pages(session, job, [2], 4) == 4
        assert [len(page.items) for page in job.pages] == [2, 0, 0, 2]
        undo(session, job)
        undo(session, job)
        session.expire_all()
        job = job_with(session, job.id)
        assert [len(page.items) for page in job.pages] == [2, 0, 0]

    def test_page_sizes_may_differ(self, laid):
        session, job, _ = laid
        set_page_size(session, job, 2, to_points(200, Unit.MM), to_points(125.4, Unit.MM))
        sizes = [(page.width_pt, page.height_pt) for page in job.pages]
        assert sizes[1] == pytest.approx((200 * 72 / 25.4, 125.4 * 72 / 25.4))
        assert sizes[0] == sizes[2] == pytest.approx((148 * 72 / 25.4, 210 * 72 / 25.4))
        with pytest.raises(ValueOutOfRange, match=r"between 4 mm and 5\.08 m"):
            set_page_size(session, job, 2, 0, 100)

    def test_a_copy_of_a_job_is_its_own(self, laid):
        session, job, items = laid
        twin = duplicate_job(session, job)
        assert twin.title == "Quay flyer, copy"
        apply_gesture(
            session, twin, [twin.pages[0].items[0]], Gesture(kind="move", dx_pt=50, dy_pt=0)
        )
        assert items[0].x_pt != twin.pages[0].items[0].x_pt
        assert len(history_of(session, twin)) == 1

    def test_archived_and_deleted_jobs_come_back(self, laid):
        session, job, _ = laid
        for status in (JobStatus.ARCHIVED, JobStatus.DELETED, JobStatus.OPEN):
            put(job, status)
            session.flush()
            assert jobs_that_are(session, status) == [job]
        put(job, JobStatus.DELETED)
        assert jobs_that_are(session, JobStatus.OPEN) == []
        assert session.scalars(select(Job)).all() == [job]

    def test_previews_never_touch_what_leaves(self, studio, laid, tmp_path):
        session, job, items = laid
        outputs = []
        for quality in ("placeholder", "light", "exact", ""):
            set_quality(session, job, job, quality)
            set_quality(session, job, items[0], quality)
            path = tmp_path / f"{quality}.pdf"
            write_pdf([plan_of(studio, job, page) for page in job.pages], "t", path)
            outputs.append(path.read_bytes())
        assert len(set(outputs)) == 1


def test_loose_pictures_are_not_on_the_shelves(studio, laid):
    session, job, _ = laid
    data = io.BytesIO()
    Image.fromarray(photo(50, 40)).save(data, "PNG")
    data.seek(0)
    paste_picture(studio, session, job, job.pages[0], "clip.png", data)
    names = [one.file_name for one in session.scalars(select(Picture)) if one.shelf_id is None]
    assert names == ["clip.png"]
