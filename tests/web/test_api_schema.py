"""The API against its own OpenAPI description: whatever a program sends, it answers as described.

schemathesis makes the requests from the description, sound ones and unsound ones.
"""

import io
import json
import zipfile

import pytest
import schemathesis
from hypothesis import HealthCheck, given, settings
from hypothesis.errors import Unsatisfiable
from jsonschema import Draft202012Validator
from schemathesis import GenerationMode
from schemathesis.checks import load_all_checks
from schemathesis.specs.openapi.checks import positive_data_acceptance

from harnet.studio.people.tokens import make_token
from harnet.web.api.problems import SCHEMA
from harnet.web.app import create_app
from tests.clients import client_of
from tests.web.test_api import API, Program, jpeg, leaflet

load_all_checks()
_METHODS = {"get", "post", "put", "patch", "delete"}


@pytest.fixture
def described(settings_of_studio, desk):
    app = create_app(settings_of_studio)
    with desk.session() as session:
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
    loaded = schemathesis.openapi.from_wsgi(f"{API}/openapi.json", app)
    loaded.config.headers = {"Authorization": f"Bearer {token}"}
    return loaded


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
        max_examples=15,
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
    assert len(set(names)) == len(names) and {"jobs_make", "packs_hand_in"} < set(names)
    for path, method, operation in operations:
        assert operation["security"] == [{"token": []}], (path, method)
        assert operation["summary"] and {"401", "404", "422"} <= set(operation["responses"])
    for model in spec["components"]["schemas"].values():
        Draft202012Validator.check_schema(model)
