"""The views around pictures: copies, rights, shelves, the agency and comparing."""

import html
import io
import re

import pytest
from sqlalchemy import select
from werkzeug.datastructures import MultiDict

from harnet.core.pictures.picture import facts_as_values
from harnet.media.pixels.colour import GENERIC_CMYK
from harnet.store.tables.copies import PrintCopy
from harnet.store.tables.pictures import Picture, Shelf
from harnet.studio.pictures.exact import make_exact
from harnet.studio.pictures.picture import facts_of_picture, picture_with
from harnet.studio.pictures.shelves import shelf_named
from harnet.web.copies.form import read_form


@pytest.fixture
def picture_id(on_shelf, make_picture):
    return on_shelf(make_picture(width=1200, height=800, dpi=(72, 72)))


FORM = {
    "crop_left": "0",
    "crop_top": "0",
    "crop_width": "1200",
    "crop_height": "800",
    "px_w": "600",
    "px_h": "400",
    "density": "300",
    "unit": "cm",
    "shown_unit": "cm",
    "width": "5.08",
    "share": "0.5",
    "changed": "px_w",
    "format": "tif",
    "compression": "LZW",
}


def asked(picture_id, client, **changes):
    answer = client.get(f"/pictures/{picture_id}/copy/form", query_string=FORM | changes)
    assert answer.status_code == 200
    return re.sub(r"\s+", " ", re.sub(r"<[^>]+>", " ", answer.text).replace("\xa0", " "))


class TestTheCopyForm:
    def test_says_what_it_will_be_before_anything_happens(self, client, picture_id):
        words = asked(picture_id, client)
        assert "600 × 400 px, 5.1 × 3.4 cm at 300 ppi" in words
        assert "unpacked 2.7 MiB → 0.7 MiB" in words
        assert "50 % of the edge, auto takes lanczos3" in words
        assert "TIFF · LZW · little-endian · 8-bit" in words

    @pytest.mark.parametrize(
        "changes, expected",
        [
            ({"changed": "px_h", "px_h": "200"}, "300 × 200 px"),
            ({"changed": "width", "width": "2.54"}, "300 × 200 px"),
            ({"changed": "width", "width": "25,4 mm"}, "300 × 200 px"),
            ({"changed": "height", "height": "2.54"}, "450 × 300 px"),
            (
                {"changed": "density", "density": "150", "before": "0 0 1200 800 600 400 300"},
                "300 × 200 px",
            ),
            ({"changed": "px_w", "px_w": "25 %"}, "300 × 200 px"),
            ({"changed": "", "crop_width": "5000"}, "600 × 400 px"),
            ({"changed": "", "crop_width": "600"}, "300 × 400 px"),
            ({"changed": "whole", "crop_width": "7"}, "600 × 400 px"),
            ({"pad_x": "25.4", "pad_y": "0"}, "1 200 × 400 px"),
            (
                {"pad_x": "3", "edges": "mirror"},
                "padded by 35 px across and 0 px down with its mir",
            ),
            ({"kernel": "mitchell"}, "50 % of the edge, mitchell"),
            ({"kernel": "lanczos3", "px_w": "2400"}, "cubic, since lanczos3 only shrinks"),
            ({"px_w": "2400"}, "auto takes nohalo, which keeps edges when enlarging"),
            ({"px_w": "2400"}, "75 % of the pixels would be interpolated"),
            ({"px_w": "2400"}, "Interpolate them; the copy stays marked"),
            ({"format": "jpg", "quality": "80"}, "JPEG · quality 80 · 8-bit"),
            ({"colour": "CMYK"}, "converted to CMYK"),
            ({"bits": "16"}, "little-endian · 16-bit"),
            ({"byte_order": "big"}, "big-endian"),
        ],
    )
    def test_follows_each_field(self, client, picture_id, changes, expected):
        assert expected in asked(picture_id, client, **changes)

    @pytest.mark.parametrize(
        "changes, why",
        [
            ({"px_w": "0"}, "must be above 0, not 0"),
            ({"px_w": "-5"}, "must be above 0, not -5"),
            ({"px_w": "wide"}, "must be a figure such as 300, not “wide”"),
            ({"px_w": "99999999"}, "too many for a copy"),
            ({"px_w": "90000"}, "limit is 400 megapixels"),
            ({"px_w": "10.5"}, "whole pixels"),
            ({"crop_left": "1.5"}, "must be a whole number"),
            ({"changed": "density", "density": "0"}, "must be above 0"),
            ({"changed": "width", "width": "a lot"}, "is not a length"),
            ({"format": "jpg", "bits": "16"}, "JPEG holds 8 bits"),
            ({"format": "png", "colour": "CMYK"}, "PNG cannot hold CMYK"),
            ({"format": "jpg", "quality": "700"}, "between 1 and 100"),
            ({"pad_x": "-2"}, "is less than one pixel"),
        ],
    )
    def test_says_what_makes_no_sense(self, client, picture_id, changes, why):
        assert why in asked(picture_id, client, **changes)

    def test_nothing_is_asked_for_that_makes_no_sense(self, studio, open_client, picture_id):
        answer = open_client.post(f"/pictures/{picture_id}/copy", data=FORM | {"px_w": "0"})
        assert answer.status_code == 422 and "above 0" in answer.text
        bold = FORM | {"px_w": "2400"}
        assert open_client.post(f"/pictures/{picture_id}/copy", data=bold).status_code == 422
        with studio.session() as session:
            assert session.scalars(select(PrintCopy)).all() == []
        told = open_client.post(
            f"/pictures/{picture_id}/copy", data=bold | {"may_interpolate": "yes"}
        )
        assert told.status_code == 200 and "waiting" in told.text

    def test_line_art_has_no_copy(self, client, on_shelf, tmp_path):
        path = tmp_path / "crest.svg"
        path.write_text('<svg xmlns="http://www.w3.org/2000/svg" width="9" height="9"/>')
        number = on_shelf(path)
        assert client.get(f"/pictures/{number}/copy").status_code == 404
        assert client.get(f"/compare?one={number}").status_code == 200

    def test_a_profile_is_supplied_and_chosen(self, open_client, picture_id):
        def send(data, name):
            files = {"profile_file": (io.BytesIO(data), name)}
            return open_client.post(f"/pictures/{picture_id}/copy/profile", data=files)

        assert "selected" in send(GENERIC_CMYK.read_bytes(), "press.icc").text
        refused = send(b"hello", "notes.icc")
        assert refused.status_code == 422 and "not an ICC profile" in refused.text

    def test_what_was_asked_is_what_the_form_says(self, studio, picture_id):
        with studio.session() as session:
            facts = facts_of_picture(picture_with(session, picture_id))
        form = read_form(facts, MultiDict(FORM))
        assert (form.recipe.px_w, form.recipe.px_h, form.failure) == (600, 400, "")


def test_rights_are_kept_and_listed(open_client, studio, picture_id):
    data = {"licence": "cc by 4.0", "credit": "I. Varga", "origin": "Trust"}
    assert open_client.post(f"/pictures/{picture_id}/rights", data=data).status_code == 302
    assert "CC-BY-4.0" in open_client.get("/pictures").text
    assert "CC-BY-4.0 · I. Varga" in open_client.get(f"/pictures/{picture_id}").text
    assert "No picture matches" in open_client.get("/pictures?licence=none+stated").text


def test_a_preview_that_is_not_made_yet_asks_for_itself(client, studio, picture_id):
    with studio.session() as session:
        picture_with(session, picture_id).is_previewed = False
    assert f"/pictures/{picture_id}/tile" in client.get("/pictures").text
    with studio.session() as session:
        picture_with(session, picture_id).is_previewed = True
    assert "hx-trigger" not in client.get(f"/pictures/{picture_id}/tile").text


def test_a_wall_of_500_pictures_without_their_previews(client, studio, picture_id):
    with studio.session() as session:
        one = picture_with(session, picture_id)
        row = facts_as_values(facts_of_picture(one))
        for number in range(500):
            session.add(
                Picture(
                    shelf_id=one.shelf_id, file_name=f"{number}.jpg", sha256=f"{number:064}",
                    size_bytes=1, modified_ns=1, facts=row, is_previewed=False,
                )
            )  # fmt: skip
    # The wall has pages; together they show every picture once.
    seen, address = [], "/pictures"
    while address:
        page = client.get(address).text
        assert "501 pictures" in page
        seen += re.findall(r'data-name="([^"]+)"', page)
        further = re.search(r'href="([^"]+)"\s+rel="next"', page)
        address = html.unescape(further[1]) if further else ""
    assert len(seen) == len(set(seen)) == 501
    found = client.get("/pictures?words=499").text
    assert re.findall(r'data-name="([^"]+)"', found) == ["499.jpg"]


def test_a_folder_is_watched_and_left(open_client, studio, tmp_path):
    folder = tmp_path / "theirs"
    folder.mkdir()
    said = open_client.post("/pictures/watch", data={"folder": str(folder)})
    assert "Looking through the shelves" in said.text
    with studio.session() as session:
        shelf = session.scalars(select(Shelf).where(Shelf.name == "theirs")).one()
        assert shelf.is_watched and shelf.is_being_read
    assert open_client.post(f"/pictures/shelves/{shelf.id}/leave").status_code == 204
    assert open_client.post("/pictures/watch", data={"folder": "/nowhere"}).status_code == 422


def test_the_agency_is_searched(client):
    page = client.get("/agency?words=birds&least_px=2000").text
    assert re.findall(r'data-offer="([\w-]+)"', page) == ["ta-113"]
    assert "Nothing in the catalogue matches" in client.get("/agency?words=zeppelin").text
    assert client.get("/agency/preview/ta-999").status_code == 404


def test_an_order_names_a_shelf_and_an_offer(open_client, studio):
    with studio.session() as session:
        number = shelf_named(studio, session, "My pictures").id
    said = open_client.post("/agency/fetch/ta-112", data={"shelf": number})
    assert said.status_code == 200 and "cancel" in said.text
    assert open_client.post("/agency/fetch/ta-999", data={"shelf": number}).status_code == 422
    assert open_client.post("/agency/fetch/ta-112", data={"shelf": 99}).status_code == 404


class TestComparing:
    def test_facts_that_differ_are_marked(self, client, picture_id, on_shelf, make_picture):
        other = on_shelf(make_picture("b.png", width=600, height=400, seed=3, dpi=(72, 72)))
        page = client.get(f"/compare?one={picture_id}&other={other}").text
        rows = re.findall(r"<tr\s*( class=\"differs\")?>\s*<th scope=\"row\">\s*(\w[\w ]*)", page)
        marked = {name.strip() for mark, name in rows if mark}
        assert {"Pixels", "File", "Content"} <= marked
        assert "Colour" not in marked and "Density tag" not in marked

    def test_a_missing_file_is_told(self, client, studio, picture_id):
        (studio.settings.shelves_folder / "Tarnholm shelf" / "slipway.jpg").unlink()
        page = client.get(f"/compare?one={picture_id}&other={picture_id}").text
        assert "slipway.jpg is missing on its shelf" in page
        assert client.get(f"/compare/exact/{picture_id}").status_code == 422

    def test_exact_pixels_are_made_once_and_served_in_tiles(self, client, studio, picture_id):
        assert client.get(f"/compare/exact/{picture_id}").status_code == 202
        make_exact(studio, picture_id)
        answer = client.get(f"/compare/exact/{picture_id}").json
        assert answer["levels"][0] == [1200, 800] and answer["tile"] == 256
        tile = client.get(f"{answer['address']}/0/4/3")
        assert tile.mimetype == "image/png" and "immutable" in tile.headers["Cache-Control"]
        for address in ("0/5/0", "99/0/0"):
            assert client.get(f"{answer['address']}/{address}").status_code == 404
        said = client.get(f"/compare/difference?one={picture_id}&other={picture_id}").text
        assert "1.0000" in said and "<b>0</b> of 255" in said
