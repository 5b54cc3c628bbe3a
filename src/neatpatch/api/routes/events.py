"""One event stream for a whole page: browsers allow six connections, and pages need them."""

from __future__ import annotations

import asyncio
from collections.abc import AsyncIterator
from typing import Annotated, Any

from fastapi import APIRouter, Depends, Query
from fastapi.sse import EventSourceResponse, ServerSentEvent

from neatpatch.api.common.deps import LibraryDep, StreamsDep
from neatpatch.services.common.lookups import visit_or_refuse
from neatpatch.services.common.views import Job
from neatpatch.services.visits.live_updates import LiveUpdates

router = APIRouter(prefix="/api")
_POLL_S = 0.08
"""Short beside a frame's second; each look reads a few rows."""

_Seen = tuple[list[Job], tuple[int | None, int | None]]


def followed(
    library: LibraryDep,
    streams: StreamsDep,
    visit: Annotated[int | None, Query(ge=1, le=2**53 - 1)] = None,
) -> LiveUpdates:
    """What is followed; a visit that is not there is told before the stream begins."""
    if visit is not None:
        with library.database.read() as connection:
            visit_or_refuse(connection, visit)
    streams.require_room()
    return LiveUpdates(library, visit)


@router.get("/events", response_class=EventSourceResponse)
async def events(
    following: Annotated[LiveUpdates, Depends(followed)], streams: StreamsDep
) -> AsyncIterator[ServerSentEvent]:
    """All long work as Server-Sent Events named ``job``.

    Of the open ``visit`` its version, and that of the hands' place in it, as ``visit`` and
    ``hands``, so that all pages stay in step.
    """

    def look_now() -> _Seen:
        return following.changed_jobs(), following.versions()

    async def look() -> _Seen:
        return await asyncio.to_thread(look_now)

    last: tuple[int | None, int | None] = (None, None)
    async for jobs, versions in streams.follow(look, _POLL_S):
        for job in jobs:
            yield ServerSentEvent(data=job.model_dump(mode="json"), event="job")
        for name, now, before in zip(("visit", "hands"), versions, last, strict=True):
            if now != before:
                yield ServerSentEvent(data=_version(following, now), event=name)
        last = versions


def _version(following: LiveUpdates, version: int | None) -> dict[str, Any]:
    return {"id": following.visit_id, "version": version}
