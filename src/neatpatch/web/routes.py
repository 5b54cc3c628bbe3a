"""The API's routes."""

from __future__ import annotations

import asyncio
import sqlite3
from collections.abc import AsyncIterator, Callable
from pathlib import Path
from typing import Annotated, Any, Literal

from fastapi import APIRouter, Depends, HTTPException, Query, Request, Response
from fastapi import Path as PathParam
from fastapi.responses import FileResponse
from fastapi.sse import EventSourceResponse, ServerSentEvent

from neatpatch import __version__
from neatpatch.core import DEFAULT_WORKS_AT
from neatpatch.core.errors import NotThereError
from neatpatch.core.prediction import Prediction, predict
from neatpatch.core.records import plain_text
from neatpatch.images.tiles import TILE_PX
from neatpatch.store import frames as frame_rows
from neatpatch.store import jobs as job_rows
from neatpatch.store import visits as visit_rows
from neatpatch.store.datafolder import Library
from neatpatch.store.frames import StoredFrame
from neatpatch.store.jobs import NewJob
from neatpatch.store.settings import get_setting, put_setting
from neatpatch.web import exports, intake
from neatpatch.web.casework import (
    frame_or_404,
    map_or_409,
    recounted,
    require_open,
    visit_or_404,
)
from neatpatch.web.deps import Id, Jobs, LibraryDep, StreamsDep
from neatpatch.web.jobs import Runner
from neatpatch.web.models import (
    Accepted,
    Archive,
    FrameDetail,
    Health,
    Job,
    SensorSize,
    Series,
    Settings,
    SettingsChange,
    job_model,
    listing,
)  # fmt: skip

router = APIRouter(prefix="/api")
_POLL_S = 0.04
WORKS_AT = "works_at"
_FOREVER = {"Cache-Control": "private, max-age=31536000, immutable"}


def _frame(library: Library, frame_id: int) -> StoredFrame:
    with library.database.read() as connection:
        return frame_or_404(connection, frame_id)


def _works_at(library: Library) -> float:
    with library.database.read() as connection:
        kept = get_setting(connection, WORKS_AT)
    return float(kept) if kept else DEFAULT_WORKS_AT


@router.get("/health")
def health() -> Health:
    """Alive."""
    return Health(status="ok", version=__version__)


@router.get("/settings")
def settings(library: LibraryDep) -> Settings:
    """What is remembered."""
    with library.database.read() as connection:
        kept = {key: get_setting(connection, key) for key in Settings.model_fields}
    return Settings.model_validate(
        {"works_at": DEFAULT_WORKS_AT, **{k: v for k, v in kept.items() if v is not None}}
    )


@router.put("/settings")
def set_settings(wanted: SettingsChange, library: LibraryDep) -> Settings:
    """Remember what is given."""
    with library.database.write() as connection:
        for key, value in wanted.model_dump(exclude_none=True).items():
            put_setting(connection, key, str(value))
    return settings(library)


@router.get("/frames")
def frames(
    library: LibraryDep, runner: Jobs, first: Annotated[int, Query(ge=0, le=10_000_000)] = 0,
    count: Annotated[int, Query(ge=1, le=200)] = 60,
) -> Archive:  # fmt: skip
    """A page of frames, the newest first, and the work going on."""
    with library.database.read() as connection:
        rows, total = frame_rows.list_frames(connection, first, count)
        waiting = job_rows.open_jobs(connection)
    works_at = _works_at(library)
    return Archive(
        frames=[listing(library, row, works_at) for row in rows], total=total,
        open_jobs=[job_model(job) for job in waiting], trouble=runner.trouble,
    )  # fmt: skip


@router.post("/frames", status_code=201, responses={200: {"model": Accepted}}, openapi_extra={
    "requestBody": {
        "required": True,
        "content": {"application/octet-stream": {"schema": {"type": "string", "format": "binary"}}},
    }
})  # fmt: skip
async def add_frame(
    request: Request, response: Response, library: LibraryDep, runner: Jobs, name: str = "frame",
    visit: Annotated[int | None, Query(ge=1, le=2**53 - 1)] = None,
) -> Accepted:  # fmt: skip
    """Take in one frame as the raw body, onto a visit's trail if one is named.

    The same content again is the same frame.
    """
    if visit is not None:
        await asyncio.to_thread(_require_open_visit, library, visit)
    try:
        arrived = await intake.receive(
            request.stream(), library, request.app.state.limits, request.app.state.stalled_s
        )
    except intake.StalledError:
        raise HTTPException(408, "The upload stalled and was dropped. Send it again.") from None
    taken = await asyncio.to_thread(intake.take_in, library, arrived, name, visit_id=visit)
    runner.nudge()
    if not taken.new:
        response.status_code = 200
    return await asyncio.to_thread(_accepted, library, taken)


def _require_open_visit(library: Library, visit_id: int) -> None:
    with library.database.read() as connection:
        require_open(visit_or_404(connection, visit_id))


def _accepted(library: Library, taken: intake.TakenIn) -> Accepted:
    return Accepted(
        frame=listing(library, _frame(library, taken.frame_id), _works_at(library)), new=taken.new,
        job=_job(library, taken.job_id) if taken.job_id is not None else None,
    )  # fmt: skip


@router.get("/frames/{frame_id}")
def frame_detail(frame_id: Id, library: LibraryDep) -> FrameDetail:
    """One frame with its map and its newest job."""
    works_at = _works_at(library)
    with library.database.read() as connection:
        frame = frame_or_404(connection, frame_id)
        job = job_rows.latest_job_of(connection, frame_id)
        found = library.maps.spot_map(connection, frame_id)
    return FrameDetail(
        frame=listing(library, frame, works_at), map=recounted(found, works_at) if found else None,
        job=job_model(job) if job else None, tile_px=TILE_PX, sensor_mm=frame.sensor_mm,
        picture_ready=library.derived(frame.sha256).is_dir(),
    )  # fmt: skip


@router.delete("/frames/{frame_id}", status_code=204)
def remove_frame(frame_id: Id, library: LibraryDep, runner: Jobs) -> None:
    """Remove a frame, its map and its original; work on it ends."""
    with library.database.read() as connection:
        frame_or_404(connection, frame_id)
        job = job_rows.latest_job_of(connection, frame_id)
    library.remove_frame(frame_id)
    if job is not None:
        runner.drop(job.id)


@router.post("/frames/{frame_id}/measure")
def measure_again(frame_id: Id, library: LibraryDep, runner: Jobs) -> Job:
    """Measure a frame once more, for example when it could not be measured before."""
    return _queue(library, runner, frame_id)


def _queue(
    library: Library, runner: Runner, frame_id: int, kind: Literal["map", "picture"] = "map",
    change: Callable[[sqlite3.Connection], None] | None = None,
) -> Job:  # fmt: skip
    """Queue work on a frame, after a change to it in the same transaction."""
    with library.database.write() as connection:
        frame = frame_or_404(connection, frame_id)
        if change is not None:
            change(connection)
        job_id = job_rows.add_job(
            connection, NewJob(kind=kind, label=frame.name, frame_id=frame_id)
        )
    runner.nudge()
    return _job(library, job_id)


@router.put("/frames/{frame_id}/sensor")
def set_sensor(frame_id: Id, size: SensorSize, library: LibraryDep, runner: Jobs) -> Job:
    """Say how large the sensor is; the frame is measured again."""

    def change(connection: sqlite3.Connection) -> None:
        frame_rows.set_sensor(connection, frame_id, (size.width_mm, size.height_mm))

    return _queue(library, runner, frame_id, change=change)


@router.put("/frames/{frame_id}/series")
def set_series(frame_id: Id, series: Series, library: LibraryDep, runner: Jobs) -> Job:
    """Say which further frames are of the same moment; all are measured as one series."""

    def change(connection: sqlite3.Connection) -> None:
        for member in series.members:
            frame_or_404(connection, member)
        visit_rows.set_series(connection, frame_id, series.members)

    return _queue(library, runner, frame_id, change=change)


_Pixel = Annotated[int, PathParam(ge=0, le=100_000)]
_PICTURE: dict[int | str, dict[str, Any]] = {
    200: {"content": {"image/jpeg": {"schema": {"type": "string", "format": "binary"}}}}
}


@router.get(
    "/frames/{frame_id}/tiles/{tone}/{level}/{column}_{row}.jpg", response_class=FileResponse,
    responses=_PICTURE,
)  # fmt: skip
def tile(
    frame_id: Id, tone: Literal["shot", "relief"], level: Annotated[int, PathParam(ge=0, le=40)],
    column: _Pixel, row: _Pixel, library: LibraryDep, runner: Jobs,
) -> FileResponse:  # fmt: skip
    """One deep-zoom tile."""
    return _picture(library, runner, frame_id, f"{tone}/{level}/{column}_{row}.jpg")


@router.get("/frames/{frame_id}/thumb/{tone}.jpg", response_class=FileResponse, responses=_PICTURE)
def thumb(
    frame_id: Id, tone: Literal["shot", "relief"], library: LibraryDep, runner: Jobs
) -> FileResponse:
    """A small picture of the frame."""
    return _picture(library, runner, frame_id, f"{tone}.jpg")


def _picture(library: Library, runner: Runner, frame_id: Id, name: str) -> FileResponse:
    """A derived picture; one that was lost is made again."""
    frame = _frame(library, frame_id)
    folder = library.derived(frame.sha256)
    if frame.summary is not None and not folder.is_dir():
        _queue(library, runner, frame_id, "picture")
    path = folder / name
    if not path.is_file():
        raise NotThereError("There is no such picture yet.")
    return FileResponse(path, media_type="image/jpeg", headers=_FOREVER)


_MAP_FILE: dict[int | str, dict[str, Any]] = {
    200: {"content": {media.partition(";")[0]: {} for media in exports.MEDIA.values()}}
}


@router.get("/frames/{frame_id}/map.{form}", response_class=Response, responses=_MAP_FILE)
def export(frame_id: Id, form: Literal["json", "csv", "svg"], library: LibraryDep) -> Response:
    """The map as a file."""
    frame = _frame(library, frame_id)
    spot_map = map_or_409(library, frame_id, _works_at(library))
    text = exports.WRITERS[form](spot_map)
    stem = Path(frame.name).stem.encode("ascii", "replace").decode().replace('"', "_")
    header = {"Content-Disposition": f'attachment; filename="{stem}-map.{form}"'}
    return Response(text, media_type=exports.MEDIA[form], headers=header)


@router.get("/frames/{frame_id}/prediction")
def prediction(
    frame_id: Id, f: Annotated[float, Query(ge=0.7, le=128)], library: LibraryDep
) -> Prediction:
    """How the frame's spots would look at another aperture."""
    return predict(map_or_409(library, frame_id, _works_at(library)), f)


def _job(library: Library, job_id: int) -> Job:
    with library.database.read() as connection:
        job = job_rows.job_by_id(connection, job_id)
    if job is None:
        raise NotThereError("There is no such job.")
    return job_model(job)


@router.get("/jobs/{job_id}")
def job(job_id: Id, library: LibraryDep) -> Job:
    """How far a job is."""
    return _job(library, job_id)


@router.delete("/jobs/{job_id}")
def cancel_job(job_id: Id, library: LibraryDep, runner: Jobs) -> Job:
    """Stop a job. The frame it was about stays, and can be measured again."""
    _job(library, job_id)
    runner.cancel(job_id)
    return _job(library, job_id)


def followed_job(job_id: Id, library: LibraryDep, streams: StreamsDep) -> int:
    """A job that is there to be followed, told before the stream begins."""
    _job(library, job_id)
    streams.require_room()
    return job_id


@router.get("/jobs/{job_id}/events", response_class=EventSourceResponse)
async def job_events(
    job_id: Annotated[int, Depends(followed_job)], library: LibraryDep, streams: StreamsDep
) -> AsyncIterator[ServerSentEvent]:
    """Progress as Server-Sent Events named ``job``, ending with the job's last state."""

    async def look() -> Job | None:
        try:
            return await asyncio.to_thread(_job, library, job_id)
        except NotThereError:
            return None

    async for current in streams.follow(look, _POLL_S):
        if current is None:
            return
        yield ServerSentEvent(data=current.model_dump(mode="json"), event="job")
        if current.state not in ("queued", "running"):
            return


@router.api_route(
    "/{rest:path}", methods=["GET", "POST", "PUT", "PATCH", "DELETE"], include_in_schema=False
)
def unknown(rest: str) -> Response:
    """Anything else under /api does not exist."""
    raise NotThereError(f"There is nothing at /api/{plain_text(rest)}.")
