"""The door of the API: its description, its tokens, and how its resources are mounted."""

import json
from typing import Any

from apiflask import APIBlueprint, APIFlask, HTTPError, HTTPTokenAuth
from flask import Response
from flask_wtf.csrf import CSRFProtect

from harnet.studio.people.tokens import token_behind
from harnet.web.api.problems import MEDIA_TYPE, SCHEMA, problem
from harnet.web.common.shared import studio

ADDRESS = "/api/v1"
DESCRIPTION = (
    "Harnet for programs: pictures, jobs, placements, targets, checks of PDFs, outputs."
    " Lengths are points (1/72 inch) unless a name says otherwise, densities pixels per inch."
    " Every request carries a token, made under /tokens: `Authorization: Bearer …`."
    " Errors are problem details (RFC 9457)."
)
CONFIG = {
    "SPEC_FORMAT": "json",
    "OPENAPI_VERSION": "3.1.0",
    "DESCRIPTION": DESCRIPTION,
    "AUTO_VALIDATION_ERROR_RESPONSE": False,
    "AUTO_AUTH_ERROR_RESPONSE": False,
    "AUTO_404_RESPONSE": False,
    "AUTO_SERVERS": False,
    "AUTO_OPERATION_ID": True,
    "SERVERS": [{"url": "/", "description": "The Harnet that serves this description."}],
}
_PROBLEMS = {
    "400": "The request is malformed.",
    "401": "The token is missing or not valid.",
    "403": "The person whose token it is may not do this.",
    "404": "There is nothing at this address.",
    "409": "Someone else changed the same thing in the meantime.",
    "413": "The body is larger than the limit.",
    "422": "The request is valid but cannot be carried out; the detail says why.",
    "503": "The database or the store does not answer at the moment; try again later.",
}
_IN_ADDRESSES = {
    "job_id": "The job's number.",
    "item_id": "The number of the placement or text.",
    "picture_id": "The picture's number.",
    "document_id": "The check's number.",
    "output_id": "The output's number.",
    "work_id": "The number of what is made of a check.",
    "opening_id": "The number of the opening.",
    "key": "The target's key: lower-case letters, figures and hyphens.",
    "rule_id": "The id of the rule that found it.",
}
_FAILS = "x-fails"
_ROW = {"type": "integer", "minimum": 1, "maximum": 999_999_999}
auth = HTTPTokenAuth(description="A token made under /tokens.", security_scheme_name="token")


def _bearer(token: str) -> str | None:
    with studio().session() as session:
        row = token_behind(session, token) if token else None
        return row.label if row else None


auth.verify_token(_bearer)


@auth.error_processor
def _turned_away(error: HTTPError) -> Any:
    return problem(error.status_code, "Send a token: Authorization: Bearer … Make one at /tokens.")


def file_answer(description: str, media_type: str = "application/octet-stream") -> Any:
    """How an operation that answers with a file is described."""
    return {200: {"description": description, "content": {media_type: {}}}}


def same_answer(description: str, model: str) -> Any:
    """How the answer to what was sent before is described: 200, and the thing that is there."""
    schema = {"schema": {"$ref": f"#/components/schemas/{model}"}}
    return {200: {"description": description, "content": {"application/json": schema}}}


def fails(*statuses: int) -> dict[str, list[str]]:
    """What an operation says of itself where it fails in more ways than its form tells."""
    return {_FAILS: [str(status) for status in statuses]}


EDIT = fails(409, 422)
"""An edit is made on what the job was when it was begun, and may are not valid on it."""


def resource(name: str, tag: str) -> APIBlueprint:
    """A blueprint for one kind of thing; every request to it needs a token."""
    blueprint = APIBlueprint(f"api_{name}", __name__, url_prefix=ADDRESS, tag=tag)

    @blueprint.before_request
    @blueprint.auth_required(auth)
    def ask() -> None:
        return None

    return blueprint


def open_door(app: APIFlask, csrf: CSRFProtect, resources: list[APIBlueprint]) -> None:
    """Mounts the resources. Programs have no session, so their tokens stand for form tokens."""
    app.error_processor(_misread)
    app.spec_processor(_with_problems)
    for blueprint in resources:
        csrf.exempt(blueprint)
        app.register_blueprint(blueprint)


def _misread(error: HTTPError) -> Response:
    """What does not keep to its form, said at its first place."""
    places = [
        f"{place}: {errors[0].removeprefix('Value error, ').rstrip('.')}."
        for fields in (error.detail or {}).values()
        for place, errors in fields.items()
    ]
    detail = places[0] if places else str(error.message)
    return problem(error.status_code, detail, errors=error.detail)


def _with_problems(spec: Any) -> Any:
    """Says of every operation how it fails, and of every number in an address what it is."""
    spec = _each_thing_once(spec)
    spec["components"]["schemas"]["Problem"] = SCHEMA
    content = {MEDIA_TYPE: {"schema": {"$ref": "#/components/schemas/Problem"}}}
    for path, operations in spec["paths"].items():
        for operation in operations.values():
            # Said here: a scheme that several blueprints share is told of the first alone.
            operation["security"] = [{auth.name: []}]
            # The resource and what is done with it, as jobs_make.
            operation["operationId"] = operation["operationId"].partition("_api_")[2]
            for parameter in operation["parameters"]:
                if parameter["in"] == "path":
                    parameter["required"] = True
                    parameter["description"] = _IN_ADDRESSES[parameter["name"]]
                    if parameter["schema"] == {"type": "integer"}:
                        parameter["schema"] = _ROW
                else:
                    parameter["description"] = parameter["schema"].pop("description")
            if "requestBody" in operation:
                operation["requestBody"]["required"] = True
            for status in _failures(path, operation):
                answer = {"description": _PROBLEMS[status], "content": content}
                operation["responses"].setdefault(status, answer)
    return spec


def _failures(path: str, operation: dict[str, Any]) -> list[str]:
    """How an operation can fail, by what it takes and by what it says of itself."""
    found = {"401", "403", "503", *operation.pop(_FAILS, ())}
    if "{" in path:
        found.add("404")
    if "requestBody" in operation:
        found |= {"400", "413", "422"}
    if any(parameter["in"] == "query" for parameter in operation["parameters"]):
        found.add("422")
    return sorted(found)


def _each_thing_once(spec: Any) -> Any:
    """Names a form that is part of others by its own name, not once for each of them."""
    schemas = spec["components"]["schemas"]
    text = json.dumps(spec)
    for name in sorted(schemas, key=len, reverse=True):
        if "." in name:
            own = name.rpartition(".")[2]
            text = text.replace(f'"#/components/schemas/{name}"', f'"#/components/schemas/{own}"')
    document = json.loads(text)
    once: dict[str, Any] = {}
    for name, form in document["components"]["schemas"].items():
        own = name.rpartition(".")[2]
        if once.setdefault(own, form) != form:
            raise ValueError(f"two forms are called {own}")
    document["components"]["schemas"] = once
    return document
