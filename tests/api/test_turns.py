"""Reads take turns, writes go on, and one that takes long keeps nobody waiting."""

from __future__ import annotations

import asyncio
from collections.abc import Awaitable, Callable
from concurrent.futures import ThreadPoolExecutor
from typing import Any

from starlette.types import Message, Receive, Scope, Send

from neatpatch.api.common.turns import ReadsInTurn

AT_ONCE = 2


class Slow:
    """An application whose answers wait until they are let go."""

    def __init__(self) -> None:
        self.begun: list[str] = []
        self.let_go = asyncio.Event()

    async def __call__(self, scope: Scope, receive: Receive, send: Send) -> None:
        self.begun.append(scope["path"])
        await self.let_go.wait()
        await send({"type": "http.response.start", "status": 200, "headers": []})

    async def begins(self, count: int) -> None:
        while len(self.begun) < count:
            await asyncio.sleep(0)


async def ask(app: ReadsInTurn, path: str, method: str = "GET") -> list[Message]:
    answered: list[Message] = []

    async def receive() -> Message:
        raise AssertionError("nothing is to be received")

    async def send(message: Message) -> None:
        answered.append(message)

    await app({"type": "http", "method": method, "path": path}, receive, send)
    return answered


def within_loop(test: Callable[[], Awaitable[Any]]) -> None:
    """In a loop of its own, even where a browser's loop runs in this thread."""

    async def run() -> None:
        await test()

    with ThreadPoolExecutor(1) as pool:
        pool.submit(asyncio.run, run()).result()


def test_the_third_read_waits_for_one_of_two_and_a_step_does_not() -> None:
    async def test() -> None:
        slow = Slow()
        app = ReadsInTurn(slow, AT_ONCE, gives_way_s=3600)
        reads = [asyncio.create_task(ask(app, f"/api/frames/{n}")) for n in range(3)]
        await slow.begins(2)
        step = asyncio.create_task(ask(app, "/api/visits/1/steps", "POST"))
        page = asyncio.create_task(ask(app, "/assets/index.js"))
        await slow.begins(4)
        assert "/api/frames/2" not in slow.begun
        slow.let_go.set()
        await asyncio.gather(*reads, step, page)
        assert slow.begun[-1] == "/api/frames/2"

    within_loop(test)


def test_a_long_read_gives_way_once_and_is_answered_all_the_same() -> None:
    async def test() -> None:
        slow = Slow()
        app = ReadsInTurn(slow, AT_ONCE, gives_way_s=0.001)
        reads = [asyncio.create_task(ask(app, f"/api/frames/{n}")) for n in range(6)]
        await slow.begins(6)
        slow.let_go.set()
        assert all(len(answered) == 1 for answered in await asyncio.gather(*reads))
        assert app.free == AT_ONCE

    within_loop(test)


def test_a_read_that_breaks_leaves_its_place() -> None:
    async def broken(_scope: Scope, _receive: Receive, _send: Send) -> None:
        raise ValueError("broken")

    async def test() -> None:
        app = ReadsInTurn(broken, AT_ONCE, gives_way_s=3600)
        answers = await asyncio.gather(
            *(ask(app, "/api/frames") for _ in range(5)), return_exceptions=True
        )
        assert all(isinstance(answer, ValueError) for answer in answers)
        assert app.free == AT_ONCE

    within_loop(test)
