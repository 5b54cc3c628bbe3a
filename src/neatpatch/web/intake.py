"""Frames come in: streamed to disk, hashed on the way, refused early when hopeless."""

from __future__ import annotations

import hashlib
import uuid
from collections.abc import AsyncIterator
from pathlib import Path, PurePosixPath

from neatpatch.core.errors import UnusableFrameError
from neatpatch.images.limits import DEFAULT_LIMITS, Limits, check_bytes
from neatpatch.images.sniff import sniff
from neatpatch.store import frames as frame_rows
from neatpatch.store import jobs as job_rows
from neatpatch.store import visits as visit_rows
from neatpatch.store.datafolder import Library

_LONGEST_NAME = 120


def clean_name(name: str) -> str:
    """A file name fit to be shown: no folders, no control characters, not endless."""
    last = PurePosixPath(name.replace("\\", "/")).name
    kept = "".join(c for c in last if c.isprintable()).strip()
    return kept[-_LONGEST_NAME:] or "frame"


async def receive(
    chunks: AsyncIterator[bytes], library: Library, limits: Limits = DEFAULT_LIMITS
) -> tuple[Path, str, int]:
    """Stream a body to disk. Gives its path, SHA-256 and size.

    Raises, leaving nothing behind, when it is empty, too large or no picture by content.
    """
    arrived = library.originals.incoming / uuid.uuid4().hex
    digest, size = hashlib.sha256(), 0
    try:
        with arrived.open("wb") as out:
            async for chunk in chunks:
                size += len(chunk)
                if size > limits.max_bytes:
                    check_bytes(size, limits)
                digest.update(chunk)
                out.write(chunk)
        check_bytes(size, limits)
        if sniff(arrived) == "gif":
            raise UnusableFrameError(
                "GIF pictures hold too few tones to show dust. Use the camera's JPEG or RAW file."
            )
    except BaseException:
        arrived.unlink(missing_ok=True)
        raise
    return arrived, digest.hexdigest(), size


def take_in(
    library: Library, arrived: Path, sha256: str, size: int, name: str,
    visit_id: int | None = None, note: str = "",
) -> tuple[int, bool, int | None]:  # fmt: skip
    """Keep an arrived file as a frame and queue its map: frame id, whether new, job id.

    With a visit the frame goes onto its trail at once, measured or not.
    """
    library.originals.keep(arrived, sha256)
    with library.database.write() as connection:
        frame_id, new = frame_rows.add_frame(
            connection, sha256=sha256, size=size, name=clean_name(name), source="upload", note=note,
        )  # fmt: skip
        if visit_id is not None:
            visit_rows.add_frame_entry(connection, visit_id, frame_id)
        if new:
            return frame_id, True, job_rows.add_job(connection, "map", clean_name(name), frame_id)
        waiting = job_rows.latest_job_of(connection, frame_id)
        return frame_id, False, waiting.id if waiting and not waiting.finished else None
