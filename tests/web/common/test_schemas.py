"""The published schemas: each at its own address, every reference leading somewhere."""

from importlib.resources import files
from urllib.parse import urljoin

import pytest
from jsonschema import Draft202012Validator
from referencing import Registry, Resource

HOST = "http://localhost"
NAMES = [file.name for file in files("harnet.schemas").iterdir() if ".schema." in file.name]


@pytest.mark.parametrize("name", NAMES)
def test_it_is_served_where_its_id_says_and_its_references_resolve(client, name):
    def fetched(uri):
        answer = client.get(uri.removeprefix(HOST))
        assert answer.status_code == 200, uri
        return Resource.from_contents(answer.json)

    address = f"{HOST}/schemas/{name}"
    schema = fetched(address).contents
    assert urljoin(address, schema["$id"]) == address
    Draft202012Validator.check_schema(schema)
    resolver = Registry(retrieve=fetched).resolver(base_uri=address)
    references = list(_references(schema))
    for reference in references:
        assert isinstance(resolver.lookup(reference).contents, dict)
    assert references or name.startswith("pdf-")


def _references(node):
    if isinstance(node, dict):
        if isinstance(node.get("$ref"), str):
            yield node["$ref"]
        for value in node.values():
            yield from _references(value)
    elif isinstance(node, list):
        for value in node:
            yield from _references(value)


@pytest.mark.parametrize("name", ["../app.py", "moon.schema.json", "__init__.py"])
def test_nothing_else_is_served(client, name):
    assert client.get(f"/schemas/{name}").status_code == 404
