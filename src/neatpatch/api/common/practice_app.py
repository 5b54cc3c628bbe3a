"""The room of a whole clean: the same application over a data folder of its own.

Nothing practised can mix with the record, for it lies in another database: no list, no odds, no
stock, no backup of the real one ever sees it. The room opens when it is first entered.
"""

from __future__ import annotations

import asyncio
import threading
from collections.abc import AsyncIterator, Callable
from contextlib import AsyncExitStack, asynccontextmanager
from pathlib import Path

from fastapi import FastAPI
from starlette.types import Receive, Scope, Send

from neatpatch.api.common.problems import problem
from neatpatch.store.datafolder import Library

FOLDER = "practice"


class PracticeApp:
    """The room, as an application within the application."""

    def __init__(self, root: Path, make: Callable[[Library], FastAPI]) -> None:
        self._folder, self._make = root / FOLDER, make
        self._opening = threading.Lock()
        self._library: Library | None = None
        self._app: FastAPI | None = None
        self._entering = asyncio.Lock()
        self._stack: AsyncExitStack | None = None

    def opened(self) -> Library:
        """Its data folder, made when first asked for. Raises `StoreError` where that fails."""
        with self._opening:
            if self._library is None:
                self._library = Library(self._folder)
            return self._library

    @property
    def is_there(self) -> bool:
        """Whether a clean was ever begun."""
        return self._folder.is_dir()

    def nudge(self) -> None:
        """Say that there is something to do in the room, if it is open."""
        if self._app is not None:
            self._app.state.runner.nudge()

    def stopping(self) -> None:
        """Announce the shutdown before anything is waited for."""
        if self._app is not None:
            self._app.state.runner.stopping()

    @asynccontextmanager
    async def kept(self) -> AsyncIterator[None]:
        """While this lasts the room can be entered; then its work ends."""
        async with AsyncExitStack() as stack:
            self._stack = stack
            yield
            self._stack = None

    async def __call__(self, scope: Scope, receive: Receive, send: Send) -> None:
        app = await self._entered()
        if app is None:
            await problem(503, "Neat Patch is stopping. Start it again, then open this page anew.")(
                scope, receive, send
            )
            return
        await app(scope, receive, send)

    async def _entered(self) -> FastAPI | None:
        async with self._entering:
            if self._app is None and self._stack is not None:
                app = self._make(await asyncio.to_thread(self.opened))
                await self._stack.enter_async_context(app.router.lifespan_context(app))
                self._app = app
            return self._app
