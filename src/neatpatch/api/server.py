"""Starts the server on this machine."""

from __future__ import annotations

import gc
import ipaddress
import logging
import os
import sys
from dataclasses import dataclass
from pathlib import Path
from types import FrameType

import platformdirs
import uvicorn
from fastapi import FastAPI

from neatpatch.api.app import AppOptions, create_app
from neatpatch.api.common.connections import KEPT_ALIVE_S, BoundedListener, Bounds, protocol_for
from neatpatch.api.common.listening import CannotServeError, listen, raise_descriptor_limit
from neatpatch.api.sharing.serving import PORT
from neatpatch.jobs.runner import RunnerOptions
from neatpatch.store.datafolder import Library
from neatpatch.store.owner import owned, tell_address

_PRIVATE = 0o077


@dataclass(frozen=True, kw_only=True)
class ServeOptions:
    """Where to serve from and at; ``data`` None takes the platform's usual place."""

    data: Path | None
    host: str = "127.0.0.1"
    port: int = 8719
    demo: bool = False
    watched: Path | None = None
    share: bool = False
    share_on: str | None = None
    share_port: int = PORT


def data_folder(chosen: Path | None, *, demo: bool) -> Path:
    """The chosen folder as a whole path, or the usual place; the demo keeps to itself."""
    if chosen is not None:
        return chosen.absolute()
    return Path(platformdirs.user_data_dir("neatpatch-demo" if demo else "neatpatch"))


def run(options: ServeOptions) -> None:
    """Serve until interrupted.

    Raises `CannotServeError` when the address is taken or not this machine's own, or the watched
    folder is not there; `FolderInUseError` when another server holds the data folder.
    """
    if options.watched is not None and not options.watched.is_dir():
        raise CannotServeError(
            f"{options.watched}: there is no such folder to watch. Make it first."
        )
    require_loopback(options.host)
    folder = data_folder(options.data, demo=options.demo)
    os.umask(_PRIVATE)
    with owned(folder):
        library = Library(folder)
        raise_descriptor_limit()
        with listen(options.host, options.port, AT_HOME) as listener:
            app = create_app(library, app_options(options))
            logging.basicConfig(level=logging.INFO, format="%(message)s", stream=sys.stderr)
            shown = f"[{options.host}]" if ":" in options.host else options.host
            address = f"http://{shown}:{listener.getsockname()[1]}/"
            tell_address(folder, address)
            spare_the_collector()
            print(f"Neat Patch is at {address} (data in {folder})", file=sys.stderr, flush=True)
            server_for(app, listener).run(sockets=[listener])


def spare_the_collector() -> None:
    """Take what is loaded by now out of the search for garbage: it lasts as long as the process,
    and looking through all of it held up every request of that moment.
    """
    gc.collect()
    gc.freeze()


def app_options(options: ServeOptions) -> AppOptions:
    """What the application is told: it answers under the address it is served on, too."""
    return AppOptions(
        demo=options.demo,
        watched=options.watched,
        hosts=frozenset({options.host}),
        share=options.share,
        share_on=options.share_on,
        share_port=options.share_port,
        runner=RunnerOptions(warm=True),
    )


MOST_CONNECTIONS = 500
"""More at once are told that the server is busy."""
AT_HOME = Bounds(most=MOST_CONNECTIONS + 100, most_each=MOST_CONNECTIONS + 100)
"""All come from this machine; those beyond the number above are answered still, the rest not."""


def server_for(
    app: FastAPI, listener: BoundedListener, most_connections: int = MOST_CONNECTIONS
) -> uvicorn.Server:
    """The server of an application; its end is told to the jobs before anything is waited for."""
    return _Server(
        uvicorn.Config(
            app,
            log_level="warning",
            access_log=False,
            server_header=False,
            timeout_graceful_shutdown=3,
            timeout_keep_alive=KEPT_ALIVE_S,
            http=protocol_for(listener),
            loop="asyncio",
            limit_concurrency=most_connections,
        )
    )


class _Server(uvicorn.Server):
    def handle_exit(self, sig: int, frame: FrameType | None) -> None:
        state = self.config.app.state  # type: ignore[union-attr]
        state.runner.stopping()
        state.trial.stopping()
        super().handle_exit(sig, frame)


def require_loopback(host: str) -> None:
    """Refuse to serve on an address that others can reach."""
    try:
        local = host == "localhost" or ipaddress.ip_address(host.strip("[]")).is_loopback
    except ValueError:
        local = False
    if not local:
        raise CannotServeError(
            f"cannot serve on {host}: others could reach it without being let in. Use 127.0.0.1, "
            "::1 or localhost, and --share to let devices in by a code."
        )
