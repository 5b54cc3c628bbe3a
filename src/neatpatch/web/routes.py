"""The API's routes."""

from __future__ import annotations

import asyncio
from collections.abc import AsyncIterator
from pathlib import Path
from typing import Literal

from fastapi import APIRouter, HTTPException, Request, Response
from fastapi.responses import FileResponse
from fastapi.sse import EventSourceResponse, ServerSentEvent

from neatpatch import __version__
from neatpatch.core.mapping import DEFAULT_WORKS_AT
from neatpatch.core.prediction import Prediction, predict
from neatpatch.core.records import SpotMap
from neatpatch.images.tiles import TILE_PX
from neatpatch.store import frames as frame_rows
from neatpatch.store import jobs as job_rows
from neatpatch.store import visits as visit_rows
from neatpatch.store.datafolder import Library
from neatpatch.store.frames import StoredFrame
from neatpatch.store.settings import get_setting, put_setting
from neatpatch.web import exports, intake
from neatpatch.web.casework import require_open
from neatpatch.web.deps import Jobs, Shelf
from neatpatch.web.models import (
    Accepted,
    Archive,
    FrameDetail,
    FrameListing,
    Health,
    Job,
    SensorSize,
    Series,
    Settings,
    SettingsChange,
    job_model,
    listing,
    map_of,
)  # fmt: skip

router = APIRouter(prefix="/api")
_POLL_S = 0.12
WORKS_AT = "works_at"
_FOREVER = {"Cache-Control": "private, max-age=31536000, immutable"}


def _frame(library: Library, frame_id: int) -> StoredFrame:
    with library.database.read() as connection:
        frame = frame_rows.frame_by_id(connection, frame_id)
    if frame is None:
        raise HTTPException(404, "There is no such frame. It may have been removed.")
    return frame


def _works_at(library: Library) -> float:
    with library.database.read() as connection:
        kept = get_setting(connection, WORKS_AT)
    return float(kept) if kept else DEFAULT_WORKS_AT


def _map(library: Library, frame: StoredFrame) -> SpotMap:
    spot_map = map_of(frame, _works_at(library))
    if spot_map is None:
        raise HTTPException(409, "This frame is still being measured. Wait for its map.")
    return spot_map


@router.get("/health")
def health() -> Health:
    """Alive."""
    return Health(status="ok", version=__version__)


@router.get("/settings")
def settings(library: Shelf) -> Settings:
    """What is remembered."""
    with library.database.read() as connection:
        kept = {key: get_setting(connection, key) for key in Settings.model_fields}
    return Settings.model_validate(
        {"works_at": DEFAULT_WORKS_AT, **{k: v for k, v in kept.items() if v is not None}}
    )


@router.put("/settings")
def set_settings(wanted: SettingsChange, library: Shelf) -> Settings:
    """Remember what is given."""
    with library.database.write() as connection:
        for key, value in wanted.model_dump(exclude_none=True).items():
            put_setting(connection, key, str(value))
    return settings(library)


@router.get("/frames")
def frames(library: Shelf) -> Archive:
    """Every frame, the newest first, and the work going on."""
    with library.database.read() as connection:
        rows = frame_rows.all_frames(connection)
        waiting = job_rows.open_jobs(connection)
    works_at = _works_at(library)
    return Archive(
        frames=[listing(row, map_of(row, works_at)) for row in rows],
        open_jobs=[job_model(job) for job in waiting],
    )


@router.post("/frames", status_code=201, openapi_extra={
    "requestBody": {
        "required": True,
        "content": {"application/octet-stream": {"schema": {"type": "string", "format": "binary"}}},
    }
})  # fmt: skip
async def add_frame(
    request: Request, response: Response, library: Shelf, runner: Jobs, name: str = "frame",
    visit: int | None = None,
) -> Accepted:  # fmt: skip
    """Take in one frame as the raw body, onto a visit's trail if one is named.

    The same content again is the same frame.
    """
    if visit is not None:
        await asyncio.to_thread(require_open, library, visit)
    limits = request.app.state.limits
    arrived, sha256, size = await intake.receive(request.stream(), library, limits)
    frame_id, new, job_id = await asyncio.to_thread(
        intake.take_in, library, arrived, sha256, size, name, visit
    )
    runner.nudge()
    if not new:
        response.status_code = 200
    return Accepted(
        frame=_listing(library, frame_id), new=new,
        job=_job(library, job_id) if job_id is not None else None,
    )  # fmt: skip


def _listing(library: Library, frame_id: int) -> FrameListing:
    frame = _frame(library, frame_id)
    return listing(frame, map_of(frame, _works_at(library)))


@router.get("/frames/{frame_id}")
def frame_detail(frame_id: int, library: Shelf) -> FrameDetail:
    """One frame with its map and its newest job."""
    frame = _frame(library, frame_id)
    spot_map = map_of(frame, _works_at(library))
    with library.database.read() as connection:
        job = job_rows.latest_job_of(connection, frame_id)
    return FrameDetail(
        frame=listing(frame, spot_map), map=spot_map, job=job_model(job) if job else None,
        tile_px=TILE_PX, sensor_mm=frame.sensor_mm,
    )  # fmt: skip


@router.delete("/frames/{frame_id}", status_code=204)
def remove_frame(frame_id: int, library: Shelf) -> None:
    """Remove a frame, its map and its original."""
    _frame(library, frame_id)
    with library.database.write() as connection:
        unused = frame_rows.remove_frame(connection, frame_id)
    if unused:
        library.originals.drop(unused)
        library.drop_derived(unused)


@router.put("/frames/{frame_id}/sensor")
def set_sensor(frame_id: int, size: SensorSize, library: Shelf, runner: Jobs) -> Job:
    """Say how large the sensor is; the frame is measured again."""
    frame = _frame(library, frame_id)
    with library.database.write() as connection:
        frame_rows.set_sensor(connection, frame_id, (size.width_mm, size.height_mm))
        job_id = job_rows.add_job(connection, "map", frame.name, frame_id)
    runner.nudge()
    return _job(library, job_id)


@router.put("/frames/{frame_id}/series")
def set_series(frame_id: int, series: Series, library: Shelf, runner: Jobs) -> Job:
    """Say which further frames are of the same moment; all are measured as one series."""
    frame = _frame(library, frame_id)
    for member in series.members:
        _frame(library, member)
    with library.database.write() as connection:
        visit_rows.set_series(connection, frame_id, series.members)
        job_id = job_rows.add_job(connection, "map", frame.name, frame_id)
    runner.nudge()
    return _job(library, job_id)


@router.get("/frames/{frame_id}/tiles/{tone}/{level}/{column}_{row}.jpg")
def tile(
    frame_id: int, tone: Literal["shot", "relief"], level: int, column: int, row: int,
    library: Shelf,
) -> FileResponse:  # fmt: skip
    """One deep-zoom tile."""
    folder = library.derived(_frame(library, frame_id).sha256)
    return _file(folder / tone / str(level) / f"{column}_{row}.jpg")


@router.get("/frames/{frame_id}/thumb/{tone}.jpg")
def thumb(frame_id: int, tone: Literal["shot", "relief"], library: Shelf) -> FileResponse:
    """A small picture of the frame."""
    return _file(library.derived(_frame(library, frame_id).sha256) / f"{tone}.jpg")


def _file(path: Path) -> FileResponse:
    if not path.is_file():
        raise HTTPException(404, "There is no such picture yet.")
    return FileResponse(path, media_type="image/jpeg", headers=_FOREVER)


@router.get("/frames/{frame_id}/map.{form}")
def export(frame_id: int, form: Literal["json", "csv", "svg"], library: Shelf) -> Response:
    """The map as a file."""
    frame = _frame(library, frame_id)
    spot_map = _map(library, frame)
    text = exports.WRITERS[form](spot_map)
    stem = Path(frame.name).stem.encode("ascii", "replace").decode().replace('"', "_")
    header = {"Content-Disposition": f'attachment; filename="{stem}-map.{form}"'}
    return Response(text, media_type=exports.MEDIA[form], headers=header)


@router.get("/frames/{frame_id}/prediction")
def prediction(frame_id: int, f: float, library: Shelf) -> Prediction:
    """How the frame's spots would look at another aperture."""
    return predict(_map(library, _frame(library, frame_id)), f)


def _job(library: Library, job_id: int) -> Job:
    with library.database.read() as connection:
        job = job_rows.job_by_id(connection, job_id)
    if job is None:
        raise HTTPException(404, "There is no such job.")
    return job_model(job)


@router.get("/jobs/{job_id}")
def job(job_id: int, library: Shelf) -> Job:
    """How far a job is."""
    return _job(library, job_id)


@router.delete("/jobs/{job_id}")
def cancel_job(job_id: int, library: Shelf, runner: Jobs) -> Job:
    """Stop a job. A frame that was never measured is removed with it."""
    with library.database.read() as connection:
        found = job_rows.job_by_id(connection, job_id)
    if found is None:
        raise HTTPException(404, "There is no such job.")
    runner.cancel(found)
    return _job(library, job_id)


@router.get("/jobs/{job_id}/events", response_class=EventSourceResponse)
async def job_events(job_id: int, library: Shelf) -> AsyncIterator[ServerSentEvent]:
    """Progress as Server-Sent Events named ``job``, ending with the job's last state."""
    last: Job | None = None
    while last is None or last.state in ("queued", "running"):
        current = await asyncio.to_thread(_job, library, job_id)
        if current != last:
            last = current
            yield ServerSentEvent(data=current.model_dump(mode="json"), event="job")
        if current.state in ("queued", "running"):
            await asyncio.sleep(_POLL_S)


@router.api_route(
    "/{rest:path}", methods=["GET", "POST", "PUT", "PATCH", "DELETE"], include_in_schema=False
)
def unknown(rest: str) -> Response:
    """Anything else under /api does not exist."""
    raise HTTPException(404, f"There is nothing at /api/{rest}.")
