"""The views of the application, found by area: every blueprint in the folders beside this file."""

from collections.abc import Iterator
from importlib import import_module
from pathlib import Path
from pkgutil import walk_packages

from apiflask import APIBlueprint
from flask import Blueprint

_WITHOUT_VIEWS = {"access", "common", "drawing"}


def blueprints() -> list[Blueprint]:
    """The pages of all areas, in the order of their modules' names; each once."""
    found = (one for area in _areas() for one in _in(area) if isinstance(one, Blueprint))
    return [one for one in dict.fromkeys(found) if not isinstance(one, APIBlueprint)]


def resources() -> list[APIBlueprint]:
    """What the API answers."""
    return list(dict.fromkeys(one for one in _in("api") if isinstance(one, APIBlueprint)))


def _areas() -> list[str]:
    folders = (one for one in Path(__file__).parent.iterdir() if (one / "__init__.py").exists())
    return sorted(one.name for one in folders if one.name not in _WITHOUT_VIEWS)


def _in(area: str) -> Iterator[object]:
    """The values in the modules of an area."""
    folder = str(Path(__file__).parent / area)
    for module in walk_packages([folder], f"{__package__}.{area}."):
        yield from vars(import_module(module.name)).values()
