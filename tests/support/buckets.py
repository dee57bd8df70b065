"""An S3-compatible server on this machine, and buckets in it."""

import os
from collections.abc import Iterator
from contextlib import contextmanager
from itertools import count

import boto3
from moto.server import ThreadedMotoServer

KEYS = {
    "AWS_ACCESS_KEY_ID": "tarnholm",
    "AWS_SECRET_ACCESS_KEY": "lighthouse",
    "AWS_DEFAULT_REGION": "us-east-1",
}
_numbers = count(1)


@contextmanager
def bucket_server() -> Iterator[str]:
    """The address of a server, stopped afterwards; its keys are in the environment meanwhile."""
    before = {name: os.environ.get(name) for name in KEYS}
    os.environ.update(KEYS)
    server = ThreadedMotoServer("127.0.0.1", 0, verbose=False)
    server.start()
    host, port = server.get_host_and_port()
    try:
        yield f"http://{host}:{port}"
    finally:
        server.stop()
        for name, value in before.items():
            os.environ.pop(name) if value is None else os.environ.update({name: value})


def new_bucket(address: str) -> str:
    """The URL of an empty bucket."""
    name = f"harnet-{os.getpid()}-{next(_numbers)}"
    boto3.client("s3", endpoint_url=address).create_bucket(Bucket=name)
    return f"s3://{name}"
