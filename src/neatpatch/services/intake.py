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
from neatpatch.services.existing import existing_visit, require_open
from neatpatch.services.witnessing import ask_witness
from neatpatch.store import jobs as job_rows
from neatpatch.store import visits as visit_rows
from neatpatch.store.datafolder import Library
from neatpatch.store.frames import NewFrame
from neatpatch.store.jobs import NewJob

STALLED_S = 30.0
"""An upload that sends nothing for so long has lost its sender."""
_LONGEST_NAME = 120


class StalledError(Exception):
    """The sender of an upload fell silent."""


@dataclass(frozen=True)
class Arrived:
    """A complete file on disk, not kept yet."""

    path: Path
    sha256: str
    size: int


@dataclass(frozen=True)
class TakenIn:
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
) -> Arrived:
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
    return Arrived(path, digest.hexdigest(), size)


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


def take_in(
    library: Library, arrived: Arrived, name: str, *, visit_id: int | None = None, note: str = ""
) -> TakenIn:
    """Keep an arrived file as a frame and queue its map, in one transaction.

    With a visit the frame goes onto its trail at once, measured or not. A frame that is here
    already but was never measured is tried again. Raises when the visit is gone or closed.
    """
    frame = NewFrame(
        sha256=arrived.sha256, size=arrived.size, name=clean_name(name), source="upload", note=note
    )
    try:
        with library.database.write() as connection:
            if visit_id is not None:
                require_open(existing_visit(connection, visit_id))
            frame_id, new = library.add_frame(connection, arrived.path, frame)
            if visit_id is not None:
                visit_rows.add_frame_entry(connection, visit_id, frame_id)
                ask_witness(connection, frame_id)
            waiting = job_rows.latest_job_of(connection, frame_id)
            if new or waiting is None or (waiting.finished and not waiting.mapped):
                job = NewJob(kind="map", label=frame.name, frame_id=frame_id)
                return TakenIn(frame_id, new, job_rows.add_job(connection, job))
            return TakenIn(frame_id, False, None if waiting.finished else waiting.id)
    finally:
        arrived.path.unlink(missing_ok=True)
