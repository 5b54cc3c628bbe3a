"""Starting the server: folders, ports, addresses."""

from __future__ import annotations

import socket
from dataclasses import replace
from pathlib import Path
from urllib.parse import urlsplit

import httpx
import pytest
from fastapi.testclient import TestClient

from neatpatch.api.app import create_app
from neatpatch.api.common import connections
from neatpatch.api.common.listening import CannotServeError, listen
from neatpatch.api.server import (
    AT_HOME,
    ServeOptions,
    app_options,
    data_folder,
    require_loopback,
    run,
    server_for,
)
from neatpatch.jobs.runner import RunnerOptions
from neatpatch.store.datafolder import Library
from tests.served import options_for, served


def test_the_demo_keeps_to_its_own_folder(tmp_path: Path) -> None:
    assert data_folder(tmp_path, demo=True) == tmp_path
    assert data_folder(None, demo=True) != data_folder(None, demo=False)


def test_a_taken_port_is_said_plainly(tmp_path: Path) -> None:
    with socket.socket() as taken:
        taken.bind(("127.0.0.1", 0))
        taken.listen()
        port = taken.getsockname()[1]
        with pytest.raises(CannotServeError, match=f"port {port}.*--port"):
            run(ServeOptions(data=tmp_path / "data", port=port))


@pytest.mark.parametrize("host", ["0.0.0.0", "::", "203.0.113.7", "somewhere.example", ""])
def test_addresses_that_others_reach_are_refused_with_the_reason(host: str) -> None:
    with pytest.raises(CannotServeError, match=r"others could reach it"):
        require_loopback(host)


@pytest.mark.parametrize("host", ["127.0.0.1", "127.3.2.1", "localhost", "::1"])
def test_addresses_of_this_machine_alone_are_taken(host: str) -> None:
    require_loopback(host)


def test_small_answers_leave_at_once() -> None:
    with listen("127.0.0.1", 0) as listener:
        assert listener.proto == socket.IPPROTO_TCP
        assert listener.getsockopt(socket.IPPROTO_TCP, socket.TCP_NODELAY)


def test_an_answered_connection_outlives_a_pause_of_its_reader(tmp_path: Path) -> None:
    """Closed sooner, it is closed as a browser writes to it, and a page loses a file."""
    app = create_app(Library(tmp_path / "data"))
    with listen("127.0.0.1", 0, AT_HOME) as listener:
        assert server_for(app, listener).config.timeout_keep_alive == connections.KEPT_ALIVE_S >= 30


def test_connections_are_bounded_and_free_again(
    tmp_path: Path, page: Path, monkeypatch: pytest.MonkeyPatch
) -> None:
    monkeypatch.setattr(connections, "HEADER_TIMEOUT_S", 600.0)
    app = create_app(Library(tmp_path / "data"), options_for(page))
    with served(app, most_connections=6) as url:
        place = urlsplit(url)
        assert place.hostname
        assert place.port
        idle = [socket.create_connection((place.hostname, place.port)) for _ in range(6)]
        while (status := httpx.get(f"{url}/api/looks").status_code) == 200:
            """Connections that are open here may not have reached the server yet."""
        assert status == 503
        for connection in idle:
            connection.close()
        while httpx.get(f"{url}/api/looks").status_code != 200:
            """Nor may their end."""


def test_port_zero_takes_a_free_one() -> None:
    with listen("127.0.0.1", 0) as listener:
        assert listener.getsockname()[1] > 0


def test_it_answers_under_the_address_it_is_served_on(tmp_path: Path) -> None:
    options = app_options(ServeOptions(data=tmp_path, host="127.3.2.1"))
    app = create_app(Library(tmp_path), replace(options, runner=RunnerOptions(workers=0)))
    with TestClient(app, base_url="http://127.3.2.1:8719") as client:
        assert client.get("/api/health").status_code == 200
        assert client.get("/api/health", headers={"host": "127.9.9.9"}).status_code == 403


def test_a_data_folder_is_a_whole_path(monkeypatch: pytest.MonkeyPatch, tmp_path: Path) -> None:
    monkeypatch.chdir(tmp_path)
    assert data_folder(Path("demo"), demo=True) == tmp_path / "demo"
