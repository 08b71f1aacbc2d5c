"""Servers that tests talk to, as processes and threads of their own on this machine."""

from __future__ import annotations

import os
import shutil
import subprocess
import tempfile
from contextlib import contextmanager
from pathlib import Path
from typing import TYPE_CHECKING

import pytest

if TYPE_CHECKING:
    from collections.abc import Iterator

STORE = {
    "AWS_ACCESS_KEY_ID": "larkmoor",
    "AWS_SECRET_ACCESS_KEY": "larkmoor",
    "AWS_DEFAULT_REGION": "us-east-1",
}

SERVER = next(iter(sorted(Path("/usr/lib/postgresql").glob("*/bin/initdb"), reverse=True)), None)


@pytest.fixture(scope="module")
def postgresql() -> Iterator[str]:
    """Start a PostgreSQL server of the test's own, on a socket in a temporary folder; give the URL of a database."""
    if SERVER is None:
        pytest.skip("PostgreSQL is not installed")
    with postgresql_server() as url:
        yield url


@contextmanager
def postgresql_server() -> Iterator[str]:
    """Run a PostgreSQL server while it is needed."""
    assert SERVER is not None
    folder = tempfile.mkdtemp(prefix="fs-pg-")
    as_user: dict[str, object] = {}
    if os.geteuid() == 0:
        # The server does not run as root.
        shutil.chown(folder, "postgres")
        as_user = {"user": "postgres", "group": "postgres"}

    def run(name: str, *arguments: str) -> None:
        subprocess.run(
            [SERVER.with_name(name), *arguments],
            cwd=folder,
            check=True,
            stdout=subprocess.DEVNULL,
            **as_user,  # type: ignore[call-overload, union-attr]
        )

    run("initdb", "-D", f"{folder}/data", "-U", "desk", "-A", "trust", "--no-sync")
    options = f"-c listen_addresses= -c unix_socket_directories={folder} -c fsync=off"
    run("pg_ctl", "-D", f"{folder}/data", "-w", "-l", f"{folder}/log", "-o", options, "start")
    try:
        yield f"postgresql://desk@/postgres?host={folder}"
    finally:
        run("pg_ctl", "-D", f"{folder}/data", "-m", "immediate", "stop")
        shutil.rmtree(folder)


@pytest.fixture(scope="session")
def s3() -> Iterator[dict[str, str]]:
    """A server that speaks S3, with a bucket; what a process needs in its environment to reach it."""
    import boto3
    from moto.server import ThreadedMotoServer

    server = ThreadedMotoServer(ip_address="127.0.0.1", port=0, verbose=False)
    server.start()
    host, port = server.get_host_and_port()
    environment = STORE | {"AWS_ENDPOINT_URL": f"http://{host}:{port}"}
    with pytest.MonkeyPatch.context() as patch:
        for name, value in environment.items():
            patch.setenv(name, value)
        boto3.client("s3").create_bucket(Bucket="larkmoor")
        yield environment
    server.stop()


def put(name: str, content: bytes) -> str:
    """Put a file into the store; return its URL."""
    import boto3

    boto3.client("s3").put_object(Bucket="larkmoor", Key=name, Body=content)
    return f"s3://larkmoor/{name}"


def content_of(name: str) -> bytes:
    """Return what a file of the store holds."""
    import boto3

    return bytes(boto3.client("s3").get_object(Bucket="larkmoor", Key=name)["Body"].read())
