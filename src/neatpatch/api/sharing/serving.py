"""The second server, on the network and over TLS, beside the one on this machine."""

from __future__ import annotations

import asyncio
import contextlib
import logging
from collections.abc import Iterator
from dataclasses import dataclass
from typing import TYPE_CHECKING

import uvicorn
from starlette.concurrency import run_in_threadpool
from starlette.responses import Response
from starlette.types import ASGIApp

from neatpatch.api.common.connections import HANDSHAKE_S, KEPT_ALIVE_S, Bounds, protocol_for
from neatpatch.api.common.listening import CannotServeError, listen
from neatpatch.api.common.plain_headers import PlainHeaders
from neatpatch.api.sharing.door import SharedDoor
from neatpatch.services.reports.rendering import MEDIA, REPORT_POLICY, rendered
from neatpatch.services.reports.visit_report import visit_sheet
from neatpatch.services.sharing.network import own_address
from neatpatch.services.sharing.pairing import PairingDesk
from neatpatch.store.datafolder import Library

if TYPE_CHECKING:
    from neatpatch.services.sharing.certificate import Certificate

PORT = 8720
_MOST_CONNECTIONS = 200
_BOUNDS = Bounds(most=_MOST_CONNECTIONS + 40, most_each=40, handshake_s=HANDSHAKE_S)
"""A browser opens six; forty leave room for several on one device, and for others beside it."""
_FOLDER = "sharing"
_NO_NETWORK = (
    "this machine is on no network that a phone could reach it by. Join one, then try again."
)
_log = logging.getLogger("neatpatch.sharing")


@dataclass(frozen=True)
class Place:
    """Where it is shared. ``address``: host and port."""

    address: str
    certificate: Certificate

    @property
    def url(self) -> str:
        """Its first page."""
        return f"https://{self.address}"


class _Beside(uvicorn.Server):
    """A server in the loop of another one, which hears the signals."""

    @contextlib.contextmanager
    def capture_signals(self) -> Iterator[None]:
        yield


class Sharing:
    """Starts and ends the second server. Off until it is started."""

    def __init__(self, library: Library, host: str | None = None, port: int = PORT) -> None:
        self.door = PairingDesk(library)
        self._library, self._host, self._port = library, host, port
        self._app: ASGIApp | None = None
        self._server: _Beside | None = None
        self._task: asyncio.Task[None] | None = None
        self._changing = asyncio.Lock()
        self.place: Place | None = None

    def serve_this(self, app: ASGIApp) -> None:
        """Name the application that is shared."""
        self._app = app

    async def start(self) -> Place:
        """Share, if it is not shared yet. Raises `CannotServeError` where it cannot be."""
        async with self._changing:
            return self.place or await self._start()

    async def _start(self) -> Place:
        host = self._host or own_address()
        if host is None:
            raise CannotServeError(_NO_NETWORK)
        assert self._app is not None
        from neatpatch.services.sharing.certificate import certificate_for  # slow to load

        certificate = await run_in_threadpool(certificate_for, self._library.root / _FOLDER, host)
        listener = listen(host, self._port, _BOUNDS)
        place = Place(f"{host}:{listener.getsockname()[1]}", certificate)
        door = SharedDoor(self._app, self.door, place.address, self._report)
        server = _Beside(
            uvicorn.Config(
                PlainHeaders(door),
                log_level="warning",
                access_log=False,
                server_header=False,
                lifespan="off",
                ssl_keyfile=certificate.key,
                ssl_certfile=certificate.certificate,
                timeout_graceful_shutdown=3,
                timeout_keep_alive=KEPT_ALIVE_S,
                http=protocol_for(listener),
                loop="asyncio",
                limit_concurrency=_MOST_CONNECTIONS,
            )
        )
        self._task = asyncio.create_task(server.serve(sockets=[listener]))
        while not server.started:
            if self._task.done():
                listener.close()
                await self._task
                raise CannotServeError("sharing did not start. Stop Neat Patch and start it again.")
            await asyncio.sleep(0.01)
        self._server, self.place = server, place
        _log.info("Shared at %s/pair", place.url)
        return place

    async def stop(self, *, wait: bool = True) -> None:
        """Share no more; devices stay known for the next time.

        ``wait``: until the last connection is closed; not for who asks through one of them.
        """
        async with self._changing:
            self.door.withdraw()
            server, task = self._server, self._task
            self._server = self._task = self.place = None
            if server is not None and task is not None:
                server.should_exit = True
                if wait:
                    await task

    async def _report(self, visit_id: int) -> Response:
        return await run_in_threadpool(self._made_report, visit_id)

    def _made_report(self, visit_id: int) -> Response:
        text = rendered(visit_sheet(self._library, visit_id), "html")
        policy = {"Content-Security-Policy": REPORT_POLICY}
        return Response(text, media_type=MEDIA["html"], headers=policy)
