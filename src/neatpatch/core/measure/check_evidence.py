"""What the checks of a frame look at, and how they say what they found."""

from __future__ import annotations

import math
from dataclasses import dataclass

from neatpatch.core.common.frame import Frame
from neatpatch.core.common.records import Check, CheckCode, Level
from neatpatch.core.measure.background import Background
from neatpatch.core.measure.detection import Detection
from neatpatch.core.measure.loss_levelling import LevelledLoss

CLIPPED_NOTE, CLIPPED_RETAKE = 0.002, 0.01
"""Share of clipped pixels: a reflex does no harm, more hides dust."""


@dataclass(frozen=True)
class CheckEvidence:
    """All that the checks look at."""

    level: LevelledLoss
    detection: Detection
    sensor_mm: tuple[float, float] | None
    blur_px: float

    @property
    def frame(self) -> Frame:
        return self.level.frame

    @property
    def background(self) -> Background:
        return self.level.background


def graded(value: float, note: float, retake: float) -> Level:
    """Level for a value of which more is worse; the limits themselves still pass."""
    if value > retake:
        return "retake"
    return "note" if value > note else "ok"


def check(
    code: CheckCode,
    level: Level,
    measured: float | None,
    limit: float | None,
    message: str,
    remedy: str = "",
) -> Check:
    is_known = measured is not None and math.isfinite(measured)
    rounded = float(f"{measured:.4g}") if is_known and measured is not None else None
    return Check(
        code=code,
        level=level,
        measured=rounded,
        limit=limit,
        message=message,
        remedy="" if level == "ok" else remedy,
    )
