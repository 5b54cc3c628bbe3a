"""Long work: how far it is, cancelled, followed."""

from __future__ import annotations

import asyncio
from collections.abc import AsyncIterator
from typing import Annotated

from fastapi import APIRouter, Depends
from fastapi.sse import EventSourceResponse, ServerSentEvent

from neatpatch.api.common.deps import Id, Jobs, LibraryDep, StreamsDep
from neatpatch.core.common.errors import NotThereError
from neatpatch.services.existing import job_of
from neatpatch.services.views import Job

router = APIRouter(prefix="/api")

_POLL_S = 0.04


@router.get("/jobs/{job_id}")
def job(job_id: Id, library: LibraryDep) -> Job:
    """How far a job is."""
    return job_of(library, job_id)


@router.delete("/jobs/{job_id}")
def cancel_job(job_id: Id, library: LibraryDep, runner: Jobs) -> Job:
    """Stop a job. The frame it was about stays, and can be measured again."""
    job_of(library, job_id)
    runner.cancel(job_id)
    return job_of(library, job_id)


def followed_job(job_id: Id, library: LibraryDep, streams: StreamsDep) -> int:
    """A job that is there to be followed, told before the stream begins."""
    job_of(library, job_id)
    streams.require_room()
    return job_id


@router.get("/jobs/{job_id}/events", response_class=EventSourceResponse)
async def job_events(
    job_id: Annotated[int, Depends(followed_job)], library: LibraryDep, streams: StreamsDep
) -> AsyncIterator[ServerSentEvent]:
    """Progress as Server-Sent Events named ``job``, ending with the job's last state."""

    async def look() -> Job | None:
        try:
            return await asyncio.to_thread(job_of, library, job_id)
        except NotThereError:
            return None

    async for current in streams.follow(look, _POLL_S):
        if current is None:
            return
        yield ServerSentEvent(data=current.model_dump(mode="json"), event="job")
        if current.state not in ("queued", "running"):
            return
