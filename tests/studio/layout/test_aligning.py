"""Several at once: in line, evenly apart, of one size or one density; one undo each."""

import pytest

from harnet.core.layout.aligning import Align, AlignTo, Spread
from harnet.core.measure.geometry import Box
from harnet.store.history import history_of, undo
from harnet.studio.common.errors import Refused
from harnet.studio.jobs.jobs import job_with
from harnet.studio.layout.aligning import align, make_alike, spread_evenly
from harnet.studio.layout.arranging import add_item
from harnet.studio.layout.placed import placement_of
from harnet.studio.layout.placing import place_picture
from harnet.studio.pictures.picture import picture_with


@pytest.fixture
def three(studio, new_job, on_shelf, make_picture):
    """A picture of 300 ppi, one of 150, and a rectangle, on one page."""
    ids = [
        on_shelf(make_picture("one.jpg", dpi=(300, 300))),
        on_shelf(make_picture("two.jpg", seed=2, dpi=(150, 150))),
    ]
    job_id = new_job()
    with studio.session() as session:
        job = job_with(session, job_id)
        page = job.pages[0]
        items = [
            place_picture(session, job, page, picture_with(session, number), at)
            for number, at in zip(ids, [(100, 100), (200, 300)], strict=True)
        ]
        items.append(add_item(session, job, page, "rectangle", Box(30, 400, 50, 60)))
        yield session, job, items


def test_in_line_with_the_first_the_page_and_the_margins(three):
    session, job, items = three
    align(session, job, items, Align.LEFT, AlignTo.FIRST)
    assert [item.x_pt for item in items] == pytest.approx([items[0].x_pt] * 3)
    align(session, job, items, Align.RIGHT, AlignTo.PAGE)
    edges = [item.x_pt + item.width_pt for item in items]
    assert edges == pytest.approx([job.pages[0].width_pt] * 3)
    align(session, job, [items[2]], Align.TOP, AlignTo.MARGINS)
    assert items[2].y_pt == pytest.approx(job.margin_pt)
    steps = len(history_of(session, job))
    undo(session, job)
    assert items[2].y_pt == 400 and steps == 6


def test_equal_gaps_down(three):
    session, job, items = three
    spread_evenly(session, job, items, Spread.DOWN)
    order = sorted(items, key=lambda item: item.y_pt)
    first, second, third = order
    one = second.y_pt - first.y_pt - first.height_pt
    assert one == pytest.approx(third.y_pt - second.y_pt - second.height_pt)
    with pytest.raises(Refused, match="at least three"):
        spread_evenly(session, job, items[:2], Spread.DOWN)


def test_as_the_first(three):
    session, job, items = three
    make_alike(session, job, items, "width")
    assert [item.width_pt for item in items] == [items[0].width_pt] * 3
    make_alike(session, job, items, "density")
    assert placement_of(items[1]).density.worst == pytest.approx(300)
    with pytest.raises(Refused, match="has no density"):
        make_alike(session, job, items[::-1], "density")
    with pytest.raises(Refused, match="at least two"):
        make_alike(session, job, items[:1], "width")
