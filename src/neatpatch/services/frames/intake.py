"""Frames come in: streamed to disk, hashed on the way, refused early when hopeless."""

from __future__ import annotations

import asyncio
import hashlib
import os
from collections.abc import AsyncIterator
from dataclasses import dataclass
from pathlib import Path, PurePosixPath

from neatpatch.core.common.errors import UnusableFrameError
from neatpatch.core.common.records import plain_text
from neatpatch.images.limits import DEFAULT_LIMITS, Limits, check_bytes
from neatpatch.images.sniff import sniff
from neatpatch.services.common.fingerprints import join_body
from neatpatch.services.common.lookups import body_or_refuse, require_open, visit_or_refuse
from neatpatch.services.frames.camera_matching import send_to_camera
from neatpatch.store import jobs as job_rows
from neatpatch.store.datafolder import Library
from neatpatch.store.frames import NewFrame
from neatpatch.store.jobs import NewJob

STALLED_S = 30.0
"""An upload that sends nothing for so long has lost its sender."""
_LONGEST_NAME = 120


class StalledError(Exception):
    """The sender of an upload fell silent."""


@dataclass(frozen=True)
class ArrivedFile:
    """A complete file on disk, not kept yet."""

    path: Path
    sha256: str
    size: int


@dataclass(frozen=True)
class IntakeResult:
    """A kept frame: its id, whether it is new, and its open job if it has one."""

    frame_id: int
    new: bool
    job_id: int | None


def clean_name(name: str) -> str:
    """A file name fit to be shown: no folders, no control characters, not endless."""
    last = PurePosixPath(plain_text(name).replace("\\", "/")).name
    kept = "".join(c for c in last if c.isprintable()).strip()
    return kept[-_LONGEST_NAME:] or "frame"


async def receive(
    chunks: AsyncIterator[bytes],
    library: Library,
    limits: Limits = DEFAULT_LIMITS,
    stalled_s: float = STALLED_S,
) -> ArrivedFile:
    """Stream a body to disk and sync it.

    Raises, leaving nothing behind, when it is empty, too large or no picture by content; and
    `StalledError` when nothing comes for ``stalled_s``.
    """
    path = library.originals.arriving()
    digest, size = hashlib.sha256(), 0
    try:
        with path.open("wb") as out:
            while (chunk := await _next_chunk(chunks, stalled_s)) is not None:
                size += len(chunk)
                if size > limits.max_bytes:
                    check_bytes(size, limits)
                digest.update(chunk)
                out.write(chunk)
            check_bytes(size, limits)
            out.flush()
            check_type(path)
            await asyncio.to_thread(os.fsync, out.fileno())
    except BaseException:
        path.unlink(missing_ok=True)
        raise
    return ArrivedFile(path, digest.hexdigest(), size)


async def _next_chunk(chunks: AsyncIterator[bytes], stalled_s: float) -> bytes | None:
    try:
        return await asyncio.wait_for(anext(chunks), stalled_s)
    except StopAsyncIteration:
        return None
    except TimeoutError:
        raise StalledError from None


def check_type(path: Path) -> None:
    """Refuse what is no picture by content, and pictures of too few tones."""
    if sniff(path) == "gif":
        raise UnusableFrameError(
            "GIF pictures hold too few tones to show dust. Use the camera's JPEG or RAW file."
        )


@dataclass(frozen=True, kw_only=True)
class UploadTarget:
    """Where a frame shall go. ``visit_id``: onto this trail at once, measured or not.
    ``find_camera``: onto a visit of its camera once it is known, ``body_id`` where it was told.
    """

    visit_id: int | None = None
    find_camera: bool = False
    body_id: int | None = None


def accept_file(
    library: Library, arrived: ArrivedFile, name: str, goal: UploadTarget | None = None
) -> IntakeResult:
    """Keep an arrived file as a frame and queue its map, in one transaction.

    A frame that is here already but was never measured is tried again. Raises when the visit or
    the body it shall go to is gone, or the visit closed.
    """
    goal = goal or UploadTarget()
    frame = NewFrame(
        sha256=arrived.sha256, size=arrived.size, name=clean_name(name), source="upload"
    )
    try:
        with library.database.write() as connection:
            if goal.visit_id is not None:
                require_open(visit_or_refuse(connection, goal.visit_id))
            if goal.body_id is not None:
                body_or_refuse(connection, goal.body_id)
            frame_id, new = library.add_frame(connection, arrived.path, frame)
            if goal.visit_id is not None:
                join_body(connection, goal.visit_id, frame_id)
            elif goal.find_camera:
                spot_map = library.maps.spot_map(connection, frame_id)
                send_to_camera(connection, frame_id, goal.body_id, spot_map)
            waiting = job_rows.latest_job_of(connection, frame_id)
            if new or waiting is None or (waiting.finished and not waiting.mapped):
                job = NewJob(kind="map", label=frame.name, frame_id=frame_id)
                return IntakeResult(frame_id, new, job_rows.add_job(connection, job))
            return IntakeResult(frame_id, False, None if waiting.finished else waiting.id)
    finally:
        arrived.path.unlink(missing_ok=True)
