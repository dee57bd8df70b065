"""What belongs to a group is seen by its people alone; someone outside tries every address."""

import re
from pathlib import Path

import pytest

from harnet.standins.studio import open_studio
from harnet.store.acting import acting
from harnet.store.tables.documents import Document, DocumentWork
from harnet.store.tables.output import Output
from harnet.studio.common.errors import Refused
from harnet.studio.documents.making.carrying_out import _chosen, _originals_on_shelves
from harnet.studio.documents.making.works import images_found
from harnet.studio.jobs.jobs import job_with
from harnet.studio.layout.placing import place_picture
from harnet.studio.people.people import actor_of, add_group, person_named
from harnet.studio.people.tokens import make_token
from harnet.studio.pictures.importing import import_picture
from harnet.studio.pictures.picture import picture_with
from harnet.studio.pictures.shelves import shelf_named
from harnet.web.access.rules import RULES, Need
from harnet.web.app import create_app
from tests.support.clients import client_of
from tests.support.people import let_in, people_of, put_in

_SECRET = "wrecker"
"""In the title of the job, the name of the shelf, the picture and the text."""


@pytest.fixture
def secret(studio, make_picture, new_job):
    """A job, a shelf and a picture of a group; what their addresses hold."""
    people_of(studio)
    path = make_picture(f"{_SECRET}.jpg", width=60, height=40)
    job_id = new_job(f"{_SECRET} exhibition")
    with studio.session() as session, path.open("rb") as file:
        group = add_group(session, "Exhibition")
        shelf = shelf_named(studio, session, f"{_SECRET} shelf")
        picture = import_picture(studio, session, shelf, path.name, file)
        job = job_with(session, job_id)
        item = place_picture(session, job, job.pages[0], picture)
        job.group_id = shelf.group_id = group.id
        output = Output(
            job_id=job_id, kind="PDF", settings={}, file_name=f"{_SECRET}.pdf", state="done"
        )
        session.add(output)
        session.flush()
        return {
            "job_id": job_id,
            "picture_id": picture.id,
            "shelf_id": shelf.id,
            "item_id": item.id,
            "output_id": output.id,
            "number": job_id,
            "kind": "job",
            "group": group,
        }


@pytest.fixture
def app(settings, secret):
    app = create_app(settings)
    with client_of(app, needs_token=False):
        yield app


def addresses(app, values, method):
    for rule in app.url_map.iter_rules():
        if method not in rule.methods or rule.endpoint.startswith(("static", "reading", "account")):
            continue

        def filled(match):
            return str(values.get(match[1], 1))

        path = re.sub(r"<int:(\w+)>", filled, rule.rule)
        yield rule.endpoint, re.sub(r"<(?:\w+:)?(\w+)>", filled, path)


def token_for(studio, name):
    with studio.session() as session:
        who = actor_of(person_named(session, name))
    with acting(who), studio.session() as session:
        return {"Authorization": f"Bearer {make_token(session, 'check')[1]}"}


@pytest.mark.parametrize("name", ["Bo Quill", "Cleo Marsh"])
def test_outside_nothing_of_it_is_shown(app, studio, secret, name):
    client = let_in(studio, app.test_client(), name)
    headers = token_for(studio, name)
    for endpoint, path in addresses(app, secret, "GET"):
        given = headers if endpoint.startswith("api_") else {}
        for query in ("", f"?text={_SECRET[:5]}&words={_SECRET[:5]}&part=1"):
            answer = client.get(path + query, headers=given)
            assert _SECRET not in answer.text.lower(), (endpoint, path)
            assert answer.status_code < 500, endpoint


def test_reviewers_are_shown_no_way_to_where_they_may_not_go(app, studio, secret):
    put_in(studio, "Cleo Marsh", secret["group"])
    client = let_in(studio, app.test_client(), "Cleo Marsh")
    places = app.url_map.bind("localhost")
    seen = 0
    for endpoint, path in addresses(app, secret, "GET"):
        answer = client.get(path)
        if answer.status_code != 200 or answer.mimetype != "text/html":
            continue
        for tag in re.findall(r"<a\s[^>]*>", answer.text):
            href = re.search(r'href="([^"]*)"', tag)
            if href is None or not href[1].startswith("/") or "data-changes" in tag:
                continue
            leads_to, _ = places.match(href[1].partition("?")[0])
            need = RULES[leads_to].need
            seen += 1
            assert need in (Need.NOTHING, Need.REVIEWER), (endpoint, href[1])
    assert seen > 100


def test_inside_and_for_owners_it_is_there(app, studio, secret):
    put_in(studio, "Bo Quill", secret["group"])
    for name in ("Bo Quill", "Ada Lind"):
        client = let_in(studio, app.test_client(), name)
        assert _SECRET in client.get("/jobs").text
        assert _SECRET in client.get("/pictures").text
        assert _SECRET in client.get(f"/find?text={_SECRET}").text
        assert client.get(f"/jobs/{secret['job_id']}/pages").status_code == 200
        found = client.get("/api/v1/jobs", headers=token_for(studio, name)).json
        assert _SECRET in str(found)


def test_outside_nothing_of_it_is_changed(app, studio, secret):
    def state():
        with studio.session() as session:
            job = job_with(session, secret["job_id"])
            picture = picture_with(session, secret["picture_id"])
            rows = [(item.x_pt, item.y_pt, item.version) for item in job.pages[0].items]
            kept = (picture.licence, picture.file_name, picture.shelf.name, picture.shelf.group_id)
            return job.title, job.target, len(job.pages), job.deleted_at, rows, kept

    before = state()
    client = let_in(studio, app.test_client(), "Bo Quill")
    headers = token_for(studio, "Bo Quill")
    form = {
        "name": "taken", "title": "taken", "items": f"{secret['item_id']}:1", "dx": "9",
        "picture": secret["picture_id"], "text": "taken", "licence": "taken", "shelf": 1,
        "group": "", "items_copied": secret["item_id"], "from": secret["item_id"],
    }  # fmt: skip
    for method in ("POST", "PUT", "PATCH", "DELETE"):
        for endpoint, path in addresses(app, secret, method):
            given = (
                {"headers": headers, "json": {}} if endpoint.startswith("api_") else {"data": form}
            )
            answer = client.open(path, method=method, **given)
            assert _SECRET not in answer.text.lower(), (endpoint, path)
    assert state() == before


def test_its_picture_stands_in_no_job_of_others(app, studio, secret, new_job):
    job_id = new_job("Open flyer")
    client = let_in(studio, app.test_client(), "Bo Quill")
    form = {"picture": secret["picture_id"], "page": 1}
    answer = client.post(f"/jobs/{job_id}/pages/place", data=form)
    assert answer.status_code == 404
    with studio.session() as session:
        assert job_with(session, job_id).pages[0].items == []


def test_a_picture_placed_where_one_may_look_is_shown(app, studio, secret, new_job):
    job_id = new_job("Open flyer")
    with studio.session() as session:
        job = job_with(session, job_id)
        place_picture(session, job, job.pages[0], picture_with(session, secret["picture_id"]))
    client = let_in(studio, app.test_client(), "Bo Quill")
    assert client.get(f"/pictures/{secret['picture_id']}").status_code == 200
    assert _SECRET in client.get(f"/jobs/{job_id}/pages").text
    # The shelf itself is none of theirs.
    assert f"{_SECRET} shelf" not in client.get("/pictures").text


def test_things_go_to_groups_of_ones_own_alone(app, studio, secret, new_job):
    job_id = new_job("Open flyer")
    client = let_in(studio, app.test_client(), "Bo Quill")
    form = {
        "title": "Open flyer",
        "unit": "mm",
        "group": secret["group"].id,
        "bleed": "0",
        "margin": "0",
    }
    refused = client.post(f"/jobs/{job_id}/settings", data=form)
    assert refused.status_code == 422 and "groups that you are in" in refused.text
    put_in(studio, "Bo Quill", secret["group"])
    assert client.post(f"/jobs/{job_id}/settings", data=form).status_code == 302
    assert "Exhibition" in client.get(f"/jobs/{job_id}/pages").text
    other = let_in(studio, app.test_client(), "Cleo Marsh")
    assert other.get(f"/jobs/{job_id}/pages").status_code == 404


def test_what_the_worker_makes_sees_what_its_asker_sees(settings, studio, secret):
    studio = open_studio(settings)
    for name, count in (("Bo Quill", 0), ("Ada Lind", 1)):
        with studio.session() as session:
            who = actor_of(person_named(session, name))
        with acting(who), studio.session() as session:
            assert len(_originals_on_shelves(session)) == count
    studio.engine.dispose()


@pytest.fixture
def found(studio, secret):
    """A document for which one original was found on the group's shelf; the work's number."""
    with studio.session() as session:
        picture = picture_with(session, secret["picture_id"])
        document = Document(file_name="leaflet.pdf", sha256="0" * 64, size_bytes=9, target={})
        session.add(document)
        session.flush()
        # Found by another machine, which has its copy of the file elsewhere.
        candidate = {"picture_id": picture.id, "sha256": picture.sha256, "path": "/elsewhere/a.jpg"}
        images = [{"key": 1, "candidate": candidate | {"px": [60, 40]}}, {"key": 2}]
        work = DocumentWork(document_id=document.id, kind="find", result={"images": images})
        session.add(work)
        session.flush()
        return work.id


@pytest.mark.parametrize(("name", "is_seen"), [("Bo Quill", False), ("Ada Lind", True)])
def test_an_original_of_a_group_is_offered_to_those_who_see_it(studio, found, name, is_seen):
    with studio.session() as session:
        who = actor_of(person_named(session, name))
    with acting(who), studio.session() as session:
        row = session.get(DocumentWork, found)
        first, second = images_found(row)
        assert (first["candidate"] is not None) is is_seen
        assert second == {"key": 2}
        stored = row.result["images"][0]
        if is_seen:
            path = Path(_chosen(session, stored, [1])["candidate"]["path"])
            assert path.is_file() and path != Path("/elsewhere/a.jpg")
        else:
            with pytest.raises(Refused, match="no longer as it was"):
                _chosen(session, stored, [1])
