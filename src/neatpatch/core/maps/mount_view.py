"""From the picture to the sensor as one sees it facing the mount.

The lens turns the picture upside down on the sensor: the top of the picture lies at the bottom of
the camera, the left of the picture on its right hand, where the grip is. Facing into the mount of
an upright camera, left and right swap once more. So against the stored picture the mount view of an
upright camera is mirrored top to bottom, and not left to right. A camera turned on the bench turns
that view with it. Orientation tags play no part: positions are those of the stored array.
Source: image formation by a lens, E. Hecht, Optics, 5th ed., ch. 5.
"""

from __future__ import annotations

from collections.abc import Iterable, Sequence
from dataclasses import dataclass
from typing import Literal, get_args

Pose = Literal[
    "standing",
    "top_away",
    "top_toward",
    "top_left",
    "top_right",
    "overhead",
    "overhead_turned",
]
"""How the camera lies: standing with the mount toward you; on its back with its top away from you,
toward you, to your left or right; held overhead, opening down, its top behind you or ahead."""
POSES: tuple[Pose, ...] = get_args(Pose)
Matrix = tuple[float, float, float, float]
"""a, b, c, d: ``x' = a x + c y``, ``y' = b x + d y`` (the order of SVG's matrix)."""

_UPRIGHT: Matrix = (1.0, 0.0, 0.0, -1.0)
_QUARTER_TURNS: dict[Pose, int] = {
    "standing": 0,
    "top_away": 0,
    "top_right": 1,
    "top_toward": 2,
    "top_left": 3,
    "overhead": 0,
    "overhead_turned": 2,
}
_TURNS: tuple[Matrix, ...] = (
    (1.0, 0.0, 0.0, 1.0),
    (0.0, 1.0, -1.0, 0.0),
    (-1.0, 0.0, 0.0, -1.0),
    (0.0, -1.0, 1.0, 0.0),
)
"""Clockwise quarter turns of a plane with y down."""

POSE_SENTENCES: dict[Pose, str] = {
    "standing": "The camera stands in front of you, its opening toward you.",
    "top_away": "The camera lies on its back, its top away from you.",
    "top_toward": "The camera lies on its back, its top toward you.",
    "top_left": "The camera lies on its back, its top to your left.",
    "top_right": "The camera lies on its back, its top to your right.",
    "overhead": "You hold the camera overhead, opening down, its top behind you.",
    "overhead_turned": "You hold the camera overhead, opening down, its top ahead of you.",
}


def mount_matrix(pose: Pose) -> Matrix:
    """Matrix from millimetres in stored axes (y down) to the mount view (y down)."""
    return _product(_TURNS[_QUARTER_TURNS[pose]], _UPRIGHT)


def to_mount(x_mm: float, y_mm: float, pose: Pose) -> tuple[float, float]:
    """A place on the sensor as seen facing the mount, millimetres, x right and y down."""
    return _applied(mount_matrix(pose), x_mm, y_mm)


def from_mount(x_mm: float, y_mm: float, pose: Pose) -> tuple[float, float]:
    """The inverse of `to_mount`."""
    a, b, c, d = mount_matrix(pose)
    turned = a * d - b * c
    return _applied((d / turned, -b / turned, -c / turned, a / turned), x_mm, y_mm)


def mount_size(width_mm: float, height_mm: float, pose: Pose) -> tuple[float, float]:
    """Width and height of the sensor in the mount view."""
    lying = _QUARTER_TURNS[pose] % 2 == 1
    return (height_mm, width_mm) if lying else (width_mm, height_mm)


def _product(m: Matrix, n: Matrix) -> Matrix:
    """First n, then m."""
    columns = _applied(m, n[0], n[1]), _applied(m, n[2], n[3])
    return (*columns[0], *columns[1])


def _applied(m: Matrix, x: float, y: float) -> tuple[float, float]:
    return m[0] * x + m[2] * y, m[1] * x + m[3] * y


@dataclass(frozen=True)
class Aim:
    """A zone to work at: its centre in the mount view (mm), the spots in it, and its words."""

    x_mm: float
    y_mm: float
    spots: tuple[str, ...]
    words: str
    come_from: str = ""


def aims(
    places: Iterable[tuple[str, float, float]],
    width_mm: float,
    height_mm: float,
    pose: Pose,
    grip: bool = True,
) -> tuple[Aim, ...]:
    """The few zones that hold the given spots (id, x, y in stored millimetres), fullest first.

    The sensor is seen as three by three zones; nothing to aim at gives an empty tuple. ``grip``
    false leaves out the word grip, for bodies that have none.
    """
    width, height = mount_size(width_mm, height_mm, pose)
    zones: dict[tuple[int, int], list[tuple[str, float, float]]] = {}
    for name, x, y in places:
        seen_x, seen_y = to_mount(x, y, pose)
        zones.setdefault((_third(seen_x, width), _third(seen_y, height)), []).append(
            (name, seen_x, seen_y)
        )
    ordered = sorted(zones.items(), key=lambda item: (-len(item[1]), item[0]))
    return tuple(
        Aim(
            x_mm=round(sum(s[1] for s in inside) / len(inside), 3),
            y_mm=round(sum(s[2] for s in inside) / len(inside), 3),
            spots=tuple(s[0] for s in inside),
            words=zone_words(column, row, pose, grip),
            come_from=_inward(column, row),
        )
        for (column, row), inside in ordered
    )


def _inward(column: int, row: int) -> str:
    """Where air comes from so that it drives the dust out over the nearest edge."""
    across, down = ("right", "", "left")[column], ("lower", "", "upper")[row]
    if not across and not down:
        return "slanting, from any side"
    return f"slanting, from the {f'{down} {across}'.strip() if across else f'{down} middle'}"


def _third(value: float, size: float) -> int:
    return min(2, max(0, int((value / size + 0.5) * 3)))


def zone_words(column: int, row: int, pose: Pose, grip: bool = True) -> str:
    """Words for a zone of the mount view, columns and rows 0 to 2 from its upper left."""
    across, down = ("left", "", "right")[column], ("upper", "", "lower")[row]
    if not across and not down:
        return "in the middle"
    seen = f"{down} {across}".strip() if across and down else across or f"{down} middle"
    sides = _camera_sides(column - 1, row - 1, pose, grip)
    return f"{seen}, {' and '.join(sides)}" if sides else seen


def _camera_sides(across: int, down: int, pose: Pose, grip: bool) -> Sequence[str]:
    """Parts of the camera that lie near a direction of the mount view."""
    x, y = from_mount(float(across), float(down), pose)
    sides = []
    if y:
        sides.append("near the camera's base" if y < 0 else "near the camera's top")
    if x and grip:
        sides.append("near the grip side" if x < 0 else "away from the grip")
    return sides
