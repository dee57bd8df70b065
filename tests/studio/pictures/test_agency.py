"""The picture agency: what is found, and deliveries that come, crawl, break off or are refused."""

import pytest
from sqlalchemy import select

from harnet.core.pictures.rights import Rights
from harnet.standins.agency import CATALOGUE, TarnholmAgency
from harnet.store.tables.pictures import Picture
from harnet.studio.common.errors import Refused
from harnet.studio.outside.agency import AgencySearch, Delivery
from harnet.studio.pictures import agency as agency_module
from harnet.studio.pictures.agency import ask_to_fetch, fetch_picture, fetch_with
from harnet.studio.pictures.picture import facts_of_picture, rights_of
from harnet.studio.pictures.shelves import shelf_named
from harnet.studio.pictures.watching import watch_folder
from harnet.studio.tasks.states import CANCELLED, DONE, FAILED
from harnet.studio.tasks.work import cancel_work

SMALL = "ta-112"


@pytest.fixture(scope="module")
def drawn(tmp_path_factory):
    return tmp_path_factory.mktemp("agency")


@pytest.fixture
def agency(studio, drawn):
    studio.agency = TarnholmAgency(drawn, pause_seconds=0.01)
    return studio.agency


@pytest.fixture
def fetched(studio, agency):
    def fetch(key):
        with studio.session() as session:
            shelf = shelf_named(studio, session, "My pictures")
            fetch_id = ask_to_fetch(studio, session, key, shelf.id).id
        fetch_picture(studio, fetch_id)
        with studio.session() as session:
            return fetch_with(session, fetch_id)

    return fetch


class TestSearching:
    def test_the_catalogue_is_large_enough_and_every_offer_is_another(self):
        assert len(CATALOGUE) >= 24
        assert len({listed.offer.key for listed in CATALOGUE}) == len(CATALOGUE)
        assert {listed.manner.value for listed in CATALOGUE} == {
            "prompt", "slow", "refuses", "breaks off",
        }  # fmt: skip

    @pytest.mark.parametrize(
        "wish, least, holds",
        [
            (AgencySearch(), len(CATALOGUE), lambda offer: True),
            (AgencySearch(words="stone wall"), 2, lambda offer: "stone" in offer.words),
            (AgencySearch(words="LIGHT"), 5, lambda offer: True),
            (AgencySearch(shape="portrait"), 3, lambda offer: offer.px_h > offer.px_w),
            (AgencySearch(shape="square"), 2, lambda offer: offer.px_h == offer.px_w),
            (AgencySearch(least_px=2500), 3, lambda offer: max(offer.px_w, offer.px_h) >= 2500),
            (AgencySearch(licence="CC0-1.0"), 3, lambda offer: offer.licence == "CC0-1.0"),
        ],
    )
    def test_by_word_shape_pixels_and_licence(self, agency, wish, least, holds):
        offers = agency.search(wish)
        assert len(offers) >= least and all(holds(offer) for offer in offers)

    def test_nothing_fits(self, agency):
        assert agency.search(AgencySearch(words="zeppelin")) == []


class TestFetching:
    def test_a_picture_comes_with_its_rights(self, studio, fetched):
        fetch = fetched(SMALL)
        assert (fetch.state, fetch.percent) == (DONE, 100)
        with studio.session() as session:
            picture = session.get(Picture, fetch.picture_id)
            assert picture.file_name == "lens-small-print.jpg"
            facts = facts_of_picture(picture)
            assert (facts.px_w, facts.px_h) == (640, 427)
            assert rights_of(picture) == Rights(
                "CC0-1.0", "J. Tamm / Tarnholm Agency", "Tarnholm Agency, ta-112"
            )

    def test_a_refusal_is_told(self, studio, fetched):
        fetch = fetched("ta-106")
        assert fetch.state == FAILED and "reserved for another client" in fetch.failure
        with studio.session() as session:
            assert session.scalars(select(Picture)).all() == []

    def test_a_delivery_that_breaks_off_leaves_nothing_and_comes_the_next_time(
        self, studio, fetched
    ):
        fetch = fetched("ta-108")
        assert fetch.state == FAILED and "broke off halfway" in fetch.failure
        assert list(studio.settings.scratch_folder.iterdir()) == []
        with studio.session() as session:
            assert session.scalars(select(Picture)).all() == []
        assert fetched("ta-108").state == DONE

    def test_a_delivery_that_ends_early_without_a_word(self, studio, fetched, monkeypatch):
        short = Delivery("a.jpg", 1000, iter([b"x" * 400]))
        monkeypatch.setattr(TarnholmAgency, "deliver", lambda self, key: short)
        assert "promised 1000 bytes and sent 400" in fetched(SMALL).failure

    def test_a_delivery_that_takes_too_long(self, fetched, monkeypatch):
        monkeypatch.setattr(agency_module, "PATIENCE_SECONDS", 0.0)
        assert "took longer than 0 seconds" in fetched("ta-124").failure

    def test_a_delivery_that_is_no_picture(self, fetched, monkeypatch):
        wrong = Delivery("a.jpg", 5, iter([b"hello"]))
        monkeypatch.setattr(TarnholmAgency, "deliver", lambda self, key: wrong)
        assert fetched(SMALL).failure.startswith("a.jpg: its content is not a picture")

    def test_cancelled_while_it_comes(self, studio, agency, monkeypatch):
        monkeypatch.setattr("harnet.studio.tasks.work._TOLD_EVERY_SECONDS", 0.0)
        with studio.session() as session:
            shelf = shelf_named(studio, session, "My pictures")
            fetch_id = ask_to_fetch(studio, session, SMALL, shelf.id).id

        def blocks():
            yield b"x"
            with studio.session() as session:
                cancel_work(fetch_with(session, fetch_id))
            yield b"y"

        slow = Delivery("a.jpg", 1000, blocks())
        monkeypatch.setattr(TarnholmAgency, "deliver", lambda self, key: slow)
        fetch_picture(studio, fetch_id)
        with studio.session() as session:
            assert fetch_with(session, fetch_id).state == CANCELLED

    def test_what_cannot_be_ordered(self, studio, agency, tmp_path):
        with studio.session() as session:
            own = shelf_named(studio, session, "My pictures")
            with pytest.raises(Refused, match="no picture numbered ta-999"):
                ask_to_fetch(studio, session, "ta-999", own.id)
            (tmp_path / "theirs").mkdir()
            theirs = watch_folder(studio, session, str(tmp_path / "theirs"))
            with pytest.raises(Refused, match="a watched folder"):
                ask_to_fetch(studio, session, SMALL, theirs.id)
