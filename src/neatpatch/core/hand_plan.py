"""The plan of a step as the hand needs it: presses and strokes in the mount view."""

from __future__ import annotations

from collections.abc import Sequence

from neatpatch.core.advice.facts import KitItem, Schools
from neatpatch.core.advice.records import Decision
from neatpatch.core.geometry import Pose, mount_size, to_mount
from neatpatch.core.planners.dab import plan_dabs, plan_whole, targets_of
from neatpatch.core.planners.swab import plan_swab
from neatpatch.core.records import Record, Spot

_SWAB_OF: dict[Decision, str] = {
    "dry_swab": "dry_swab", "dry_followup": "dry_swab", "wet_swab": "wet_swab",
}  # fmt: skip


class PlannedPress(Record):
    """One press: centre and size of the tip in the mount view, millimetres."""

    n: int
    x_mm: float
    y_mm: float
    width_mm: float
    height_mm: float


class PlannedStroke(Record):
    """One stroke: from and to in the mount view, and the swab's width, millimetres."""

    n: int
    swab: int
    x1_mm: float
    y1_mm: float
    x2_mm: float
    y2_mm: float
    width_mm: float


class HandPlan(Record):
    """What to do where. ``note``: what is missing for a plan, or to be known about it."""

    presses: tuple[PlannedPress, ...] = ()
    strokes: tuple[PlannedStroke, ...] = ()
    note: str = ""


def hand_plan(
    step: Decision, spots: Sequence[Spot], sensor_mm: tuple[float, float],
    kit: Sequence[KitItem], schools: Schools, pose: Pose,
) -> HandPlan:  # fmt: skip
    """The plan of a step for these spots, with the tools owned; empty for other steps."""
    if step == "lift":
        return _lift(spots, sensor_mm, kit, schools, pose)
    if step in _SWAB_OF:
        return _swab(_SWAB_OF[step], sensor_mm, kit, schools, pose)
    return HandPlan()


def _lift(
    spots: Sequence[Spot], sensor_mm: tuple[float, float], kit: Sequence[KitItem],
    schools: Schools, pose: Pose,
) -> HandPlan:  # fmt: skip
    tip = next(
        (k.tip_mm for k in kit if k.item in ("gel_stick", "silicone_pad") and k.tip_mm), None
    )
    if tip is None:
        return HandPlan(note="Enter the tip's size in the kit, and the fewest presses are planned.")
    tip = (min(tip[0], sensor_mm[0]), min(tip[1], sensor_mm[1]))
    whole = schools.lift_area == "whole"
    plan = plan_whole(sensor_mm, tip) if whole else plan_dabs(sensor_mm, tip, targets_of(spots))
    width, height = mount_size(*tip, pose)
    presses = []
    for dab in plan.dabs:
        x, y = to_mount(dab.x_mm, dab.y_mm, pose)
        presses.append(PlannedPress(n=dab.n, x_mm=x, y_mm=y, width_mm=width, height_mm=height))
    return HandPlan(presses=tuple(presses))


def _swab(
    item: str, sensor_mm: tuple[float, float], kit: Sequence[KitItem], schools: Schools, pose: Pose
) -> HandPlan:
    short = min(sensor_mm)
    widths = [k.width_mm for k in kit if k.item == item and k.width_mm and k.quantity != 0]
    if not widths:
        return HandPlan(note="Enter the swab's width in the kit, and its strokes are planned.")
    width = min(widths, key=lambda w: abs(w - short))
    plan = plan_swab(sensor_mm, width, schools.stroke or "same_way")
    strokes = []
    for n, s in enumerate(plan.strokes):
        (x1, y1), (x2, y2) = (to_mount(*end, pose) for end in (s.from_, s.to))
        strokes.append(
            PlannedStroke(n=n + 1, swab=s.swab, x1_mm=x1, y1_mm=y1, x2_mm=x2, y2_mm=y2,
                          width_mm=width)
        )  # fmt: skip
    return HandPlan(strokes=tuple(strokes), note=" ".join(plan.warnings))
