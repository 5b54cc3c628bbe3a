"""What the API gives and takes, beyond the core's own records."""

from __future__ import annotations

from typing import Literal

from pydantic import BaseModel, Field

from neatpatch.core.planners.swab import Hand
from neatpatch.core.records import Given, Number, RowId, SpotMap
from neatpatch.store.datafolder import Condition, Library
from neatpatch.store.frames import StoredFrame
from neatpatch.store.jobs import StoredJob


class Health(BaseModel):
    """Alive, and which version."""

    status: Literal["ok"]
    version: str


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
    file is still what was taken in.
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


class Archive(BaseModel):
    """A page of frames, how many there are in all, and the work still going on.

    ``trouble``: what keeps work from going on, such as a full disk.
    """

    frames: list[FrameListing]
    total: int
    open_jobs: list[Job]
    trouble: str | None


class FrameDetail(BaseModel):
    """One frame with its map, once measured."""

    frame: FrameListing
    map: SpotMap | None
    job: Job | None
    tile_px: int
    picture_ready: bool
    sensor_mm: tuple[float, float] | None


class Accepted(BaseModel):
    """A frame was taken in; ``new`` is false when it was there already."""

    frame: FrameListing
    new: bool
    job: Job | None


class Settings(Given):
    """What this installation remembers: smallest aperture worked at, units, the hand that works."""

    works_at: float = Field(ge=1, le=64)
    units: Literal["metric", "inch"] = "metric"
    hand: Hand = "right"


class SettingsChange(Given):
    """Settings to change; None leaves one as it is."""

    works_at: Number | None = Field(default=None, ge=1, le=64)
    units: Literal["metric", "inch"] | None = None
    hand: Hand | None = None


class SensorSize(Given):
    """Width and height of the sensor in millimetres."""

    width_mm: Number = Field(ge=3, le=120)
    height_mm: Number = Field(ge=3, le=120)


class Series(Given):
    """Further frames of the same body and moment."""

    members: list[RowId] = Field(max_length=20)


def job_model(job: StoredJob) -> Job:
    """A job's row for the API."""
    return Job(
        id=job.id, kind=job.kind, frame_id=job.frame_id, label=job.label, state=job.state,
        progress=job.progress, step=job.step, error=job.error, mapped=job.mapped,
    )  # fmt: skip


def listing(library: Library, frame: StoredFrame, works_at: float) -> FrameListing:
    """A frame's row for the API; nothing of its map is parsed for it."""
    summary = frame.summary
    return FrameListing(
        id=frame.id, name=frame.name, source=frame.source, note=frame.note,
        added_at=frame.added_at, taken_at=summary.taken_at if summary else None,
        ready=summary is not None, count=summary.count if summary else None,
        relevant=summary.relevant(works_at) if summary else None,
        fit=summary.fit if summary else None, sha256=frame.sha256, trouble=frame.trouble,
        original=library.condition(frame.sha256),
    )  # fmt: skip
