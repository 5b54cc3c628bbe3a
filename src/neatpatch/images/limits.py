"""Limits on hostile or hopeless files, checked before anything is decoded."""

from __future__ import annotations

from dataclasses import dataclass

from neatpatch.core.common.errors import LimitExceededError, UnusableFrameError

MIN_SIDE_PX = 64


@dataclass(frozen=True, kw_only=True)
class Limits:
    """Largest file in bytes and largest picture in pixels that will be decoded."""

    max_bytes: int = 400 * 1024 * 1024
    max_pixels: int = 160_000_000


DEFAULT_LIMITS = Limits()


def check_bytes(size: int, limits: Limits) -> None:
    """Raise if a file of ``size`` bytes is empty or too large."""
    if size == 0:
        raise UnusableFrameError("the file is empty. Copy it from the card again.")
    if size > limits.max_bytes:
        raise LimitExceededError(
            f"the file has {size / 1e6:.0f} MB; the limit is {limits.max_bytes / 1e6:.0f} MB. "
            "Use the camera's own JPEG or RAW file."
        )


def check_pixels(width: int, height: int, limits: Limits) -> None:
    """Raise if a picture of this size in pixels is too large or too small to measure."""
    if width * height > limits.max_pixels:
        raise LimitExceededError(
            f"the picture has {width} x {height} pixels, more than the "
            f"{limits.max_pixels / 1e6:.0f} million that are accepted. Use a single frame as the "
            "camera wrote it."
        )
    if min(width, height) < MIN_SIDE_PX:
        raise UnusableFrameError(
            f"the picture is only {width} x {height} pixels, too small to hold a test frame. "
            "Use the full-size file from the camera."
        )
