"""Starts the server on this machine."""

from __future__ import annotations

import logging
import socket
import sys
from pathlib import Path

import platformdirs
import uvicorn

from neatpatch.core.errors import NeatPatchError
from neatpatch.store.datafolder import Library
from neatpatch.web.app import create_app


class CannotServeError(NeatPatchError):
    """The address is not to be had."""


def data_folder(chosen: Path | None, *, demo: bool) -> Path:
    """The chosen folder, or the platform's usual place; the demo keeps to itself."""
    if chosen is not None:
        return chosen
    return Path(platformdirs.user_data_dir("neatpatch-demo" if demo else "neatpatch"))


def run(
    data: Path | None, host: str, port: int, *, demo: bool = False, watched: Path | None = None
) -> None:
    """Serve until interrupted.

    Raises `CannotServeError` when the port is taken or the watched folder is not there.
    """
    if watched is not None and not watched.is_dir():
        raise CannotServeError(f"{watched}: there is no such folder to watch. Make it first.")
    folder = data_folder(data, demo=demo)
    library = Library(folder)
    listener = _listen(host, port)
    hosts = frozenset() if host in ("127.0.0.1", "localhost", "::1") else frozenset({host})
    app = create_app(library, demo=demo, hosts=hosts, watched=watched)
    logging.basicConfig(level=logging.INFO, format="%(message)s", stream=sys.stderr)
    shown = f"[{host}]" if ":" in host else host
    print(
        f"Neat Patch is at http://{shown}:{listener.getsockname()[1]}/ (data in {folder})",
        file=sys.stderr, flush=True,
    )  # fmt: skip
    config = uvicorn.Config(app, log_level="warning", access_log=False, timeout_graceful_shutdown=3)
    uvicorn.Server(config).run(sockets=[listener])


def _listen(host: str, port: int) -> socket.socket:
    family = socket.AF_INET6 if ":" in host else socket.AF_INET
    listener = socket.socket(family, socket.SOCK_STREAM)
    listener.setsockopt(socket.SOL_SOCKET, socket.SO_REUSEADDR, 1)
    try:
        listener.bind((host, port))
        listener.listen(128)
    except OSError as error:
        listener.close()
        raise CannotServeError(
            f"cannot serve on {host} port {port}: {error.strerror}. Choose another with --port."
        ) from error
    return listener
