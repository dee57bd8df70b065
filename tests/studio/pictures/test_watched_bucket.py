"""A folder of a bucket that others fill: what comes, changes and goes there."""

import io
from dataclasses import replace

import boto3
import pytest
from PIL import Image

from harnet.core.preflight.subject import FileState
from harnet.standins.studio import open_studio
from harnet.studio.common.errors import Refused
from harnet.studio.jobs.jobs import NewJob, job_with, make_job
from harnet.studio.judging.judging import catch_up
from harnet.studio.layout.links import update_changed
from harnet.studio.layout.placed import placement_of
from harnet.studio.layout.placing import place_picture
from harnet.studio.pictures.picture import all_pictures, facts_of_picture, path_of, state_of
from harnet.studio.pictures.shelves import look_at_shelves, make_waiting_previews
from harnet.studio.pictures.watching import stop_watching, watch_folder
from harnet.studio.preflight.checking import findings_in
from harnet.studio.preflight.relinking import relink_all_in
from harnet.studio.tasks.sweeping import sweep
from tests.support.buckets import bucket_server, new_bucket
from tests.support.people import people_of
from tests.support.pictures import photo


@pytest.fixture(scope="module")
def server():
    with bucket_server() as address:
        yield address


@pytest.fixture
def bucket(server):
    """What a photographer does: puts files into a bucket and takes them out."""
    url = new_bucket(server)
    return Bucket(boto3.client("s3", endpoint_url=server), url.removeprefix("s3://"))


class Bucket:
    def __init__(self, client, name):
        self.client, self.name = client, name
        self.url = f"s3://{name}/quay"

    def put(self, name, data):
        self.client.put_object(Bucket=self.name, Key=f"quay/{name}", Body=data)
        return data

    def take(self, name):
        self.client.delete_object(Bucket=self.name, Key=f"quay/{name}")


@pytest.fixture
def own(settings, server):
    """A studio with its store on this machine, whose pictures come from a bucket."""
    opened = open_studio(replace(settings, store_endpoint=server))
    yield opened
    opened.engine.dispose()


@pytest.fixture
def watched(own, bucket):
    with own.session() as session:
        watch_folder(own, session, f"{bucket.url}/")
    return bucket


def jpeg(width=1200, height=800, seed=1):
    out = io.BytesIO()
    Image.fromarray(photo(width, height, seed=seed)).save(out, "JPEG", dpi=(300, 300))
    return out.getvalue()


def look(studio):
    (found,) = [one for one in look_at_shelves(studio) if one.shelf_name == "quay"]
    return found


def states(studio):
    with studio.session() as session:
        return {one.file_name: state_of(one) for one in all_pictures(session)}


def test_pictures_come_in_with_their_bytes_and_once(own, watched):
    data = watched.put("gulls/gull.jpg", jpeg())
    watched.put(".hidden.jpg", jpeg(seed=2))
    assert look(own).new_count == 1
    assert look(own).new_count == 0
    assert make_waiting_previews(own) == 1
    with own.session() as session:
        (picture,) = all_pictures(session)
        assert picture.file_name == "gulls/gull.jpg"
        assert path_of(picture).read_bytes() == data
        assert (facts_of_picture(picture).px_w, picture.is_previewed) == (1200, True)
        assert picture.failure is None
    assert sweep(own, grace_seconds=-60).blobs == 0, "the bytes are needed"


def test_a_file_that_is_no_picture_is_told_and_not_fetched_again(own, watched, monkeypatch):
    watched.put("list.jpg", b"no picture at all")
    (sentence,) = look(own).failures
    assert sentence.startswith("list.jpg: ")
    fetched = []
    monkeypatch.setattr(
        "harnet.store.bucket_folder.BucketFolder.fetch", lambda *about: fetched.append(about)
    )
    assert look(own).failures == (sentence,)
    assert fetched == []


def test_changed_gone_and_back_again(own, watched):
    before = watched.put("gull.jpg", jpeg())
    look(own)
    with own.session() as session:
        job_id = make_job(session, NewJob.measured("Quay flyer", 148, 210)).id
        job = job_with(session, job_id)
        item = place_picture(session, job, job.pages[0], all_pictures(session)[0])
        drawn = placement_of(item).drawn_size_pt
    watched.put("gull.jpg", jpeg(2400, 1600, seed=3))
    look(own)
    assert states(own) == {"gull.jpg": FileState.CHANGED}
    assert rules_in(own, job_id) == {"file-changed"}
    watched.take("gull.jpg")
    look(own)
    assert states(own) == {"gull.jpg": FileState.MISSING}
    assert rules_in(own, job_id) == {"file-missing"}
    watched.put("gull.jpg", before)
    look(own)
    assert states(own) == {"gull.jpg": FileState.IN_PLACE}
    assert rules_in(own, job_id) == set()
    watched.put("gull.jpg", jpeg(2400, 1600, seed=3))
    look(own)
    with own.session() as session:
        (item,) = job_with(session, job_id).pages[0].items
        assert update_changed(own, session, item) == 1
        assert placement_of(item).drawn_size_pt == pytest.approx(drawn)
        assert facts_of_picture(item.picture).px_w == 2400
        assert state_of(item.picture) is FileState.IN_PLACE


def rules_in(studio, job_id):
    with studio.session() as session:
        job = job_with(session, job_id)
        catch_up(session, job)
        found = findings_in(session, job)
        return {one.row.rule_id for one in found if one.row.rule_id.startswith("file-")}


def test_missing_pictures_are_found_in_a_bucket(own, bucket, on_shelf, make_picture):
    lost = on_shelf(make_picture("gull.jpg"))
    with own.session() as session:
        job_id = make_job(session, NewJob.measured("Quay flyer", 148, 210)).id
        job = job_with(session, job_id)
        picture = next(one for one in all_pictures(session) if one.id == lost)
        place_picture(session, job, job.pages[0], picture)
        data = path_of(picture).read_bytes()
        path_of(picture).unlink()
    bucket.put("gull.jpg", data)
    with own.session() as session:
        job = job_with(session, job_id)
        assert relink_all_in(own, session, job, bucket.url) == (1, 0)
        assert path_of(job.pages[0].items[0].picture).read_bytes() == data


def test_what_cannot_be_watched(own, bucket, server, settings):
    with own.session() as session:
        for text, said in (
            ("s3://", "Give the bucket's name"),
            ("s3://studio/../other", "without dots"),
            ("s3://there-is-none-such/quay", "no bucket"),
        ):
            with pytest.raises(Refused, match=said):
                watch_folder(own, session, text)
        watch_folder(own, session, bucket.url)
        with pytest.raises(Refused, match="already watched"):
            watch_folder(own, session, bucket.url)
    kept_there = replace(settings, store_url=f"{bucket.url}/store", store_endpoint=server)
    other = open_studio(kept_there)
    with other.session() as session, pytest.raises(Refused, match="Harnet's own data"):
        watch_folder(other, session, bucket.url)
    other.engine.dispose()


def test_once_people_sign_in_its_root_is_named(own, bucket, settings, server):
    people_of(own)
    with own.session() as session, pytest.raises(Refused, match="HARNET_SHELF_ROOTS"):
        watch_folder(own, session, bucket.url)
    roots = (f"s3://{bucket.name}",)
    named = open_studio(replace(settings, store_endpoint=server, shelf_roots=roots))
    with named.session() as session:
        assert watch_folder(named, session, bucket.url).is_watched
        with pytest.raises(Refused, match="HARNET_SHELF_ROOTS"):
            watch_folder(named, session, f"s3://{bucket.name}-other/quay")
    named.engine.dispose()


def test_a_bucket_that_is_away_leaves_its_pictures_known(own, watched, monkeypatch):
    watched.put("gull.jpg", jpeg())
    look(own)

    def away(*_args, **_more):
        raise ConnectionError

    monkeypatch.setattr("s3fs.S3FileSystem.find", away)
    (sentence,) = look(own).failures
    assert "does not answer" in sentence
    assert states(own) == {"gull.jpg": FileState.IN_PLACE}


def test_it_is_left_as_it_was(own, watched):
    data = watched.put("gull.jpg", jpeg())
    look(own)
    with own.session() as session:
        (picture,) = all_pictures(session)
        stop_watching(session, picture.shelf)
    there = watched.client.get_object(Bucket=watched.name, Key="quay/gull.jpg")["Body"].read()
    assert there == data
    assert sweep(own, grace_seconds=-60).blobs == 1
