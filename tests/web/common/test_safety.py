"""What every answer of the web application keeps to."""

import io

import pytest
from reportlab.pdfgen.canvas import Canvas

from harnet.studio.jobs.jobs import job_with
from harnet.studio.layout.arranging import copies_on
from harnet.studio.layout.placing import place_picture
from harnet.studio.pictures.picture import picture_with


@pytest.fixture
def placed(studio, new_job, on_shelf, make_picture):
    """A job with one placed picture: the job's and the item's number."""
    job_id, picture_id = new_job(), on_shelf(make_picture(dpi=(150, 150)))
    with studio.session() as session:
        job = job_with(session, job_id)
        return job_id, place_picture(
            session, job, job.pages[0], picture_with(session, picture_id)
        ).id


def test_headers(client):
    for address in ("/jobs", "/pictures", "/nowhere"):
        headers = client.get(address).headers
        policy = headers["Content-Security-Policy"]
        assert "script-src 'self'" in policy and "unsafe" not in policy
        assert headers["X-Content-Type-Options"] == "nosniff"


def test_no_page_holds_inline_script_or_style(client, placed):
    job_id, item_id = placed
    for address in (
        "/jobs",
        "/jobs/new",
        "/pictures",
        f"/jobs/{job_id}/pages?select={item_id}",
        f"/jobs/{job_id}/ledger",
        f"/jobs/{job_id}/preflight",
        f"/jobs/{job_id}/output",
    ):
        page = client.get(address)
        assert page.status_code == 200, address
        assert " style=" not in page.text and "<script>" not in page.text
        assert " onclick" not in page.text


def test_every_change_needs_its_token(client, placed):
    job_id, item_id = placed
    for address in (
        "/jobs/new",
        f"/jobs/{job_id}/target",
        f"/jobs/{job_id}/pages/add",
        f"/jobs/{job_id}/pages/take-off?items={item_id}",
        f"/jobs/{job_id}/arrange/stack",
        f"/jobs/{job_id}/output/pdf",
        "/pictures/upload",
    ):
        assert client.post(address).status_code == 400, address


@pytest.mark.parametrize(
    "address", ["/jobs/99/pages", "/jobs/99/ledger", "/pictures/99", "/outputs/99/file", "/nowhere"]
)
def test_what_is_not_there_is_said_in_a_sentence(client, address):
    page = client.get(address)
    assert page.status_code == 404 and "<h1>" in page.text


def test_names_are_escaped(client, on_shelf, make_picture):
    on_shelf(make_picture("a&<b>.jpg"))
    page = client.get("/pictures").text
    assert "a&amp;" in page and "<b>.jpg" not in page


def test_measuring_writes_nothing(client, placed):
    job_id, item_id = placed
    address = f"/jobs/{job_id}/pages/measure"
    before = client.get(f"/jobs/{job_id}/ledger").text
    query = {"items": item_id, "kind": "size", "handle": "se", "dx": 72, "dy": 48}
    answer = client.get(address, query_string=query)
    # arithmetic: 300 px over 144 + 72 pt
    assert "100 ppi" in answer.json["items"][0] and ">100<" in answer.json["card"]
    assert client.get(f"/jobs/{job_id}/ledger").text.count("150") == before.count("150")


@pytest.mark.parametrize(
    "query",
    [
        {"kind": "size", "handle": "middle"},
        {"dx": "nan"},
        {"dx": "1e30"},
        {"kind": "size", "handle": "se", "dx": "1e6"},
    ],
)
def test_impossible_gestures_are_refused(client, placed, query):
    job_id, item_id = placed
    address = f"/jobs/{job_id}/pages/measure"
    query = query | {"items": item_id}
    answer = client.get(address, query_string=query, headers={"Accept": "application/json"})
    assert answer.status_code == 422 and answer.json["failure"].endswith(".")


def test_a_stale_version_is_a_conflict(open_client, placed):
    job_id, item_id = placed
    address = f"/jobs/{job_id}/pages/gesture"
    form = {"kind": "move", "dx": 5, "dy": 0, "items": f"{item_id}:1"}
    assert open_client.post(address, data=form).status_code == 200
    again = open_client.post(address, data=form, headers={"HX-Request": "true"})
    assert again.status_code == 409 and "another window" in again.text
    assert "Reload to see their change" in again.text


@pytest.mark.parametrize(
    "action, form",
    [
        ("scale", {"action": "inflate"}),
        ("scale", {"action": "reach", "adjusts": "nobody"}),
        ("fit", {"fit": "squeeze"}),
        ("figures", {"x": "1", "y": "1", "width": "0", "height": "5"}),
        ("figures", {"x": "1", "y": "1", "width": "5 miles", "height": "5"}),
        ("figures", {"x": "1", "y": "1", "width": "50", "height": "50", "density": "-3"}),
    ],
)
def test_nonsense_is_refused_and_changes_nothing(open_client, placed, action, form):
    job_id, item_id = placed
    chosen = {"items": f"{item_id}:1"}
    answer = open_client.post(f"/jobs/{job_id}/pages/{action}", data=form | chosen)
    assert answer.status_code == 422
    answer = open_client.post(f"/jobs/{job_id}/pages/fit", data={"fit": "cover"} | chosen)
    assert answer.status_code == 200


def test_an_item_of_another_job_is_not_reached(open_client, placed, new_job):
    _, item_id = placed
    other = new_job(title="Another")
    answer = open_client.post(f"/jobs/{other}/pages/take-off", data={"items": item_id})
    assert answer.status_code == 404


def test_a_bad_upload_is_a_sentence_and_nothing_stays(open_client, settings):
    answer = open_client.post(
        "/pictures/upload",
        data={"file": (io.BytesIO(b"hello"), "notes.png")},
        headers={"Accept": "application/json"},
    )
    assert answer.status_code == 422 and answer.json["failure"].startswith("notes.png: ")
    assert [p for p in settings.shelves_folder.rglob("*") if p.is_file()] == []


def test_the_ledger_as_csv(client, placed):
    job_id, _ = placed
    lines = client.get(f"/jobs/{job_id}/ledger/ledger.csv").text.splitlines()
    assert lines[0].startswith("page,picture,px_w,px_h,width_mm,height_mm,ppi_x")
    assert lines[1].startswith("1,slipway.jpg,300,200,50.8,33.867,150.0,150.0,150.0,300,thin,-0.5")


def test_a_pdf_is_known_and_placed_as_vector(open_client, studio, new_job, on_shelf, tmp_path):
    canvas = Canvas(str(tmp_path / "flyer.pdf"), pagesize=(200, 100))
    canvas.showPage()
    canvas.save()
    picture_id, job_id = on_shelf(tmp_path / "flyer.pdf"), new_job()
    assert "70.6 × 35.3 mm" in open_client.get(f"/pictures/{picture_id}").text
    form = {"page": 1, "picture": picture_id}
    answer = open_client.post(f"/jobs/{job_id}/pages/place", data=form)
    assert answer.status_code == 200 and "Vector, sharp at any size" in answer.text


def test_a_spread_of_many_pictures_opens_in_light(client, studio, placed):
    job_id, _ = placed
    with studio.session() as session:
        job = job_with(session, job_id)
        for _ in range(39):
            copies_on(session, job, [job.pages[0].items[0]], job.pages[0])
    client.set_cookie("harnet-quality", "exact")
    page = client.get(f"/jobs/{job_id}/pages").text
    assert page.count('class="item picture') == 40
    assert "this many pictures opens in light" in page and 'class="exact"' not in page
    client.set_cookie("harnet-quality", "placeholder")
    assert client.get(f"/jobs/{job_id}/pages").text.count('class="placeholder-name"') == 40


@pytest.mark.parametrize(
    "action, form",
    [
        ("stack", {"to": "up"}),
        ("shape", {"shape": "star"}),
        ("shape", {"shape": "rounded", "radius": "a lot"}),
        ("target", {"target": "moon"}),
        ("quality", {"quality": "superb"}),
        ("paste", {"copied": "99"}),
        ("page-size", {"width": "0", "height": "10"}),
        ("facing", {"facing": "yes", "margin": "900"}),
        ("link/update", {}),
        ("link/vanish", {}),
        ("relink-all", {"folder": "/nowhere"}),
    ],
)
def test_nonsense_arrangements_are_refused(open_client, placed, action, form):
    job_id, item_id = placed
    answer = open_client.post(f"/jobs/{job_id}/arrange/{action}", data={"items": item_id} | form)
    assert answer.status_code == 422, answer.text
