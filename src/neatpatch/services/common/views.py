"""Rows of frames and jobs as they are shown."""

from __future__ import annotations

from typing import Literal

from pydantic import BaseModel

from neatpatch.store.datafolder import Condition, Library
from neatpatch.store.frames import StoredFrame
from neatpatch.store.jobs import StoredJob


class Job(BaseModel):
    """Long work: how far it is, and how it ended. ``mapped``: its frame has a map already."""

    id: int
    kind: Literal["map", "picture", "demo", "shoot"]
    frame_id: int | None
    label: str
    state: Literal["queued", "running", "done", "failed", "cancelled"]
    progress: float
    step: str
    error: str | None
    mapped: bool


class FrameListing(BaseModel):
    """A frame as the first screen lists it.

    ``trouble``: why it has no map, when it could not be measured. ``original``: whether the stored
    file is still what was taken in. ``visit_id``: the newest visit it lies on. ``asks_camera``: it
    looks for its camera and did not find it.
    """

    id: int
    name: str
    source: Literal["upload", "demo"]
    note: str
    added_at: str
    taken_at: str | None
    ready: bool
    count: int | None
    relevant: int | None
    fit: bool | None
    sha256: str
    trouble: str | None
    original: Condition
    visit_id: int | None
    body_name: str | None
    asks_camera: bool


def job_model(job: StoredJob) -> Job:
    """A job's row for the API."""
    return Job(
        id=job.id,
        kind=job.kind,
        frame_id=job.frame_id,
        label=job.label,
        state=job.state,
        progress=job.progress,
        step=job.step,
        error=job.error,
        mapped=job.mapped,
    )


def listing(library: Library, frame: StoredFrame, works_at: float) -> FrameListing:
    """A frame's row for the API; nothing of its map is parsed for it."""
    summary = frame.summary
    return FrameListing(
        id=frame.id,
        name=frame.name,
        source=frame.source,
        note=frame.note,
        added_at=frame.added_at,
        taken_at=summary.taken_at if summary else None,
        ready=summary is not None,
        count=summary.count if summary else None,
        relevant=summary.relevant(works_at) if summary else None,
        fit=summary.fit if summary else None,
        sha256=frame.sha256,
        trouble=frame.trouble,
        original=library.condition(frame.sha256),
        visit_id=frame.visit_id,
        body_name=frame.body_name,
        asks_camera=frame.seeks and summary is not None,
    )
