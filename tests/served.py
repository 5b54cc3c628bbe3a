"""Serving the real application in tests, and asking it."""

from __future__ import annotations

import threading
import time
from collections.abc import Iterator
from contextlib import contextmanager
from pathlib import Path
from typing import Any

import httpx
from fastapi import FastAPI

from neatpatch.api.app import AppOptions
from neatpatch.api.common.listening import listen
from neatpatch.api.server import AT_HOME, MOST_CONNECTIONS, server_for
from neatpatch.images.limits import Limits
from neatpatch.jobs.runner import RunnerOptions

LIMITS = Limits(max_bytes=6_000_000, max_pixels=20_000_000)


@contextmanager
def served(app: FastAPI, most_connections: int = MOST_CONNECTIONS) -> Iterator[str]:
    """The application behind its real server in a thread of its own; gives its address."""
    with listen("127.0.0.1", 0, AT_HOME) as listener:
        server = server_for(app, listener, most_connections)
        thread = threading.Thread(target=server.run, kwargs={"sockets": [listener]})
        thread.start()
        try:
            yield f"http://127.0.0.1:{listener.getsockname()[1]}"
        finally:
            server.should_exit = True
            thread.join()


def options_for(page: Path, workers: int = 1, **more: Any) -> AppOptions:
    """Options of a small application; it is shared, if at all, on a second loopback address."""
    runner = RunnerOptions(workers=workers)
    at = {"share_on": "127.0.0.2", "share_port": 0}
    return AppOptions(limits=LIMITS, runner=runner, page=page, **{**at, **more})


def upload(client: httpx.Client, path: Path, name: str | None = None) -> httpx.Response:
    """Post a file's bytes."""
    response: httpx.Response = client.post(
        "/api/frames", params={"name": name or path.name}, content=path.read_bytes()
    )
    return response


def wait(client: httpx.Client, job_id: int, seconds: float = 300) -> dict[str, Any]:
    """Wait for a job to end."""
    deadline = time.monotonic() + seconds
    while time.monotonic() < deadline:
        job: dict[str, Any] = client.get(f"/api/jobs/{job_id}").json()
        if job["state"] not in ("queued", "running"):
            return job
        time.sleep(0.05)
    raise AssertionError("the job did not end")


def assert_problem(response: httpx.Response, status: int, words: str) -> None:
    """The one shape of errors."""
    assert response.status_code == status
    assert response.headers["content-type"] == "application/problem+json"
    body = response.json()
    assert set(body) == {"type", "title", "status", "detail"}
    assert body["status"] == status
    assert words in body["detail"]
