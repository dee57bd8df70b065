"""Databases of a test's own on the tests' cluster."""

import os
import re
from collections.abc import Iterator
from contextlib import contextmanager

import psycopg


@contextmanager
def new_database(kind: str) -> Iterator[str]:
    """The address of an empty database, gone afterwards; `kind` tells those of a process apart."""
    cluster = os.environ["HARNET_TEST_DATABASE"]
    name = f"harnet_{kind}_{os.getpid()}"
    with psycopg.connect(cluster.replace("+psycopg", ""), autocommit=True) as link:
        link.execute(f"drop database if exists {name} with (force)")
        link.execute(f"create database {name}")
        yield re.sub(r"/[^/]+$", f"/{name}", cluster)
        link.execute(f"drop database {name} with (force)")
