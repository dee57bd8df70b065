"""The published schemas."""

import json
from importlib.resources import files

from jsonschema import Draft202012Validator
from referencing import Registry, Resource

SCHEMAS = files("harnet.schemas")


def schema(name):
    return json.loads((SCHEMAS / name).read_text())


def job_report_validator():
    names = ("targets.schema.json", "job-report.schema.json")
    registry = Registry().with_resources(
        [(f"/schemas/{name}", Resource.from_contents(schema(name))) for name in names]
    )
    return Draft202012Validator(schema(names[1]), registry=registry)
