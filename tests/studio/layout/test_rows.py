"""Rows to pages: a table and a pattern page give one page per record."""

import pytest

from harnet.core.layout.placing import Fit
from harnet.core.layout.rows import table_from
from harnet.core.measure.geometry import Box
from harnet.store.history import redo, undo
from harnet.studio.common.errors import Refused
from harnet.studio.jobs.jobs import job_with, whole_job
from harnet.studio.layout.arranging import add_item, put_into_frame, set_style
from harnet.studio.layout.placed import placement_of
from harnet.studio.layout.rows import (
    make_pages,
    match_pictures,
    read_rows,
    suggested_binding,
    unknown_places,
)
from harnet.studio.pictures.picture import picture_with
from harnet.studio.pictures.shelves import import_folder
from harnet.studio.pictures.watching import watch_folder
from tests.support.jobs import found_in

CSV = (
    "name,price,picture\n"
    "Storm lamp,24,slipway.jpg\n"
    '"Gull, carved",12,shop/GULL.png\n'
    "Tide table,3,tide.png\n"
    "Voucher,10,\n"
)


@pytest.fixture
def catalogue(studio, new_job, on_shelf, make_picture):
    """A job whose second page is a pattern: a frame, a heading, a price, a rule."""
    job_id = new_job(title="Shop catalogue", pages=3)
    for name in ("slipway.jpg", "gull.png"):
        on_shelf(make_picture(name))
    with studio.session() as session:
        job = job_with(session, job_id)
        page = job.pages[1]
        add_item(session, job, page, "frame", Box(20, 20, 200, 100))
        heading = add_item(session, job, page, "text", Box(20, 130, 200, 30))
        set_style(session, job, heading, {"link": "https://tarnholm.example/{name}"}, "{Name}")
        price = add_item(session, job, page, "text", Box(20, 170, 200, 30))
        set_style(session, job, price, {}, "{price} crowns, {vat} included")
        add_item(session, job, page, "line", Box(20, 160, 200, 0))
    return job_id


def made(studio, job_id, text=CSV, **more):
    with studio.session() as session:
        job = whole_job(session, job_id)
        table = read_rows(text.encode())
        binding = suggested_binding(job.pages[1], table)
        return make_pages(session, job, 2, table, binding, **more)


def pages_of(studio, job_id):
    """Each page as its frame's kind and its texts."""
    with studio.session() as session:
        said = []
        for page in whole_job(session, job_id).pages:
            frames = [item.kind for item in page.items if item.kind in ("frame", "picture")]
            said.append((*frames, *(item.text for item in page.items if item.kind == "text")))
        return said


class TestPages:
    def test_one_page_a_record_in_the_patterns_place(self, studio, catalogue):
        assert made(studio, catalogue) == 2
        assert pages_of(studio, catalogue) == [
            (),
            ("picture", "Storm lamp", "24 crowns, {vat} included"),
            ("picture", "Gull, carved", "12 crowns, {vat} included"),
            ("frame", "Tide table", "3 crowns, {vat} included"),
            ("frame", "Voucher", "10 crowns, {vat} included"),
            (),
        ]
        with studio.session() as session:
            job = whole_job(session, catalogue)
            assert [page.position for page in job.pages] == list(range(6))
            texts = [item for item in job.pages[1].items if item.kind == "text"]
            assert texts[0].style["link"] == "https://tarnholm.example/Storm lamp"

    def test_the_pattern_may_stay(self, studio, catalogue):
        assert made(studio, catalogue, keeps_pattern=True) == 3
        assert pages_of(studio, catalogue)[1] == (
            "frame",
            "{Name}",
            "{price} crowns, {vat} included",
        )
        assert len(pages_of(studio, catalogue)) == 7
        with studio.session() as session:
            frame = whole_job(session, catalogue).pages[1].items[0]
            assert frame.style["column"] == "picture"

    @pytest.mark.parametrize("keeps_pattern", [False, True])
    def test_it_is_one_edit(self, studio, catalogue, keeps_pattern):
        before = pages_of(studio, catalogue)
        made(studio, catalogue, keeps_pattern=keeps_pattern)
        after = pages_of(studio, catalogue)
        with studio.session() as session:
            assert undo(session, job_with(session, catalogue)).label == "4 pages from rows"
        assert pages_of(studio, catalogue) == before
        with studio.session() as session:
            redo(session, job_with(session, catalogue))
        assert pages_of(studio, catalogue) == after

    @pytest.mark.parametrize(
        "fit, drawn", [(Fit.COVER, (200, 200 * 2 / 3)), (Fit.CONTAIN, (150, 100))]
    )
    def test_pictures_are_laid_into_their_frames(self, studio, catalogue, fit, drawn):
        made(studio, catalogue, fit=fit)
        with studio.session() as session:
            item = whole_job(session, catalogue).pages[1].items[0]
            # 300 × 200 px in a frame of 200 × 100 pt.
            assert placement_of(item).drawn_size_pt == pytest.approx(drawn)
            assert (item.width_pt, item.height_pt) == (200, 100)


class TestPictures:
    def test_what_is_missing_becomes_a_finding_until_it_is_put_in(self, studio, catalogue):
        made(studio, catalogue)
        with studio.session() as session:
            job = whole_job(session, catalogue)
            pages = {item.id: page.position + 1 for page in job.pages for item in page.items}
            found = [
                (one.rule_id, pages[one.item_id])
                for one in found_in(session, job)
                if one.rule_id in ("picture-not-found", "empty-frame")
            ]
            # A record that names no picture leaves a plain empty frame.
            assert sorted(found) == [("empty-frame", 5), ("picture-not-found", 4)]
            frame = job.pages[3].items[0]
            put_into_frame(session, job, frame, picture_with(session, 1), Fit.COVER)
        with studio.session() as session:
            job = whole_job(session, catalogue)
            assert "picture-not-found" not in [one.rule_id for one in found_in(session, job)]

    def test_a_path_decides_between_pictures_of_one_name(
        self, studio, catalogue, make_picture, tmp_path
    ):
        make_picture("shop/slipway.jpg", seed=5)
        with studio.session() as session:
            import_folder(session, watch_folder(studio, session, str(tmp_path / "shop")))
        table = table_from("picture\nshop/slipway.jpg\nTarnholm shelf/slipway.jpg\n")
        with studio.session() as session:
            match = match_pictures(session, table, ["picture"])
            shelves = [picture.shelf.name for picture in match.pictures.values()]
        assert shelves == ["shop", "Tarnholm shelf"] and match.missing == []

    def test_what_is_asked_for_and_not_given_is_known_before(self, studio, catalogue):
        with studio.session() as session:
            job = whole_job(session, catalogue)
            table = read_rows(CSV.encode())
            assert unknown_places(job.pages[1], table) == ["vat"]
            assert match_pictures(session, table, ["picture"]).missing == ["tide.png"]


class TestRefusals:
    @pytest.mark.parametrize(
        "text, words",
        [
            ("", "The table is empty"),
            ("name,picture\n", "columns but no records"),
            ("name,picture\nLamp\n", "Row 2 has 1 cells where the first row names 2 columns"),
            ("name,Name\nLamp,Lamp\n", "Two columns are called “Name”"),
            ("name,\nLamp,x\n", "Column 2 has no name"),
            ('name\n"Lamp\n', "cannot be read"),
            ("name\n" + "Lamp\n" * 1001, "1001 records; at most 1000"),
        ],
    )
    def test_a_table_that_is_none_is_told_and_changes_nothing(self, studio, catalogue, text, words):
        before = pages_of(studio, catalogue)
        with pytest.raises(Refused, match=words):
            made(studio, catalogue, text)
        assert pages_of(studio, catalogue) == before

    def test_a_column_that_is_not_there(self, studio, catalogue):
        with studio.session() as session, pytest.raises(Refused, match="no column “cover”"):
            job = whole_job(session, catalogue)
            make_pages(session, job, 2, read_rows(CSV.encode()), {1: "cover"})

    @pytest.mark.parametrize("encoding", ["utf-8", "utf-8-sig", "cp1252"])
    @pytest.mark.parametrize("separator", [",", ";", "\t"])
    def test_how_spreadsheets_write(self, encoding, separator):
        text = f"name{separator}picture\r\nMöwe{separator}gull.png\r\n\r\n"
        [record] = read_rows(text.encode(encoding)).records
        assert record == {"name": "Möwe", "picture": "gull.png"}


def test_500_rows(studio, catalogue):
    """As many as a shop's catalogue has; findings are right at the end of it."""
    rows = "".join(f"Thing {n},{n},{'slipway.jpg' if n % 2 else 'gull.png'}\n" for n in range(500))
    made(studio, catalogue, f"name,price,picture\n{rows}")
    with studio.session() as session:
        job = job_with(session, catalogue)
        assert len(job.pages) == 502
        assert (
            sum(
                page.tally[0] + page.tally[1] + page.tally[2] + page.tally[3] + page.tally[4]
                for page in job.pages
            )
            == 500
        )
