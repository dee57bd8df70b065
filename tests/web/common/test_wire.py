"""What goes over the wire: packed where that helps, as it is where it does not."""

import gzip
import re
import zlib

import brotli
import pytest

PACKED = {"br": brotli.decompress, "gzip": gzip.decompress, "deflate": zlib.decompress}
MOST_BYTES = 60_000


@pytest.mark.parametrize("by", ["br", "gzip"])
def test_views_and_styles_are_packed_and_the_same_inside(client, new_job, by):
    job_id = new_job()
    style = re.search(r'/static/[^"]+/harnet.css', client.get("/pictures").text)[0]
    for place in (f"/jobs/{job_id}/pages", f"/jobs/{job_id}/ledger", "/pictures", style):
        plain = client.get(place)
        packed = client.get(place, headers={"Accept-Encoding": f"{by}, deflate"})
        used = packed.headers["Content-Encoding"]
        assert used == by or (place == style and used == "deflate")
        assert "Accept-Encoding" in packed.headers["Vary"]
        whole = PACKED[used](packed.data)
        assert len(packed.data) < MOST_BYTES
        assert len(packed.data) < len(whole) / 2
        # A token is made anew for each page.
        assert abs(len(whole) - len(plain.data)) < 40


def test_scripts_and_styles_are_light_and_asked_for_at_once(client):
    """Packed by the best that browsers take; what a module imports is named by the page itself."""
    page = client.get("/jobs").text
    asked = {"Accept-Encoding": "gzip, deflate, br"}
    named = set(re.findall(r'/static/[^"]+\.(?:js|css)', page))
    answers = {place: client.get(place, headers=asked) for place in named}
    whole = {place: brotli.decompress(one.data).decode() for place, one in answers.items()}
    for place, text in whole.items():
        assert "Accept-Encoding" in answers[place].headers["Vary"]
        assert "immutable" in answers[place].headers["Cache-Control"]
        folder = place.rpartition("/")[0]
        for name in re.findall(r'from "\./([^"]+)"|import "\./([^"]+)"', text):
            assert f"{folder}/{name[0] or name[1]}" in named
    assert sum(len(one.data) for one in answers.values()) < 150_000


def test_pictures_are_as_they_are(client, on_shelf, make_picture):
    on_shelf(make_picture("gull.jpg"))
    asked = {"Accept-Encoding": "br, gzip"}
    found = [line for line in client.get("/pictures").text.split('"') if "/thumb" in line]
    thumb = client.get(found[0], headers=asked)
    assert (thumb.status_code, "Content-Encoding" in thumb.headers) == (200, False)


def test_a_range_counts_the_bytes_of_the_file(client):
    style = re.search(r'/static/[^"]+/harnet.css', client.get("/pictures").text)[0]
    whole = client.get(style).data
    asked = {"Accept-Encoding": "br, gzip, deflate", "Range": "bytes=100-1099"}
    part = client.get(style, headers=asked)
    assert (part.status_code, part.data) == (206, whole[100:1100])
    assert "Content-Encoding" not in part.headers
