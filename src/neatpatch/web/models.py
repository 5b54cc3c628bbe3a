"""What the API gives and takes, beyond the core's own records."""

from __future__ import annotations

from typing import Literal

from pydantic import BaseModel, Field

from neatpatch.core.mapping import summarise
from neatpatch.core.planners.swab import Hand
from neatpatch.core.records import SpotMap
from neatpatch.store.frames import StoredFrame
from neatpatch.store.jobs import StoredJob


class Health(BaseModel):
    """Alive, and which version."""

    status: Literal["ok"]
    version: str


class Job(BaseModel):
    """Long work: how far it is, and how it ended."""

    id: int
    kind: Literal["map", "demo", "shoot"]
    frame_id: int | None
    label: str
    state: Literal["queued", "running", "done", "failed", "cancelled"]
    progress: float
    step: str
    error: str | None


class FrameListing(BaseModel):
    """A frame as the first screen lists it."""

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


class Archive(BaseModel):
    """All frames, and the work still going on."""

    frames: list[FrameListing]
    open_jobs: list[Job]


class FrameDetail(BaseModel):
    """One frame with its map, once measured."""

    frame: FrameListing
    map: SpotMap | None
    job: Job | None
    tile_px: int
    sensor_mm: tuple[float, float] | None


class Accepted(BaseModel):
    """A frame was taken in; ``new`` is false when it was there already."""

    frame: FrameListing
    new: bool
    job: Job | None


class Settings(BaseModel):
    """What this installation remembers: smallest aperture worked at, units, the hand that works."""

    works_at: float = Field(ge=1, le=64)
    units: Literal["metric", "inch"] = "metric"
    hand: Hand = "right"


class SettingsChange(BaseModel):
    """Settings to change; None leaves one as it is."""

    works_at: float | None = Field(default=None, ge=1, le=64)
    units: Literal["metric", "inch"] | None = None
    hand: Hand | None = None


class SensorSize(BaseModel):
    """Width and height of the sensor in millimetres."""

    width_mm: float = Field(ge=3, le=120)
    height_mm: float = Field(ge=3, le=120)


class Series(BaseModel):
    """Further frames of the same body and moment."""

    members: list[int] = Field(max_length=20)


def job_model(job: StoredJob) -> Job:
    """A job's row for the API."""
    return Job(
        id=job.id, kind=job.kind, frame_id=job.frame_id, label=job.label, state=job.state,
        progress=job.progress, step=job.step, error=job.error,
    )  # fmt: skip


def map_of(frame: StoredFrame, works_at: float) -> SpotMap | None:
    """A stored frame's map as a record, its relevant spots counted anew for ``works_at``."""
    if frame.map_json is None:
        return None
    found = SpotMap.model_validate_json(frame.map_json)
    record = found.frames[0]
    summary = summarise(found.spots, works_at, record.width_px * record.height_px)
    return found.model_copy(update={"summary": summary})


def listing(frame: StoredFrame, spot_map: SpotMap | None) -> FrameListing:
    """A frame's row for the API."""
    summary = spot_map.summary if spot_map else None
    return FrameListing(
        id=frame.id, name=frame.name, source=frame.source, note=frame.note,
        added_at=frame.added_at, taken_at=spot_map.frames[0].taken_at if spot_map else None,
        ready=spot_map is not None, count=summary.count if summary else None,
        relevant=summary.relevant if summary else None, fit=spot_map.fit if spot_map else None,
        sha256=frame.sha256,
    )  # fmt: skip
