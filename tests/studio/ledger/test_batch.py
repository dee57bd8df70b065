"""Batches from the ledger: planned first, done as one edit, taken back by one undo."""

import time
from concurrent.futures import ThreadPoolExecutor
from dataclasses import replace
from random import Random

import numpy as np
import pytest
from PIL import Image
from sqlalchemy import event, select, text
from sqlalchemy.orm import Session

from harnet.core.copies.recipe import recipe_from_values
from harnet.core.layout.placing import Adjusts, EvenBy
from harnet.core.measure.geometry import Box
from harnet.core.preflight.subject import FileState
from harnet.media.errors import UnreadableFile
from harnet.store.history import undo
from harnet.store.tables.jobs import Edit, Item
from harnet.store.tables.pictures import Picture
from harnet.studio.common.errors import Refused
from harnet.studio.copies import copies
from harnet.studio.copies.copies import ask_for_copy, cancel_copy, make_copy
from harnet.studio.copies.placing import batch_of, copy_with
from harnet.studio.jobs.jobs import job_with, set_target
from harnet.studio.judging.judging import catch_up
from harnet.studio.layout.arranging import add_item
from harnet.studio.layout.matching import candidates_for, denser_shots, swap
from harnet.studio.layout.placed import file_state_of, placement_of, write_placement
from harnet.studio.layout.placing import items_in, place_picture
from harnet.studio.ledger.batch import Batch, BatchAction, carry_out, planned
from harnet.studio.pictures.importing import import_picture
from harnet.studio.pictures.picture import path_of, picture_with
from harnet.studio.pictures.shelves import shelf_named
from tests.support.pictures import photo


@pytest.fixture
def shots(tmp_path, on_shelf):
    """The same shot small and large, and another picture; returns their numbers by name."""
    large = Image.fromarray(photo(1200, 800, seed=1)).resize((1200, 800))
    other = Image.fromarray(np.rot90(photo(900, 1350, seed=9)).copy())
    paths = {name: tmp_path / name for name in ("small.tif", "large.tif", "other.tif")}
    large.resize((300, 200), Image.LANCZOS).save(paths["small.tif"], dpi=(72, 72))
    large.save(paths["large.tif"], dpi=(300, 300))
    other.save(paths["other.tif"], dpi=(300, 300))
    return {name: on_shelf(path) for name, path in paths.items()}


@pytest.fixture
def laid(studio, new_job, shots):
    """A job with the small shot twice and the other picture once."""
    job_id = new_job(pages=2)
    with studio.session() as session:
        job = job_with(session, job_id)
        for name in ("small.tif", "small.tif", "other.tif"):
            place_picture(session, job, job.pages[0], picture_with(session, shots[name]))
    return job_id


def items_of(session, job_id):
    job = job_with(session, job_id)
    return job, list(job.pages[0].items)


def test_the_questions_to_the_database_do_not_grow_with_the_placements(studio, laid, shots):
    def asked(work):
        said = []

        def note(_link, _cursor, statement, *_rest):
            said.append(statement)

        event.listen(studio.engine, "before_cursor_execute", note)
        try:
            with studio.session() as session:
                work(session, job_with(session, laid))
        finally:
            event.remove(studio.engine, "before_cursor_execute", note)
        # Each row is written by itself, as its version is looked at.
        return sum(not one.startswith("UPDATE item") for one in said)

    def reach(session, job):
        items = items_in(session, job, numbers)
        carry_out(studio, session, job, items, Batch(BatchAction.REACH, Adjusts.CROP))

    def counts():
        return asked(reach), asked(undo)

    numbers = [item.id for item in items_of(Session(studio.engine), laid)[1]][:2]
    few = counts()
    with studio.session() as session:
        job = job_with(session, laid)
        small = picture_with(session, shots["small.tif"])
        numbers += [place_picture(session, job, job.pages[1], small).id for _ in range(12)]
    many = counts()
    assert max(many) < max(few) + 8, (few, many)


class TestPlanning:
    def test_reach_says_before_and_after_and_writes_nothing(self, studio, laid):
        with studio.session() as session:
            job, items = items_of(session, laid)
            first, _, third = planned(session, job, items, Batch(BatchAction.REACH))
            assert first.before_figures.judged_ppi == 72
            assert first.after_figures.judged_ppi == 300
            assert third.note == "already at reach"
            assert not session.dirty and placement_of(items[0]) == first.before

    def test_frames_that_would_not_be_filled_are_counted_and_left_out_on_wish(self, studio, laid):
        with studio.session() as session:
            job, items = items_of(session, laid)
            # 72 ppi to 300 within the same frame: a quarter of its width is covered.
            reach = Batch(BatchAction.REACH, Adjusts.CROP)
            plan = planned(session, job, items, reach)
            assert [one.empties_frame for one in plan] == [True, True, False]
            careful = replace(reach, leaves_unfilled_out=True)
            notes = [one.note for one in planned(session, job, items, careful)]
            assert notes[:2] == ["its frame would no longer be filled"] * 2
            follows = planned(session, job, items, Batch(BatchAction.REACH))
            assert not any(one.empties_frame for one in follows)

    def test_what_would_not_change_says_why(self, studio, laid):
        with studio.session() as session:
            job, items = items_of(session, laid)
            notes = {
                action: [one.note for one in planned(session, job, items, Batch(action))]
                for action in BatchAction
            }
            assert notes[BatchAction.NATIVE] == ["already at native size"] * 3
            assert notes[BatchAction.EVEN] == ["already even"] * 3
            assert notes[BatchAction.RELINK] == ["its file is not missing"] * 3
            assert notes[BatchAction.DENSER][2].startswith("no shelf has a denser")
            assert "fewer pixels" in notes[BatchAction.COPY][0]
            assert "exactly the pixels" in notes[BatchAction.COPY][2]
            assert notes[BatchAction.CARRY] == [""] * 3
            with pytest.raises(Refused, match="None of the selected"):
                carry_out(studio, session, job, items, Batch(BatchAction.EVEN))
            with pytest.raises(Refused, match="at least one"):
                planned(session, job, [], Batch(BatchAction.REACH))


@pytest.mark.parametrize(
    "batch",
    [
        Batch(BatchAction.REACH, Adjusts.CROP),
        Batch(BatchAction.DENSER),
        Batch(BatchAction.CARRY),
        Batch(BatchAction.EVEN, even_by=EvenBy.X),
    ],
    ids=lambda batch: batch.action.value,
)
def test_a_batch_is_one_edit_and_one_undo(studio, laid, batch):
    with studio.session() as session:
        job, items = items_of(session, laid)
        if batch.action is BatchAction.EVEN:
            for item in items[:2]:
                item.scale_x *= 1.2
            session.flush()

        def state():
            session.expire_all()
            return [
                (item.holding, item.picture_id, placement_of(item))
                for item in session.scalars(select(Item).order_by(Item.id))
            ]

        before = state()
        edits = len(session.scalars(select(Edit)).all())
        count, _ = carry_out(studio, session, job, items, batch)
        assert count >= 2 and state() != before
        assert len(session.scalars(select(Edit)).all()) == edits + 1
        undo(session, job)
        assert state() == before


def test_a_missing_picture_is_relinked_by_its_content(studio, laid, make_picture):
    with studio.session() as session:
        job, items = items_of(session, laid)
        path = path_of(items[0].picture)
        twin = path.with_name("elsewhere.tif")
        twin.write_bytes(path.read_bytes())
    from_folder(studio, twin)
    path.unlink()
    with studio.session() as session:
        job, items = items_of(session, laid)
        catch_up(session, job)
        assert file_state_of(items[0]) is FileState.MISSING
        carry_out(studio, session, job, items[:1], Batch(BatchAction.RELINK))
        assert items[0].picture.file_name == "elsewhere.tif"


def from_folder(studio, path):
    """Takes a file onto a shelf of its own."""
    with studio.session() as session, path.open("rb") as file:
        import_picture(
            studio, session, shelf_named(studio, session, "Second shelf"), path.name, file
        )


@pytest.fixture
def wanted(studio, laid, shots):
    """Two copies of one batch that wait, and the number of their job."""
    with studio.session() as session:
        job, items = items_of(session, laid)
        for item in items[:2]:
            swap(session, job, item, picture_with(session, shots["large.tif"]))
            placement = placement_of(item)
            item.width_pt, item.height_pt = 100 + item.id, 70
            assert placement.density.x == pytest.approx(288)
            item.scale_x = item.scale_y = 72 / 900
        session.flush()
        _, name = carry_out(studio, session, job, items[:2], Batch(BatchAction.COPY))
        return [copy.id for copy in batch_of(session, name)]


def edits_in(studio):
    with studio.session() as session:
        return [edit.label for edit in session.scalars(select(Edit).order_by(Edit.id))]


def test_copies_of_a_batch_are_placed_together(studio, laid, shots, wanted):
    edits = len(edits_in(studio))
    make_copy(studio, wanted[0])
    assert len(edits_in(studio)) == edits
    make_copy(studio, wanted[1])
    assert edits_in(studio)[-1] == "Print copies: 2 pictures"
    with studio.session() as session:
        job, items = items_of(session, laid)
        for item in items[:2]:
            assert placement_of(item).native_share == pytest.approx(1)
            assert placement_of(item).density.x == pytest.approx(300, rel=1e-3)
        undo(session, job)
        assert {item.picture_id for item in items[:2]} == {shots["large.tif"]}


def test_the_last_of_a_batch_places_the_others_when_it_is_cancelled(studio, wanted):
    make_copy(studio, wanted[0])
    with studio.session() as session:
        cancel_copy(session, copy_with(session, wanted[1]))
    assert edits_in(studio)[-1] == "Print copies: 1 picture"


def test_two_of_a_batch_that_end_at_once_see_each_other(studio, laid, wanted, monkeypatch):
    """Whichever comes second waits for the first, and places what is there."""
    make_copy(studio, wanted[0])
    with studio.session() as session:
        _, items = items_of(session, laid)
        third = ask_for_copy(session, items[0].picture, recipe_of(session, wanted[1]))
        third.batch = copy_with(session, wanted[1]).batch
        third_id = third.id

    def broken(*_args, **_more):
        raise UnreadableFile("large.tif", "it cannot be read")

    monkeypatch.setattr(copies, "work_apart", broken)
    waits = text("select count(*) from pg_stat_activity where wait_event_type = 'Lock'")
    with ThreadPoolExecutor(1) as pool:
        with studio.session() as session:
            cancel_copy(session, copy_with(session, wanted[1]))
            failing = pool.submit(make_copy, studio, third_id)
            # Each look in a transaction of its own: within one, PostgreSQL shows the same activity.
            with studio.engine.connect().execution_options(isolation_level="AUTOCOMMIT") as other:
                until = time.monotonic() + 30
                while not other.scalar(waits) and not failing.done():
                    assert time.monotonic() < until
                    time.sleep(0.02)
            assert not failing.done(), "it does not look before the other has ended"
        failing.result(30)
    assert edits_in(studio)[-1] == "Print copies: 1 picture"


def recipe_of(session, copy_id):
    return recipe_from_values(copy_with(session, copy_id).recipe)


class TestPickByFit:
    def test_the_same_shot_comes_first_though_another_has_more_pixels(self, studio, laid, shots):
        with studio.session() as session:
            job, items = items_of(session, laid)
            found = candidates_for(session, job, items[0])
            assert found[0].picture.id == shots["large.tif"]
            assert found[0].match.is_same_shot and not found[1].match.is_same_shot
            # arithmetic: four times the pixels on each axis in the same frame
            assert found[0].match.figures.judged_ppi == pytest.approx(288)
            denser = denser_shots(session, job, items)
            assert {number: one.picture.id for number, one in denser.items()} == {
                items[0].id: shots["large.tif"],
                items[1].id: shots["large.tif"],
            }

    def test_orientation_leaves_out_what_stands_where_the_frame_lies(
        self, studio, laid, on_shelf, make_picture
    ):
        upright = on_shelf(make_picture("upright.png", 400, 900, seed=77))
        with studio.session() as session:
            job, items = items_of(session, laid)
            assert upright not in [one.picture.id for one in candidates_for(session, job, items[0])]
            any_way = candidates_for(session, job, items[0], any_orientation=True)
            assert upright in [one.picture.id for one in any_way]

    @pytest.mark.parametrize("seed", range(5))
    def test_the_best_few_are_those_of_looking_at_all(self, studio, laid, shots, seed):
        chance = Random(seed)
        with studio.session() as session:
            job, items = items_of(session, laid)
            one = picture_with(session, shots["large.tif"])
            for number in range(150):
                px_w, px_h = chance.randint(2, 3000), chance.randint(2, 3000)
                facts = {**one.facts, "px_w": px_w, "px_h": px_h}
                if chance.random() < 0.1:
                    facts |= {"kind": "vector", "px_w": None, "px_h": None}
                    facts |= {"width_pt": 90.0, "height_pt": 60.0}
                elif chance.random() < 0.2:
                    facts |= {"colour": "bilevel", "bits": 1}
                more = Picture(shelf_id=one.shelf_id, file_name=f"{number}.tif", facts=facts)
                more.sha256, more.size_bytes, more.modified_ns = f"{number:064x}", 9, 0
                if chance.random() < 0.2:
                    more.detail_share, more.detail_confidence = chance.random(), 0.95
                session.add(more)
            session.flush()
            set_target(session, job, chance.choice(["coated", "office"]))
            frame = add_item(session, job, job.pages[0], "frame", Box(20, 20, 90, 60))
            for item in (*items, frame):
                for any_way in (False, True):
                    every = candidates_for(session, job, item, any_way, most=1000)
                    few = candidates_for(session, job, item, any_way, most=8)
                    assert [one.match.rank for one in few] == [one.match.rank for one in every[:8]]
                    assert len(every) > 60

    def test_pictures_without_a_file_are_left_out(self, studio, laid, shots):
        with studio.session() as session:
            job, items = items_of(session, laid)
            large = picture_with(session, shots["large.tif"])
            large.file_state = FileState.MISSING.value
            session.flush()
            assert all(one.picture.id != large.id for one in candidates_for(session, job, items[0]))

    def test_a_swap_is_one_edit_and_keeps_the_frame(self, studio, laid, shots):
        with studio.session() as session:
            job, items = items_of(session, laid)
            before = placement_of(items[0])
            swap(session, job, items[0], picture_with(session, shots["large.tif"]))
            after = placement_of(items[0])
            assert after.frame == before.frame
            assert after.drawn_size_pt == pytest.approx(before.drawn_size_pt)
            write_placement(items[0], after)
            undo(session, job)
            assert placement_of(items[0]) == before
