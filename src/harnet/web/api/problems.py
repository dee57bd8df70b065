"""Errors of the API as problem details (RFC 9457)."""

from http import HTTPStatus
from typing import Any

from flask import Response, json, make_response, request

MEDIA_TYPE = "application/problem+json"
PREFIX = "/api/"
SCHEMA: dict[str, Any] = {
    "type": "object",
    "description": "Problem details, RFC 9457.",
    "properties": {
        "type": {
            "type": "string",
            "description": "What kind of problem it is, the same in every version.",
        },
        "title": {"type": "string", "description": "The status in words."},
        "status": {"type": "integer", "description": "The status of the answer."},
        "detail": {"type": "string", "description": "What happened, and what to do."},
        "instance": {"type": "string", "description": "The address that was asked."},
        "errors": {
            "type": "object",
            "description": "Where the request does not keep to its form, and how.",
            "additionalProperties": True,
        },
    },
    "required": ["type", "title", "status", "detail"],
}


_CODES = {
    400: "bad-request",
    401: "unauthorized",
    403: "not-allowed",
    404: "not-found",
    405: "method-not-allowed",
    413: "too-large",
    422: "invalid-request",
    500: "internal-error",
}


def problem(
    status: int, detail: str, code: str | None = None, errors: dict[str, Any] | None = None
) -> Response:
    """A problem as an answer; its type names the code of a `HarnetError`, or one of the status."""
    values: dict[str, Any] = {
        "type": f"urn:harnet:problem:{code or _CODES.get(status, 'http-error')}",
        "title": HTTPStatus(status).phrase,
        "status": status,
        "detail": detail,
        "instance": request.path,
    }
    if errors:
        values["errors"] = errors
    response = make_response(json.dumps(values), status)
    response.mimetype = MEDIA_TYPE
    return response


def is_api_request() -> bool:
    """Whether a program asks, which is answered with problems and not with pages."""
    return request.path.startswith(PREFIX)
