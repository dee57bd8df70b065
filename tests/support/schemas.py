"""The published schemas."""

import json
from importlib.resources import files

from jsonschema import Draft202012Validator
from referencing import Registry, Resource

SCHEMAS = files("harnet.schemas")


def schema(name):
    return json.loads((SCHEMAS / name).read_text())


def report_validator(name):
    """What checks a report, whose target is described in the schema of targets."""
    shared = "targets.schema.json"
    registry = Registry().with_resource(
        f"/schemas/{shared}", Resource.from_contents(schema(shared))
    )
    return Draft202012Validator(schema(name), registry=registry)
