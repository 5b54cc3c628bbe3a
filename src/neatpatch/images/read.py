"""The one way from a file to a frame."""

from __future__ import annotations

from concurrent.futures import ThreadPoolExecutor
from dataclasses import replace
from pathlib import Path

import cv2

from neatpatch.core.common.errors import NoMemoryError, UnusableFrameError
from neatpatch.core.common.frame import Frame
from neatpatch.images.hashing import sha256_of
from neatpatch.images.limits import DEFAULT_LIMITS, Limits, check_bytes
from neatpatch.images.quiet import quiet
from neatpatch.images.raster import read_raster
from neatpatch.images.sniff import sniff


def read_frame(path: Path, limits: Limits = DEFAULT_LIMITS) -> Frame:
    """Read a frame of any accepted type, told by content.

    Raises `UnusableFrameError` (or its `LimitExceededError`) with a sentence for the user. The
    input file is never changed.
    """
    if not path.is_file():
        raise UnusableFrameError("there is no such file. Check the name.")
    check_bytes(path.stat().st_size, limits)
    kind = sniff(path)
    reader = read_raster
    if kind in ("raw", "dng"):
        from neatpatch.images.raw import read_raw as reader
    try:
        with quiet(), ThreadPoolExecutor(1) as beside:
            digest = beside.submit(sha256_of, path)
            frame = reader(path, kind, limits)
    except (MemoryError, cv2.error) as error:
        raise NoMemoryError(
            "there is not enough memory for a picture of this size. Close other programs, or use "
            "the camera's own JPEG or RAW file of a single frame."
        ) from error
    facts = replace(frame.facts, path=str(path), sha256=digest.result())
    return replace(frame, facts=facts)
