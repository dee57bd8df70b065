"""The API against its own OpenAPI description: whatever a program sends, it answers as described.

schemathesis makes the requests from the description, sound ones and unsound ones.
"""

import io
import json
import zipfile

import pikepdf
import pytest
import schemathesis
from hypothesis import HealthCheck, given, settings
from hypothesis.errors import Unsatisfiable
from jsonschema import Draft202012Validator
from schemathesis import GenerationMode
from schemathesis.checks import load_all_checks
from schemathesis.specs.openapi.checks import positive_data_acceptance

from harnet.studio.documents.keeping import read_pdf
from harnet.studio.documents.making.carrying_out import do_document_work
from harnet.studio.people.tokens import make_token
from harnet.web.api.problems import SCHEMA
from harnet.web.app import create_app
from tests.support.api import API, Program, jpeg, leaflet
from tests.support.clients import client_of

load_all_checks()
_METHODS = {"get", "post", "put", "patch", "delete"}


@pytest.fixture
def described(settings_of_studio, studio):
    app = create_app(settings_of_studio)
    with studio.session() as session:
        token = make_token(session, "schemathesis")[1]
    with client_of(app):
        yield app, token


@pytest.fixture
def settings_of_studio(settings):
    return settings


@pytest.fixture
def api(described):
    """The description, with a job, a picture, a check and an output numbered 1 behind it."""
    app, token = described
    program = Program(app.test_client(), token)
    program.asks("POST", "/jobs", 201, json={"title": "Flyer", "width": 210, "height": 297})
    picture = program.hands_in("/pictures", "gull.jpg", jpeg(), 201)
    program.asks("POST", "/jobs/1/placements", 201, json={"picture": picture["id"]})
    program.hands_in("/checks", "leaflet.pdf", leaflet(), 202)
    program.asks("POST", "/jobs/1/outputs", 202, json={"kind": "pack"})
    program.hands_in("/packs", "flyer.zip", a_pack(), 202)
    program.asks("POST", "/checks/1/images", 202, json={})
    loaded = schemathesis.openapi.from_wsgi(f"{API}/openapi.json", from_this_machine(app))
    loaded.config.headers = {"Authorization": f"Bearer {token}"}
    return loaded


def from_this_machine(app):
    """The application as a server would call it; the generator leaves out where it calls from.

    It says that it unpacks answers, and does not.
    """
    here = {"REMOTE_ADDR": "127.0.0.1"}
    return lambda environ, start: app({**here, **environ, "HTTP_ACCEPT_ENCODING": ""}, start)


def a_pack():
    page = {"format": "harnet job", "version": 1, "title": "Flyer", "pages": [{}]}
    data = io.BytesIO()
    with zipfile.ZipFile(data, "w") as pack:
        pack.writestr("job.json", json.dumps(page | {"width_pt": 200, "height_pt": 300}))
    return data.getvalue()


@pytest.mark.parametrize("mode", list(GenerationMode), ids=lambda mode: mode.value)
def test_every_operation_answers_as_described(api, mode):
    operations = [found.ok() for found in api.get_all_operations()]
    assert len(operations) >= 36
    # What is deleted cannot be asked about any more, so that comes last.
    for operation in sorted(operations, key=lambda one: one.method == "delete"):
        try:
            answered(operation.as_strategy(generation_mode=mode), mode)
        except Unsatisfiable:
            # Nothing can be wrong with a request that takes nothing.
            assert mode is GenerationMode.NEGATIVE and not operation.body


def answered(requests, mode):
    @given(case=requests)
    @settings(
        max_examples=6,
        deadline=None,
        database=None,
        derandomize=True,
        suppress_health_check=list(HealthCheck),
    )
    def each(case):
        if mode is GenerationMode.POSITIVE:
            # The rows that are there: anything else would only ever be told to be missing.
            numbers = {name for name in case.path_parameters or {} if name.endswith("_id")}
            case.path_parameters = {**(case.path_parameters or {}), **dict.fromkeys(numbers, 1)}
        # A target that nobody has is said to be missing: sound in form, and refused all the same.
        case.call_and_validate(excluded_checks=[positive_data_acceptance])

    each()


def test_the_description_is_sound_and_names_every_failure(described):
    app, _ = described
    spec = app.test_client().get(f"{API}/openapi.json").json
    assert spec["openapi"].startswith("3.1")
    assert spec["components"]["schemas"]["Problem"] == SCHEMA
    operations = [
        (path, method, operation)
        for path, methods in spec["paths"].items()
        for method, operation in methods.items()
        if method in _METHODS
    ]
    assert len(operations) >= 36
    assert all(path.startswith(API) for path, _, _ in operations)
    assert spec["servers"][0]["url"] == "/"
    names = [operation["operationId"] for *_, operation in operations]
    assert len(set(names)) == len(names) and {"jobs_make", "packs_upload"} < set(names)
    for path, method, operation in operations:
        assert operation["security"] == [{"token": []}], (path, method)
        failures = {status for status in operation["responses"] if status >= "400"}
        assert operation["summary"] and "401" in failures, (path, method)
        assert ("404" in failures) == ("{" in path), (path, method)
        assert ("413" in failures) == ("requestBody" in operation), (path, method)
        for parameter in operation["parameters"]:
            assert parameter["description"], (path, method, parameter)
    for model in spec["components"]["schemas"].values():
        Draft202012Validator.check_schema(model)


def test_every_field_says_what_it_means(described):
    app, _ = described
    schemas = app.test_client().get(f"{API}/openapi.json").json["components"]["schemas"]
    assert not [name for name in schemas if "." in name], "one form for one thing"
    silent = [
        f"{name}.{field}"
        for name, form in schemas.items()
        for field, said in form["properties"].items()
        if len(said.get("description", "")) < 8
    ]
    assert silent == []


def locked_leaflet():
    """The leaflet, with the password of the example."""
    data = io.BytesIO()
    with pikepdf.open(io.BytesIO(leaflet())) as pdf:
        pdf.save(
            data, encryption=pikepdf.Encryption(owner="harbour master", user="low water at six")
        )
    return data.getvalue()


def test_the_examples_can_be_sent_as_they_stand(api, described, studio):
    """In this order each finds what it speaks of: job 1 with placement 1, picture 1, check 1 with
    its originals looked for, check 2 that needs its password.
    """
    app, token = described
    spec = app.test_client().get(f"{API}/openapi.json").json
    program = Program(app.test_client(), token)
    program.hands_in("/checks", "locked leaflet.pdf", locked_leaflet(), 202)
    for number in (1, 2):
        read_pdf(studio, number)
    do_document_work(studio, 1)
    do_document_work(studio, program.asks("POST", "/checks/1/originals", 202)["id"])
    finding = program.asks("GET", "/jobs/1/findings", 200)["items"][0]
    numbers = {
        "document_id": 1,
        "job_id": 1,
        "item_id": 1,
        "key": "quay-posters",
        "rule_id": finding["rule"],
    }
    sent = set()
    for path, operations in sorted(spec["paths"].items(), key=lambda one: len(one[0])):
        for method, operation in sorted(operations.items(), key=lambda one: one[0] != "post"):
            content = operation.get("requestBody", {}).get("content", {}).get("application/json")
            if content is None:
                continue
            name = content["schema"]["$ref"].rpartition("/")[2]
            [example] = spec["components"]["schemas"][name]["examples"]
            where = path.removeprefix(API)
            if "texts" in path:
                [*_, numbers["item_id"]] = [1, *(one["id"] for one in texts_of(program))]
            if "acceptance" in path:
                numbers["item_id"] = finding["item"]
            numbers["document_id"] = 2 if "password" in path else 1
            status = next(int(one) for one in operation["responses"] if one < "300")
            program.asks(method.upper(), where.format(**numbers), status, json=example)
            numbers["item_id"] = 1
            sent.add(name)
    assert sent >= {
        "JobIn",
        "TargetValues",
        "PlacementIn",
        "TextIn",
        "TextChange",
        "OutputIn",
        "CopyIn",
    }


def texts_of(program):
    return program.asks("GET", "/jobs/1/texts", 200)["items"]
