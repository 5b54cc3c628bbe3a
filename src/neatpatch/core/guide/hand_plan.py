"""The plan of a step as the hand needs it: presses and strokes in the mount view.

Planned in the view itself, so that the first place lies at the corner where this hand begins, in
whatever pose the camera lies.
"""

from __future__ import annotations

import math
from collections import Counter
from collections.abc import Sequence
from dataclasses import dataclass, replace

from neatpatch.core.common.decisions import Decision
from neatpatch.core.common.facts import KitItem, Schools
from neatpatch.core.common.records import FluidKind, Kind, Record, Spot, on_outer_glass
from neatpatch.core.common.words import counted
from neatpatch.core.maps.mount_view import Pose, mount_size, to_mount
from neatpatch.core.plans.dab import DabPlan, Target, plan_dabs, plan_whole, targets_of
from neatpatch.core.plans.swab import (
    CORNER_MM,
    PLAN_TOOLS,
    Drops,
    Hand,
    StrokeSchool,
    SwabPlan,
    Wiping,
    drops_for,
    own_drops,
    plan_corner,
    plan_swab,
)

_FACES = 2
"""A corner swab has two faces, and each goes along one edge."""


class PlannedPress(Record):
    """One press: centre and size of the tip in the mount view, millimetres; spots under it."""

    n: int
    x_mm: float
    y_mm: float
    width_mm: float
    height_mm: float
    covers: tuple[str, ...] = ()


class PlannedStroke(Record):
    """One stroke: from and to in the mount view, the swab's width, and the spots it passes."""

    n: int
    swab: int
    x1_mm: float
    y1_mm: float
    x2_mm: float
    y2_mm: float
    width_mm: float
    passes: tuple[str, ...] = ()


class HandPlan(Record):
    """What to do where. ``note``: what is missing for a plan, or to be known about it.

    ``swabs``, ``drops``, ``patches`` and ``sheets``: what it takes. ``corner``: spots at an edge,
    which a swab's end may leave behind. ``stroke``: the school the strokes follow. ``by_face``: one
    swab has a face for each of two lanes. ``left_out``: spots that the plan spares, named in
    ``note``.
    """

    presses: tuple[PlannedPress, ...] = ()
    strokes: tuple[PlannedStroke, ...] = ()
    note: str = ""
    swabs: int | None = None
    drops: Drops | None = None
    patches: int | None = None
    sheets: int | None = None
    corner: tuple[str, ...] = ()
    stroke: StrokeSchool = "same_way"
    by_face: bool = False
    left_out: tuple[str, ...] = ()


@dataclass(frozen=True)
class HandContext:
    """What a plan is made for: sensor and chamber, the tool chosen for the step, schools, how the
    camera lies, which hand, and the fluid that suits the stain. ``tool``: None where none is owned.
    """

    sensor_mm: tuple[float, float]
    tool: KitItem | None
    schools: Schools
    pose: Pose = "top_away"
    hand: Hand = "right"
    chamber_mm: float | None = None
    fluid: FluidKind | None = None

    @property
    def view_mm(self) -> tuple[float, float]:
        """The sensor's sides as seen."""
        return mount_size(*self.sensor_mm, self.pose)


def hand_plan(step: Decision, spots: Sequence[Spot], bench: HandContext) -> HandPlan:
    """The plan of a step for these spots, with the tools owned; empty for other steps."""
    seen = [_seen(t, bench.pose) for t in targets_of(spots)]
    if step == "lift":
        dry = _liftable(spots)
        whole = bench.schools.lift_area == "whole" and all(t.id in dry for t in seen)
        plan = _lift([t for t in seen if t.id in dry], bench, whole=whole)
        return _sparing(plan, [s for s in on_outer_glass(spots) if s.id not in dry])
    if step == "corner_swab":
        return _corner(seen, bench)
    if step in ("dry_swab", "dry_followup", "wet_swab"):
        return _swab(seen, bench)
    return HandPlan()


_SPARED: dict[Kind, tuple[str, str]] = {
    "droplet": ("droplet", "droplets"),
    "residue": ("smear", "smears"),
    "soft": ("soft blob", "soft blobs"),
}


def _liftable(spots: Sequence[Spot]) -> set[str]:
    """Gel lifts dry specks and fibres; droplets and films would spoil it."""
    return {s.id for s in spots if s.kind in ("speck", "fibre")}


def _sparing(plan: HandPlan, spared: Sequence[Spot]) -> HandPlan:
    """The plan with what it leaves out, named by kind."""
    if not spared or not plan.presses:
        return plan
    kinds = Counter(s.kind for s in spared)
    named = " and ".join(counted(n, *_SPARED[kind]) for kind, n in sorted(kinds.items()))
    words = f"{named} {'is' if len(spared) == 1 else 'are'} not pressed."
    return plan.model_copy(
        update={"left_out": tuple(s.id for s in spared), "note": f"{plan.note} {words}".strip()}
    )


def _seen(t: Target, pose: Pose) -> Target:
    x, y = to_mount(t.x_mm, t.y_mm, pose)
    return replace(t, x_mm=x, y_mm=y)


def _lift(seen: Sequence[Target], bench: HandContext, *, whole: bool) -> HandPlan:
    tool = bench.tool
    if tool is None or tool.tip_mm is None:
        return HandPlan(note="Enter the tip's size in the kit, and the fewest presses are planned.")
    tip = mount_size(*tool.tip_mm, bench.pose)
    tip = min(tip[0], bench.view_mm[0]), min(tip[1], bench.view_mm[1])
    plan = _lift_plan(seen, tip, tool.patches_per_sheet, bench, whole=whole)
    presses = tuple(
        PlannedPress(
            n=d.n, x_mm=d.x_mm, y_mm=d.y_mm, width_mm=tip[0], height_mm=tip[1], covers=d.covers
        )
        for d in plan.dabs
    )
    return HandPlan(
        presses=presses, patches=plan.patches, sheets=plan.sheets, note=_patch_note(plan, tool)
    )


def _lift_plan(
    seen: Sequence[Target],
    tip: tuple[float, float],
    per_sheet: int | None,
    bench: HandContext,
    *,
    whole: bool,
) -> DabPlan:
    """The whole area by that method, but among droplets and marks only the dry spots."""
    left = bench.hand == "left"
    if whole:
        return plan_whole(bench.view_mm, tip, patches_per_sheet=per_sheet, from_right=left)
    return plan_dabs(bench.view_mm, tip, seen, patches_per_sheet=per_sheet, from_right=left)


def _patch_note(plan: DabPlan, tool: KitItem) -> str:
    if not plan.patches:
        return ""
    sheets = "" if plan.sheets is None else f" ({counted(plan.sheets, 'sheet')})"
    there = "" if tool.fresh_patches is None else f"; {tool.fresh_patches} are left"
    return f"{counted(plan.patches, 'fresh patch', 'fresh patches')}{sheets}{there}."


def _swab(seen: Sequence[Target], bench: HandContext) -> HandPlan:
    tool = bench.tool
    if tool is not None and tool.item == "sterile_pad":
        return _pad(seen, bench.fluid)
    width = min(bench.sensor_mm) if tool is not None and tool.item == "moist_wipe" else None
    width = width or (tool.width_mm if tool else None)
    if tool is None or width is None:
        return HandPlan(note="Enter the swab's width in the kit, and its strokes are planned.")
    school = bench.schools.stroke or "same_way"
    upright = bench.view_mm[0] < bench.view_mm[1]
    side = -1.0 if upright and bench.hand == "left" else 1.0
    inside = [replace(t, x_mm=t.y_mm, y_mm=side * t.x_mm) for t in seen] if upright else seen
    plan = plan_swab(
        bench.sensor_mm,
        width,
        Wiping(
            stroke=school,
            tool=PLAN_TOOLS[tool.item],
            fluid=bench.fluid,
            hand="right" if upright else bench.hand,
            chamber_mm=bench.chamber_mm,
            edges_by_face=bench.schools.edges_by_face is True,
        ),
        inside,
    )

    def shown(end: tuple[float, float]) -> tuple[float, float]:
        return (side * end[1], end[0]) if upright else end

    strokes = []
    for n, s in enumerate(plan.strokes):
        (x1, y1), (x2, y2) = shown(s.from_), shown(s.to)
        strokes.append(
            PlannedStroke(
                n=n + 1,
                swab=s.swab,
                x1_mm=x1,
                y1_mm=y1,
                x2_mm=x2,
                y2_mm=y2,
                width_mm=width,
                passes=s.passes,
            )
        )
    return HandPlan(
        strokes=tuple(strokes),
        note=_swab_note(plan),
        swabs=plan.swabs or None,
        drops=own_drops(plan.drops, tool.drops),
        corner=plan.corner,
        stroke=school,
        by_face=plan.lanes > plan.swabs,
    )


def _pad(seen: Sequence[Target], fluid: FluidKind | None) -> HandPlan:
    """A pad over a fingertip: place by place, nothing is drawn across."""
    places = counted(len(seen), "place") if seen else "the whole glass"
    return HandPlan(
        note=f"A pad over a fingertip, in small circles over {places}; a clean pad when it greys.",
        drops=drops_for("sterile_pad", fluid),
    )


def _swab_note(plan: SwabPlan) -> str:
    words = list(plan.warnings)
    if plan.corner:
        words.append(
            f"{counted(len(plan.corner), 'spot lies', 'spots lie')} at an edge: a corner swab may "
            "have to follow."
        )
    return " ".join(words)


def _corner(seen: Sequence[Target], bench: HandContext) -> HandPlan:
    width = (bench.tool.width_mm if bench.tool else None) or CORNER_MM
    strokes = tuple(
        PlannedStroke(
            n=n + 1,
            swab=n // _FACES + 1,
            x1_mm=s.from_[0],
            y1_mm=s.from_[1],
            x2_mm=s.to[0],
            y2_mm=s.to[1],
            width_mm=width,
            passes=s.passes,
        )
        for n, s in enumerate(plan_corner(bench.view_mm, seen, width))
    )
    return HandPlan(
        strokes=strokes,
        swabs=max(1, math.ceil(len(strokes) / _FACES)),
        drops=drops_for("corner_swab", bench.fluid),
    )
