"""Spreads: what lies across the fold is seen, printed and judged on both pages."""

import subprocess

import pytest

from harnet.media.pdf.writing.write import write_pdf
from harnet.store.history import undo
from harnet.studio.jobs.jobs import job_with
from harnet.studio.judging.judging import settle
from harnet.studio.layout.crossing import apply_gesture
from harnet.studio.layout.gestures import Gesture
from harnet.studio.layout.placing import place_picture
from harnet.studio.output.task import plan_of
from harnet.studio.pictures.picture import picture_with
from harnet.studio.preflight.checking import findings_in


@pytest.fixture
def spread(studio, new_job, on_shelf, make_picture):
    """A job of facing A5 pages; a picture of 2 × 1.33 in on page 2, and its row."""
    picture_id = on_shelf(make_picture("ferry.jpg", width=600, height=400, dpi=(300, 300)))
    job_id = new_job(pages=4, is_facing=True, bleed_mm=3)
    with studio.session() as session:
        job = job_with(session, job_id)
        item = place_picture(
            session, job, job.pages[1], picture_with(session, picture_id), (300, 300)
        )
        yield session, job, item


def moved(session, job, item, dx):
    apply_gesture(session, job, [item], Gesture(kind="move", dx_pt=dx, dy_pt=0))
    session.flush()
    session.expire_all()


def found(session, job):
    settle(session)
    return {one.row.rule_id: one for one in findings_in(session, job)}


def test_dragged_over_the_fold_it_belongs_to_the_other_page(spread):
    session, job, item = spread
    width, x = job.pages[1].width_pt, item.x_pt
    moved(session, job, item, 200)
    assert item.page.position == 2
    assert item.x_pt == pytest.approx(x + 200 - width)
    moved(session, job, item, -200)
    assert (item.page.position, item.x_pt) == (1, pytest.approx(x))
    undo(session, job)
    assert item.page.position == 2


def test_across_the_fold_both_pages_print_it(studio, spread, tmp_path):
    """poppler finds it on both pages, at one density."""
    session, job, item = spread
    moved(session, job, item, job.pages[1].width_pt - item.x_pt - 80)
    assert item.page.position == 1
    path = tmp_path / "spread.pdf"
    write_pdf([plan_of(studio, job, page) for page in job.pages], "Spread", path, lambda *_: None)
    listed = subprocess.run(
        ["pdfimages", "-list", path], capture_output=True, text=True, check=True
    ).stdout.splitlines()[2:]
    assert [(line.split()[0], line.split()[12]) for line in listed] == [("2", "300"), ("3", "300")]


def test_across_the_fold_preflight_knows_it(spread):
    session, job, item = spread
    moved(session, job, item, job.pages[1].width_pt - item.x_pt - 80)
    known = found(session, job)
    assert "crosses-fold" in known and "off-page" not in known
    # 144 pt wide, 80 pt of them on its own page: 64 pt, 22.6 mm, lie on the other
    assert "22.6 mm" in known["crosses-fold"].row.headline


def test_what_ends_in_the_bleed_at_the_fold_crosses_nothing(studio, spread):
    session, job, item = spread
    bleed = job.bleed_pt
    moved(session, job, item, job.pages[1].width_pt - item.x_pt - item.width_pt + bleed)
    assert "crosses-fold" not in found(session, job)
    assert len(plan_of(studio, job, job.pages[2]).parts) == 0


def test_single_pages_have_no_fold(studio, spread):
    session, job, item = spread
    job.is_facing = False
    session.flush()
    moved(session, job, item, 300)
    assert item.page.position == 1
    assert len(plan_of(studio, job, job.pages[2]).parts) == 0
