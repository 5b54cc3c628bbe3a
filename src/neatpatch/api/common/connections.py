"""How many connections one takes at once, from whom, and how long each may keep one waiting.

Connections are counted where they are accepted, before TLS: a stranger who opens hundreds of them
meets a closed one and uses up nothing. What is accepted must finish its handshake, its request's
head and its body in time, the second request on a kept connection like the first.
"""

from __future__ import annotations

import asyncio
import logging
import socket
import time
from collections import Counter
from dataclasses import dataclass
from typing import Any

import h11
from uvicorn.protocols.http.h11_impl import H11Protocol

HANDSHAKE_S = 5.0
"""From being accepted to the end of the TLS handshake; a slow network takes one second."""
HEADER_TIMEOUT_S = 15.0
"""From its first byte (of the first request: from being connected) to the end of a head."""
BODY_STALLED_S = 40.0
"""Without a byte of the body; an upload's own limit is shorter and answers in words."""
KEPT_ALIVE_S = 60
"""An answered connection waits so long for the next request. With a few seconds a busy server
closes several at the very moment a browser writes to them, and a page loses its style sheet."""
LEAST_BODY_RATE = 1000.0
"""Bytes a second on the whole, after the time above: a drip would hold a connection for hours."""
_LOOK_EVERY_S = 0.5
_MOST_REFUSED_AT_ONCE = 64
"""Refused in one go; then others of the loop have their turn."""
_SAY_EVERY_S = 60.0
_log = logging.getLogger("neatpatch.connections")


@dataclass(frozen=True)
class Bounds:
    """``most`` in all, ``most_each`` from one address; ``handshake_s``: None without TLS."""

    most: int
    most_each: int
    handshake_s: float | None = None


class _Counted(socket.socket):
    """A connection that says when it is closed."""

    counted_by: BoundedListener | None = None
    greeted = False

    def close(self) -> None:
        counter, self.counted_by = self.counted_by, None
        peer = self.peer
        super().close()
        if counter is not None:
            counter.closed(peer)

    peer: tuple[str, int] = ("", 0)


class BoundedListener(socket.socket):
    """A listening socket that closes what is one too many as soon as it is accepted."""

    bounds = Bounds(most=10_000, most_each=10_000)

    def __init__(self, *args: Any, **more: Any) -> None:
        super().__init__(*args, **more)
        self._each: Counter[str] = Counter()
        self._open: dict[tuple[str, int], _Counted] = {}
        self._refused, self._said_at = 0, -_SAY_EVERY_S

    @property
    def open_now(self) -> int:
        """Connections that are open."""
        return len(self._open)

    def accept(self) -> tuple[socket.socket, Any]:
        """The next connection within the bounds. Raises `BlockingIOError` where none waits."""
        for _ in range(_MOST_REFUSED_AT_ONCE):
            connection, address = super().accept()
            peer = (str(address[0]), int(address[1]))
            if self._is_room_for(peer[0]):
                return self._counted(connection, peer), address
            connection.close()
            self._say_refused(peer[0])
        raise BlockingIOError

    def _is_room_for(self, host: str) -> bool:
        return len(self._open) < self.bounds.most and self._each[host] < self.bounds.most_each

    def _counted(self, connection: socket.socket, peer: tuple[str, int]) -> _Counted:
        counted = _Counted(
            connection.family, connection.type, connection.proto, fileno=connection.detach()
        )
        counted.counted_by, counted.peer = self, peer
        self._each[peer[0]] += 1
        self._open[peer] = counted
        if self.bounds.handshake_s is not None:
            loop = asyncio.get_running_loop()
            loop.call_later(self.bounds.handshake_s, self._end_ungreeted, counted)
        return counted

    def closed(self, peer: tuple[str, int]) -> None:
        """A connection is closed."""
        if self._open.pop(peer, None) is not None:
            self._each[peer[0]] -= 1
            if not self._each[peer[0]]:
                del self._each[peer[0]]

    def greet(self, peer: tuple[str, int] | None) -> None:
        """The handshake of a connection is done."""
        found = self._open.get(peer) if peer else None
        if found is not None:
            found.greeted = True

    @staticmethod
    def _end_ungreeted(connection: _Counted) -> None:
        """The other end learns of it, and the loop closes what is left."""
        if not connection.greeted and connection.counted_by is not None:
            try:
                connection.shutdown(socket.SHUT_RDWR)
            except OSError:
                return

    def _say_refused(self, host: str) -> None:
        """One line for a flood, not one for each."""
        self._refused += 1
        now = time.monotonic()
        if now - self._said_at >= _SAY_EVERY_S:
            _log.warning(
                "Too many connections at once: %d refused, the last from %s", self._refused, host
            )
            self._said_at, self._refused = now, 0


class BoundedProtocol(H11Protocol):
    """Closes connections that keep one waiting: for a head, for a body, at a drip."""

    listener: BoundedListener | None = None
    _looking: asyncio.TimerHandle | None = None
    _phase: str | None = "head"
    _since = _last_at = 0.0
    _received = 0

    def connection_made(self, transport: asyncio.Transport) -> None:  # type: ignore[override]
        super().connection_made(transport)
        self._since = self._last_at = self.loop.time()
        if self.listener is not None:
            self.listener.greet(self.client)
        self._looking = self.loop.call_later(_LOOK_EVERY_S, self._look)

    def connection_lost(self, exc: Exception | None) -> None:
        if self._looking is not None:
            self._looking.cancel()
        super().connection_lost(exc)

    def data_received(self, data: bytes) -> None:
        self._last_at = self.loop.time()
        self._received += len(data)
        super().data_received(data)
        self._enter(self._awaited())

    def _awaited(self) -> str | None:
        """What the other end still owes; None where it is our turn, or nothing was asked yet."""
        if self.flow.read_paused:
            return None
        if self.conn.their_state is h11.SEND_BODY:
            return "body"
        if self.cycle is None or (
            self.conn.their_state is h11.IDLE and self.conn.trailing_data[0] != b""
        ):
            return "head"
        return None

    def _enter(self, phase: str | None) -> None:
        if phase != self._phase:
            self._phase, self._since, self._received = phase, self.loop.time(), 0

    def _look(self) -> None:
        if self.transport.is_closing():
            return
        self._enter(self._awaited())
        if self._is_too_slow():
            self.transport.abort()
            return
        self._looking = self.loop.call_later(_LOOK_EVERY_S, self._look)

    def _is_too_slow(self) -> bool:
        now = self.loop.time()
        took = now - self._since
        if self._phase == "head":
            return took > HEADER_TIMEOUT_S
        if self._phase == "body":
            stalled = now - max(self._last_at, self._since) > BODY_STALLED_S
            return stalled or (
                took > BODY_STALLED_S and self._received < LEAST_BODY_RATE * (took - BODY_STALLED_S)
            )
        return False


def protocol_for(listener: BoundedListener) -> type[BoundedProtocol]:
    """The protocol of one listener's connections."""
    return type("Bounded", (BoundedProtocol,), {"listener": listener})
