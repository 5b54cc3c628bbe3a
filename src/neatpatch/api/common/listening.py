"""Sockets to listen on, and how long one waits on a connection."""

from __future__ import annotations

import asyncio
import socket

from uvicorn.protocols.http.h11_impl import H11Protocol

from neatpatch.core.common.errors import NeatPatchError

HEADER_TIMEOUT_S = 15.0
"""A connection that has not sent a whole request line and headers by then is closed."""


class CannotServeError(NeatPatchError):
    """The address is not to be had, or not to be used."""


class BoundedProtocol(H11Protocol):
    """Closes connections whose first request never gets whole."""

    _waiting: asyncio.TimerHandle | None = None

    def connection_made(self, transport: asyncio.Transport) -> None:  # type: ignore[override]
        super().connection_made(transport)
        self._waiting = self.loop.call_later(HEADER_TIMEOUT_S, self._give_up)

    def data_received(self, data: bytes) -> None:
        super().data_received(data)
        if self._waiting is not None and self.cycle is not None:
            self._waiting.cancel()
            self._waiting = None

    def _give_up(self) -> None:
        if self.cycle is None and not self.transport.is_closing():
            self.transport.close()


def listen(host: str, port: int) -> socket.socket:
    """A listening socket; small answers leave at once (TCP_NODELAY).

    asyncio turns Nagle's algorithm off only on sockets that say they are TCP, which one made
    without the protocol's number does not.
    """
    family = socket.AF_INET6 if ":" in host else socket.AF_INET
    listener = socket.socket(family, socket.SOCK_STREAM, socket.IPPROTO_TCP)
    listener.setsockopt(socket.SOL_SOCKET, socket.SO_REUSEADDR, 1)
    listener.setsockopt(socket.IPPROTO_TCP, socket.TCP_NODELAY, 1)
    try:
        listener.bind((host, port))
        listener.listen(128)
    except OSError as error:
        listener.close()
        raise CannotServeError(
            f"cannot serve on {host} port {port}: {error.strerror}. Choose another with --port."
        ) from error
    return listener
