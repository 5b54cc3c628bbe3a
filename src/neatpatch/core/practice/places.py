"""*Find the place*: a spot in the picture, a camera lying some way: where, facing the mount?"""

from __future__ import annotations

import math

import numpy as np
from pydantic import Field

from neatpatch.core.common.records import Record
from neatpatch.core.maps.mount_view import (
    POSE_SENTENCES,
    Pose,
    mount_size,
    to_mount,
)

_SENSORS = ((36.0, 24.0), (23.5, 15.6), (17.3, 13.0), (43.8, 32.9))
_LEVELS: tuple[tuple[Pose, ...], ...] = (
    ("standing", "top_away"),
    ("top_toward",),
    ("top_left", "top_right"),
    ("overhead", "overhead_turned"),
)
"""Poses from the easiest to the hardest."""
LEVELS = len(_LEVELS)
NEAR_MM = 3.0
"""A tool of usual size placed so near touches the spot."""
_EDGE = 0.92
_GLINTS = 5
_GLINT_OFF_MM = 0.25


class MountPoint(Record):
    """A point of the mount view, millimetres from its centre, x right and y down."""

    x_mm: float
    y_mm: float


class PlaceQuestion(Record):
    """A spot in the picture as it is stored, shares of its width and height from the upper left.

    ``glints``: what a lit loupe shows in the mount view (mm from the centre), the spot among stray
    light; empty with the light off. The same seed and level give the same one.
    """

    seed: int
    level: int = Field(ge=1, le=LEVELS)
    sensor_mm: tuple[float, float]
    spot: tuple[float, float]
    pose: Pose
    pose_words: str
    view_mm: tuple[float, float]
    glints: tuple[MountPoint, ...]


class PlaceDebrief(Record):
    """Where the spot lies in the mount view, and how far off the answer was."""

    truth: MountPoint
    error_mm: float
    right: bool


def place_question(seed: int, level: int, *, loupe: bool) -> PlaceQuestion:
    """A spot, a sensor and a way the camera lies."""
    rng = np.random.default_rng([seed, level])
    width, height = _SENSORS[int(rng.integers(len(_SENSORS)))]
    poses = _LEVELS[level - 1]
    pose = poses[int(rng.integers(len(poses)))]
    spot = rng.uniform(-_EDGE / 2, _EDGE / 2, 2)
    view = mount_size(width, height, pose)
    strays = rng.uniform(-_EDGE / 2, _EDGE / 2, (_GLINTS - 1, 2)) * view
    off = rng.normal(0.0, _GLINT_OFF_MM, 2)
    order = rng.permutation(_GLINTS)
    seen = np.array(to_mount(spot[0] * width, spot[1] * height, pose)) + off
    glints = np.vstack([seen, strays])[order] if loupe else np.empty((0, 2))
    return PlaceQuestion(
        seed=seed,
        level=level,
        sensor_mm=(width, height),
        spot=(float(spot[0] + 0.5), float(spot[1] + 0.5)),
        pose=pose,
        pose_words=POSE_SENTENCES[pose],
        view_mm=view,
        glints=tuple(MountPoint(x_mm=float(x), y_mm=float(y)) for x, y in glints),
    )


def place_debrief(question: PlaceQuestion, x_mm: float, y_mm: float) -> PlaceDebrief:
    """An answer in the mount view, millimetres from its centre, held against the truth."""
    width, height = question.sensor_mm
    x, y = question.spot[0] - 0.5, question.spot[1] - 0.5
    truth = to_mount(x * width, y * height, question.pose)
    error = math.dist(truth, (x_mm, y_mm))
    return PlaceDebrief(
        truth=MountPoint(x_mm=truth[0], y_mm=truth[1]), error_mm=error, right=error <= NEAR_MM
    )
