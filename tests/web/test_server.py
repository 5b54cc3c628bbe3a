"""Starting the server: folders, ports, addresses."""

from __future__ import annotations

import socket
from pathlib import Path

import pytest

from neatpatch.web.server import CannotServeError, _listen, data_folder, run


def test_the_demo_keeps_to_its_own_folder(tmp_path: Path) -> None:
    assert data_folder(tmp_path, demo=True) == tmp_path
    assert data_folder(None, demo=True) != data_folder(None, demo=False)


def test_a_taken_port_is_said_plainly(tmp_path: Path) -> None:
    with socket.socket() as taken:
        taken.bind(("127.0.0.1", 0))
        taken.listen()
        port = taken.getsockname()[1]
        with pytest.raises(CannotServeError, match=f"port {port}.*--port"):
            run(tmp_path / "data", "127.0.0.1", port)


def test_an_address_that_is_not_ours_is_said_plainly() -> None:
    with pytest.raises(CannotServeError, match=r"cannot serve on 203\.0\.113\.7"):
        _listen("203.0.113.7", 0)


def test_port_zero_takes_a_free_one() -> None:
    with _listen("127.0.0.1", 0) as listener:
        assert listener.getsockname()[1] > 0
