"""Event streams: so many at once and no more, none for ever, all ended when the server ends."""

from __future__ import annotations

import asyncio
import time
from collections.abc import AsyncIterator, Awaitable, Callable
from typing import TypeVar

from neatpatch.core.common.errors import BusyError

MOST_STREAMS = 100
LONGEST_S = 1800.0
"""A browser asks again by itself; one that is gone is noticed by then at the latest."""
Seen = TypeVar("Seen")


class Streams:
    """Counts the streams now open."""

    def __init__(self, ending: Callable[[], bool], most: int = MOST_STREAMS) -> None:
        self._ending, self._most, self._open = ending, most, 0

    def require_room(self) -> None:
        """Refuse one stream too many."""
        if self._open >= self._most:
            raise BusyError("Too many pages follow at once. Close some, then load this one again.")

    async def follow(
        self, look: Callable[[], Awaitable[Seen]], every_s: float
    ) -> AsyncIterator[Seen]:
        """What ``look`` gives, whenever it changes, until the stream or the server ends."""
        self._open += 1
        begun, last, first = time.monotonic(), None, True
        try:
            while not self._ending() and time.monotonic() - begun < LONGEST_S:
                seen = await look()
                if first or seen != last:
                    first, last = False, seen
                    yield seen
                await asyncio.sleep(every_s)
        finally:
            self._open -= 1
