"""Print copies from asking to the shelf, and what can go wrong on the way."""

import io
from dataclasses import replace

import pytest
from PIL import Image

from harnet.core.copies.recipe import CopyColour, CopyFormat, PixelBox, recipe_from_values
from harnet.core.layout.placing import Content
from harnet.core.pictures.rights import Rights
from harnet.core.targets.shipped import target_named
from harnet.core.targets.values import target_as_values
from harnet.media.bounded import work_apart
from harnet.media.errors import UnreadableFile
from harnet.media.pixels.colour import GENERIC_CMYK
from harnet.store.history import undo
from harnet.store.tables.jobs import Item
from harnet.studio.common.errors import Refused
from harnet.studio.copies import copies
from harnet.studio.copies import placing as copyplacing
from harnet.studio.copies.copies import (
    ask_again,
    ask_for_copy,
    ask_for_frame_copy,
    copies_of,
    copy_with,
    make_copy,
    recipes_behind,
)
from harnet.studio.copies.samples import spots_of
from harnet.studio.jobs.jobs import job_with, target_of
from harnet.studio.layout.placed import placed_from, placement_of, write_placement
from harnet.studio.layout.placing import item_in, place_picture
from harnet.studio.pictures import importing
from harnet.studio.pictures.picture import (
    facts_of_picture,
    path_of,
    picture_with,
    rights_of,
    set_rights,
)
from harnet.studio.pictures.profiles import all_profiles, keep_profile
from harnet.studio.tasks.states import CANCELLED, DONE, FAILED
from harnet.studio.tasks.work import cancel_work
from tests.support.recipes import HALF


@pytest.fixture
def picture_id(on_shelf, make_picture):
    return on_shelf(make_picture(width=1200, height=800, dpi=(72, 72)))


@pytest.fixture
def made(studio):
    """Asks for a copy and makes it; returns the copy's number."""

    def make(picture_id, recipe=HALF):
        with studio.session() as session:
            copy_id = ask_for_copy(session, picture_with(session, picture_id), recipe).id
        make_copy(studio, copy_id)
        return copy_id

    return make


def files_on_shelf(studio):
    return sorted(p.name for p in (studio.settings.shelves_folder / "Tarnholm shelf").iterdir())


def test_a_copy_lies_beside_its_original_with_its_recipe_and_rights(studio, picture_id, made):
    with studio.session() as session:
        set_rights(picture_with(session, picture_id), Rights("CC BY 4.0", "I. Varga", "Trust"))
        before = path_of(picture_with(session, picture_id)).read_bytes()
    copy_id = made(picture_id)
    with studio.session() as session:
        copy = copy_with(session, copy_id)
        assert (copy.state, copy.percent, copy.failure) == (DONE, 100, None)
        assert copy.made.file_name == "slipway 600x400 300 ppi.tif"
        facts = facts_of_picture(copy.made)
        assert (facts.px_w, facts.px_h, facts.density_x) == (600, 400, 300)
        assert rights_of(copy.made) == Rights("CC-BY-4.0", "I. Varga", "Trust")
        behind = recipes_behind(session, [copy.made.id])[copy.made.id]
        assert recipe_from_values(behind.recipe) == HALF
        assert path_of(picture_with(session, picture_id)).read_bytes() == before
        assert [one.id for one in copies_of(session, copy.picture)] == [copy_id]


def test_made_again_from_its_recipe_it_has_the_same_bytes(studio, picture_id, made):
    copy_id = made(picture_id)
    with studio.session() as session:
        copy = copy_with(session, copy_id)
        first = path_of(copy.made).read_bytes()
        path_of(copy.made).unlink()
        ask_again(copy)
    make_copy(studio, copy_id)
    with studio.session() as session:
        copy = copy_with(session, copy_id)
        assert copy.note == "Made again: the same bytes as before."
        assert path_of(copy.made).read_bytes() == first
    assert len(files_on_shelf(studio)) == 2


@pytest.mark.parametrize(
    "change, why",
    [
        ({"px_w": 0}, "at least 1 × 1"),
        ({"px_h": -3}, "at least 1 × 1"),
        ({"px_w": 10**7, "may_interpolate": True}, "too large"),
        ({"px_w": 2400, "px_h": 1600}, "interpolates 75 % of them; allow interpolated"),
        ({"crop": PixelBox(0, 0, 1201, 800)}, "extends beyond the picture"),
    ],
)
def test_a_copy_that_cannot_be_is_refused_before_anything_happens(studio, picture_id, change, why):
    with studio.session() as session:
        picture = picture_with(session, picture_id)
        with pytest.raises(Refused, match=why):
            ask_for_copy(session, picture, replace(HALF, **change))
        assert copies_of(session, picture) == []


def trouble_of(studio, copy_id):
    with studio.session() as session:
        copy = copy_with(session, copy_id)
        assert copy.state == FAILED and copy.made is None
        return copy.failure


def test_a_missing_or_changed_original_is_told(studio, picture_id, made, make_picture):
    path = studio.settings.shelves_folder / "Tarnholm shelf" / "slipway.jpg"
    data = path.read_bytes()
    path.unlink()
    assert "slipway.jpg: the file is missing from its shelf" in trouble_of(studio, made(picture_id))
    path.write_bytes(make_picture(seed=5).read_bytes())
    assert "was changed since it was read" in trouble_of(studio, made(picture_id))
    path.write_bytes(data)
    assert files_on_shelf(studio) == ["slipway.jpg"]


def test_an_original_that_changes_meanwhile_leaves_no_copy(studio, picture_id, made, monkeypatch):
    path = studio.settings.shelves_folder / "Tarnholm shelf" / "slipway.jpg"
    honest = copies.work_apart

    def changing(*arguments, **options):
        answer = honest(*arguments, **options)
        path.write_bytes(path.read_bytes() + b"\0")
        return answer

    monkeypatch.setattr(copies, "work_apart", changing)
    assert "it changed while its copy was made" in trouble_of(studio, made(picture_id))
    assert files_on_shelf(studio) == ["slipway.jpg"]


def test_a_full_disk_leaves_nothing_half_made(studio, picture_id, made, monkeypatch):
    def full(*_):
        raise OSError(28, "No space left on device")

    monkeypatch.setattr(importing, "write_whole", full)
    failure = trouble_of(studio, made(picture_id))
    assert "could not be saved (no space left on device)" in failure
    assert files_on_shelf(studio) == ["slipway.jpg"]
    assert list(studio.settings.scratch_folder.iterdir()) == []


def test_a_decoder_that_is_brought_down_is_told(studio, picture_id, made, monkeypatch):
    def falling(_module, _order, **bounds):
        return work_apart("tests.support.endless", {"ask": "fall"}, **bounds)

    monkeypatch.setattr(copies, "work_apart", falling)
    assert "made the decoder crash" in trouble_of(studio, made(picture_id))


def test_cancelled_before_and_while_it_is_made(studio, picture_id, monkeypatch):
    with studio.session() as session:
        copy = ask_for_copy(session, picture_with(session, picture_id), HALF)
        cancel_work(copy)
        copy_id = copy.id
    make_copy(studio, copy_id)
    with studio.session() as session:
        assert copy_with(session, copy_id).state == CANCELLED
        second = ask_for_copy(session, picture_with(session, picture_id), HALF).id

    def cancelled_midway(*_, tell, **__):
        with studio.session() as session:
            cancel_work(copy_with(session, second))
        tell(50)

    monkeypatch.setattr(copies, "work_apart", cancelled_midway)
    make_copy(studio, second)
    with studio.session() as session:
        assert copy_with(session, second).state == CANCELLED
    assert files_on_shelf(studio) == ["slipway.jpg"]


def test_a_supplied_profile_is_embedded(studio, picture_id, made):
    data = GENERIC_CMYK.read_bytes()
    with studio.session() as session:
        profile = keep_profile(studio, session, "press.icc", io.BytesIO(data))
        assert keep_profile(studio, session, "again.icc", io.BytesIO(data)).id == profile.id
        assert len(all_profiles(session)) == 1
        with pytest.raises(UnreadableFile, match=r"notes\.icc: it is not an ICC profile"):
            keep_profile(studio, session, "notes.icc", io.BytesIO(b"hello"))
        sha256 = profile.sha256
    copy_id = made(picture_id, replace(HALF, colour=CopyColour.CMYK, profile=sha256))
    with studio.session() as session:
        copy = copy_with(session, copy_id)
        with Image.open(path_of(copy.made)) as image:
            assert image.mode == "CMYK" and image.info["icc_profile"] == data


def test_a_spot_before_anything_is_made(studio, picture_id):
    with studio.session() as session:
        picture = picture_with(session, picture_id)
        original, copy = spots_of(studio, picture, HALF, (0.25, 0.5))
        for data in (original, copy):
            with Image.open(io.BytesIO(data)) as image:
                assert image.size == (184, 184)
        with pytest.raises(Refused, match="at least 1"):
            spots_of(studio, picture, replace(HALF, px_w=0), (0.5, 0.5))
    assert files_on_shelf(studio) == ["slipway.jpg"]


class TestFromAFrame:
    @pytest.fixture
    def placed(self, studio, new_job, picture_id):
        """A job with the picture on its page, 288 × 192 pt wide: 300 ppi; the item's number."""
        job_id = new_job()
        with studio.session() as session:
            job = job_with(session, job_id)
            item = place_picture(session, job, job.pages[0], picture_with(session, picture_id))
            placement = placement_of(item)
            # The frame shows the middle of the picture, at 600 ppi.
            frame = replace(placement.frame, x=20, y=30, width=100, height=60)
            content = Content(0.12, 0.12, -10, -6)
            write_placement(item, replace(placement, frame=frame, content=content))
            return job_id, item.id

    def test_its_copy_stands_at_100_percent_and_meets_the_target(self, studio, placed):
        job_id, item_id = placed
        with studio.session() as session:
            job = job_with(session, job_id)
            copy_id = ask_for_frame_copy(session, job, item_in(job, item_id)).id
        make_copy(studio, copy_id)
        with studio.session() as session:
            copy, item = copy_with(session, copy_id), session.get(Item, item_id)
            assert copy.note == "Placed on page 1 of Quay flyer."
            assert item.picture_id == copy.made_id
            job = job_with(session, job_id)
            figures = placed_from(item, 1, target_of(job)).figures
            assert figures.judged_ppi == 300 and figures.verdict.value == "full"
            assert placement_of(item).native_share == pytest.approx(1)
            # arithmetic: 100 × 60 pt at 300 ppi are 417 × 250 px
            facts = facts_of_picture(copy.made)
            assert (facts.px_w, facts.px_h) == (417, 250)
            original_id = copy.picture_id
            undo(session, job)
        with studio.session() as session:
            assert session.get(Item, item_id).picture_id == original_id

    def test_nobody_sees_it_done_and_not_in_its_frame(self, studio, placed, monkeypatch):
        job_id, item_id = placed
        with studio.session() as session:
            job = job_with(session, job_id)
            copy_id = ask_for_frame_copy(session, job, item_in(job, item_id)).id

        def look_first(*_args):
            with studio.session() as other:
                assert copy_with(other, copy_id).state != DONE
            raise Refused("The page is being laid out anew.")

        monkeypatch.setattr(copyplacing, "place_copy", look_first)
        make_copy(studio, copy_id)
        with studio.session() as session:
            copy = copy_with(session, copy_id)
            assert copy.state == FAILED and copy.made_id is None

    def test_too_few_pixels_are_refused_unless_they_may_be_fewer(self, studio, placed):
        job_id, item_id = placed
        with studio.session() as session:
            job = job_with(session, job_id)
            job.target = target_as_values(target_named("900"))
            item = item_in(job, item_id)
            with pytest.raises(Refused, match=r"has 834 × 500 px; the frame needs 1\xa0250 × 750"):
                ask_for_frame_copy(session, job, item)
            copy_id = ask_for_frame_copy(session, job, item, may_be_smaller=True).id
        make_copy(studio, copy_id)
        with studio.session() as session:
            placement = placement_of(session.get(Item, item_id))
            assert placement.density.x == pytest.approx(600, rel=1e-6)
            assert placement.native_share == pytest.approx(1)

    @pytest.mark.parametrize("meanwhile", ["moved", "taken off"])
    def test_a_frame_that_changed_meanwhile_is_left_alone(self, studio, placed, meanwhile):
        job_id, item_id = placed
        with studio.session() as session:
            job = job_with(session, job_id)
            copy_id = ask_for_frame_copy(session, job, item_in(job, item_id)).id
        with studio.session() as session:
            item = session.get(Item, item_id)
            if meanwhile == "moved":
                item.x_pt += 10
                original = item.picture_id
            else:
                session.delete(item)
        make_copy(studio, copy_id)
        with studio.session() as session:
            copy = copy_with(session, copy_id)
            assert copy.state == DONE and "on the shelf" in copy.note
            if meanwhile == "moved":
                assert session.get(Item, item_id).picture_id == original


def test_every_format_is_read_back_as_promised(studio, picture_id, made):
    for form in CopyFormat:
        copy_id = made(picture_id, replace(HALF, format=form))
        with studio.session() as session:
            assert copy_with(session, copy_id).state == DONE, form
