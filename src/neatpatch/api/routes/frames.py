"""Frames: taken in, listed, measured, given out as files."""

from __future__ import annotations

import asyncio
import sqlite3
from pathlib import Path
from typing import Annotated, Any, Literal

from fastapi import APIRouter, HTTPException, Query, Request, Response
from pydantic import BaseModel, Field

from neatpatch.api.common.deps import Id, Jobs, LibraryDep, TroubleDep
from neatpatch.core.common.records import Given, Number, RowId, SpotMap
from neatpatch.core.maps.prediction import Prediction, predict
from neatpatch.core.visit.camera_recognition import Known, guessed_sensor_mm
from neatpatch.images.tiles import TILE_PX
from neatpatch.jobs.runner import Runner
from neatpatch.services.common.lookups import (
    frame_of,
    frame_or_refuse,
    job_of,
    measured_map,
    recounted,
    require_open,
    visit_or_refuse,
)
from neatpatch.services.common.settings import smallest_worked
from neatpatch.services.common.views import FrameListing, Job, job_model, listing
from neatpatch.services.frames import intake
from neatpatch.services.frames import map_files as exports
from neatpatch.services.frames.camera_matching import recognised
from neatpatch.services.frames.example import take_in_example
from neatpatch.services.frames.queue_measurement import queue_work
from neatpatch.store import bodies as body_rows
from neatpatch.store import frames as frame_rows
from neatpatch.store import jobs as job_rows
from neatpatch.store import visits as visit_rows
from neatpatch.store.datafolder import Library
from neatpatch.store.frames import stop_searching
from neatpatch.store.maps import clues_in
from neatpatch.store.visits import VisitState

router = APIRouter(prefix="/api")


class Archive(BaseModel):
    """A page of frames, how many there are of their sort, and the work still going on.

    ``trouble``: what keeps work from going on, such as a full disk.
    """

    frames: list[FrameListing]
    total: int
    open_jobs: list[Job]
    trouble: str | None


class KnownBody(BaseModel):
    """The body that a frame is of, and by what it is known: its sensor's own pattern, the serial
    number or the name in its file.
    """

    body_id: int
    name: str
    by: Known


class OnVisit(BaseModel):
    """A visit that a frame lies on."""

    visit_id: int
    body_id: int
    body_name: str
    state: VisitState


class FrameDetail(BaseModel):
    """One frame with its map, once measured.

    ``guessed_sensor_mm``: the usual format its file speaks for. ``visits``: where it lies.
    """

    frame: FrameListing
    map: SpotMap | None
    job: Job | None
    tile_px: int
    picture_ready: bool
    sensor_mm: tuple[float, float] | None
    recognised: KnownBody | None
    guessed_sensor_mm: tuple[float, float] | None
    visits: list[OnVisit]


class Accepted(BaseModel):
    """A frame was taken in; ``new`` is false when it was there already."""

    frame: FrameListing
    new: bool
    job: Job | None


class SensorSize(Given):
    """Width and height of the sensor in millimetres."""

    width_mm: Number = Field(ge=3, le=120)
    height_mm: Number = Field(ge=3, le=120)


class Aperture(Given):
    """The aperture a frame was shot at, by the user's word."""

    f_number: Number = Field(ge=1, le=128)


class Series(Given):
    """Further frames of the same body and moment."""

    members: list[RowId] = Field(max_length=20)


@router.get("/frames")
def frames(
    library: LibraryDep,
    trouble: TroubleDep,
    first: Annotated[int, Query(ge=0, le=10_000_000)] = 0,
    count: Annotated[int, Query(ge=1, le=200)] = 60,
    words: Annotated[str, Query(max_length=200)] = "",
    only: frame_rows.OnlyFrames = "all",
    order: frame_rows.FrameOrder = "newest",
) -> Archive:
    """A page of frames found by ``words``, in an order, and the work going on."""
    with library.database.read() as connection:
        rows, total = frame_rows.list_frames(
            connection, first, count, words=words.strip(), only=only, order=order
        )
        waiting = job_rows.open_jobs(connection)
    works_at = smallest_worked(library)
    return Archive(
        frames=[listing(library, row, works_at) for row in rows],
        total=total,
        open_jobs=[job_model(job) for job in waiting],
        trouble=trouble,
    )


@router.post(
    "/frames",
    status_code=201,
    responses={200: {"model": Accepted}},
    openapi_extra={
        "requestBody": {
            "required": True,
            "content": {
                "application/octet-stream": {"schema": {"type": "string", "format": "binary"}}
            },
        }
    },
)
async def add_frame(
    request: Request,
    response: Response,
    library: LibraryDep,
    runner: Jobs,
    name: str = "frame",
    visit: Annotated[int | None, Query(ge=1, le=2**53 - 1)] = None,
    body: Annotated[int | None, Query(ge=1, le=2**53 - 1)] = None,
    find_camera: bool = False,
) -> Accepted:
    """Take in one frame as the raw body, onto a visit's trail if one is named.

    With ``find_camera`` it goes onto the open visit of its camera once it is measured, or begins
    one: of ``body`` where that is told, else of the camera it is recognised as. The same content
    again is the same frame.
    """
    goal = intake.UploadTarget(
        visit_id=visit, body_id=body, find_camera=find_camera or body is not None
    )
    if visit is not None:
        await asyncio.to_thread(_require_open_visit, library, visit)
    try:
        arrived = await intake.receive(
            request.stream(), library, request.app.state.limits, request.app.state.stalled_s
        )
    except intake.StalledError:
        raise HTTPException(408, "The upload stalled and was dropped. Send it again.") from None
    taken = await asyncio.to_thread(intake.accept_file, library, arrived, name, goal)
    runner.nudge()
    if not taken.new:
        response.status_code = 200
    return await asyncio.to_thread(_accepted, library, taken)


@router.post("/frames/example", status_code=201)
def add_example(library: LibraryDep, runner: Jobs) -> Accepted:
    """Take in a frame of the virtual camera, for who has none yet; again it is the same one."""
    frame_id = take_in_example(library)
    runner.nudge()
    with library.database.read() as connection:
        job = job_rows.latest_job_of(connection, frame_id)
    return Accepted(
        frame=listing(library, frame_of(library, frame_id), smallest_worked(library)),
        new=job is not None and not job.finished,
        job=job_model(job) if job is not None else None,
    )


def _require_open_visit(library: Library, visit_id: int) -> None:
    with library.database.read() as connection:
        require_open(visit_or_refuse(connection, visit_id))


def _accepted(library: Library, taken: intake.IntakeResult) -> Accepted:
    return Accepted(
        frame=listing(library, frame_of(library, taken.frame_id), smallest_worked(library)),
        new=taken.new,
        job=job_of(library, taken.job_id) if taken.job_id is not None else None,
    )


@router.get("/frames/{frame_id}")
def frame_detail(frame_id: Id, library: LibraryDep) -> FrameDetail:
    """One frame with its map and its newest job."""
    works_at = smallest_worked(library)
    with library.database.read() as connection:
        frame = frame_or_refuse(connection, frame_id)
        job = job_rows.latest_job_of(connection, frame_id)
        spot_map = library.maps.spot_map(connection, frame_id)
        known = recognised(connection, frame_id, spot_map) if spot_map else None
        clues = clues_in(connection, frame_id)
        names = body_rows.name_of(connection)
        on = [
            visit_or_refuse(connection, v)
            for v in visit_rows.visits_with_frame(connection, frame_id)
        ]
    return FrameDetail(
        frame=listing(library, frame, works_at),
        map=recounted(spot_map, works_at) if spot_map else None,
        job=job_model(job) if job else None,
        tile_px=TILE_PX,
        sensor_mm=frame.sensor_mm,
        picture_ready=library.derived(frame.sha256).is_dir(),
        recognised=known
        and KnownBody(body_id=known.body_id, name=names[known.body_id], by=known.by),
        guessed_sensor_mm=guessed_sensor_mm(spot_map.frames[0], clues) if spot_map else None,
        visits=[
            OnVisit(visit_id=v.id, body_id=v.body_id, body_name=names[v.body_id], state=v.state)
            for v in on
        ],
    )


@router.delete("/frames/{frame_id}", status_code=204)
def remove_frame(frame_id: Id, library: LibraryDep, runner: Jobs) -> None:
    """Remove a frame with its map; work on it ends. It can be put back: its file is set aside."""
    with library.database.read() as connection:
        frame_or_refuse(connection, frame_id)
        job = job_rows.latest_job_of(connection, frame_id)
    library.take_frame_out(frame_id)
    if job is not None:
        runner.drop(job.id)


@router.post("/frames/{frame_id}/restore", status_code=204)
def restore_frame(frame_id: Id, library: LibraryDep) -> None:
    """Put a removed frame back where it was, on its trail too."""
    library.put_frame_back(frame_id)


@router.delete("/frames/{frame_id}/search", status_code=204)
def keep_alone(frame_id: Id, library: LibraryDep) -> None:
    """Keep a frame on its own: it looks for its camera no more."""
    with library.database.write() as connection:
        frame_or_refuse(connection, frame_id)
        stop_searching(connection, frame_id)


@router.post("/frames/{frame_id}/measure")
def measure_again(frame_id: Id, library: LibraryDep, runner: Jobs) -> Job:
    """Measure a frame once more, for example when it could not be measured before."""
    return _queued(runner, queue_work(library, frame_id))


def _queued(runner: Runner, job: Job) -> Job:
    runner.nudge()
    return job


@router.put("/frames/{frame_id}/sensor")
def set_sensor(frame_id: Id, size: SensorSize, library: LibraryDep, runner: Jobs) -> Job:
    """Say how large the sensor is; the frame is measured again."""

    def change(connection: sqlite3.Connection) -> None:
        frame_rows.set_sensor(connection, frame_id, (size.width_mm, size.height_mm))

    return _queued(runner, queue_work(library, frame_id, change=change))


@router.put("/frames/{frame_id}/aperture")
def set_aperture(frame_id: Id, entered: Aperture, library: LibraryDep, runner: Jobs) -> Job:
    """Say at which aperture a frame was shot whose file has none recorded; it is measured again."""

    def change(connection: sqlite3.Connection) -> None:
        frame_rows.set_aperture(connection, frame_id, entered.f_number)

    return _queued(runner, queue_work(library, frame_id, change=change))


@router.put("/frames/{frame_id}/series")
def set_series(frame_id: Id, series: Series, library: LibraryDep, runner: Jobs) -> Job:
    """Say which further frames are of the same moment; all are measured as one series."""

    def change(connection: sqlite3.Connection) -> None:
        for member in series.members:
            frame_or_refuse(connection, member)
        visit_rows.set_series(connection, frame_id, series.members)

    return _queued(runner, queue_work(library, frame_id, change=change))


_MAP_FILE: dict[int | str, dict[str, Any]] = {
    200: {"content": {media.partition(";")[0]: {} for media in exports.MEDIA.values()}}
}


@router.get("/frames/{frame_id}/map.{form}", response_class=Response, responses=_MAP_FILE)
def export(frame_id: Id, form: Literal["json", "csv", "svg"], library: LibraryDep) -> Response:
    """The map as a file."""
    frame = frame_of(library, frame_id)
    spot_map = measured_map(library, frame_id, smallest_worked(library))
    text = exports.WRITERS[form](spot_map)
    stem = Path(frame.name).stem.encode("ascii", "replace").decode().replace('"', "_")
    header = {"Content-Disposition": f'attachment; filename="{stem}-map.{form}"'}
    return Response(text, media_type=exports.MEDIA[form], headers=header)


@router.get("/frames/{frame_id}/prediction")
def prediction(
    frame_id: Id, f: Annotated[float, Query(ge=0.7, le=128)], library: LibraryDep
) -> Prediction:
    """How the frame's spots would look at another aperture."""
    return predict(measured_map(library, frame_id, smallest_worked(library)), f)
