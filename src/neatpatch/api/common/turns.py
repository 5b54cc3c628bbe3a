"""Reads take turns.

One interpreter answers one request at a time, however many threads it has. Twenty reads begun at
once all end at the end, and a step that is logged beside them waits for its share; two at a time
each end sooner, and none waits longer.
"""

from __future__ import annotations

import asyncio

from starlette.types import ASGIApp, Message, Receive, Scope, Send

AT_ONCE = 2
"""One computes while another reads the disk."""
GIVES_WAY_S = 0.5
"""A read that takes longer keeps nobody waiting: its place is free for the next one."""


class ReadsInTurn:
    """Begins ``at_once`` reads of the API at a time, in their order; what writes is let through.

    A place is held from the start of a read to the start of its answer, ``gives_way_s`` at most.
    """

    def __init__(
        self, app: ASGIApp, at_once: int = AT_ONCE, gives_way_s: float = GIVES_WAY_S
    ) -> None:
        self._app, self._gives_way_s = app, gives_way_s
        self._places = asyncio.Semaphore(at_once)
        self.free = at_once

    async def __call__(self, scope: Scope, receive: Receive, send: Send) -> None:
        if scope["type"] != "http" or scope["method"] != "GET" or "/api/" not in scope["path"]:
            await self._app(scope, receive, send)
            return
        await self._places.acquire()
        self.free -= 1
        held = True

        def leave() -> None:
            nonlocal held
            if held:
                held = False
                self.free += 1
                self._places.release()

        too_long = asyncio.get_running_loop().call_later(self._gives_way_s, leave)

        async def send_and_leave(message: Message) -> None:
            leave()
            await send(message)

        try:
            await self._app(scope, receive, send_and_leave)
        finally:
            too_long.cancel()
            leave()
