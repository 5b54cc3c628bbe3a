"""*The hand*: tasks with hidden dirt, judged by what the model of the hand says came of it."""

from __future__ import annotations

from dataclasses import dataclass
from typing import Annotated, Literal, get_args

from pydantic import Field

from neatpatch.core.common.records import Given, Number, Record, Whole
from neatpatch.core.common.words import counted
from neatpatch.core.practice.places import MountPoint
from neatpatch.simulation.hand import Result, grains, work_over
from neatpatch.simulation.touch import (
    Cause,
    Cling,
    Fault,
    Grain,
    HandTool,
    Sample,
    Setup,
    Stroke,
)

HandTopic = Literal["one stroke", "lanes", "dry swab", "gel stick"]
HAND_TOPICS: tuple[HandTopic, ...] = get_args(HandTopic)
_MOST_STROKES, _MOST_SAMPLES, _REACH_MM = 80, 800, 100.0
_COVERED = 0.98
"""Of the glass; what is less is a strip that somebody will find."""
_RISKS: frozenset[Fault] = frozenset({"bent", "over_edge", "slid", "used"})
"""What can harm more than the picture."""


@dataclass(frozen=True)
class _Task:
    tool: HandTool
    sensor_mm: tuple[float, float]
    width_mm: float
    dirt: dict[Cling, int]
    words: str


_TASKS: dict[HandTopic, _Task] = {
    "one stroke": _Task(
        "wet_swab",
        (23.5, 15.6),
        16.0,
        {"loose": 4, "stuck": 3, "greasy": 2},
        "A wet swab as wide as the sensor. Put drops on, let them even out, and draw it from edge "
        "to edge in one stroke. Lift, turn the face, and once more.",
    ),
    "lanes": _Task(
        "wet_swab",
        (36.0, 24.0),
        16.0,
        {"loose": 5, "stuck": 4, "greasy": 2},
        "A swab narrower than the sensor: two lanes that overlap, a fresh swab for each. Leave no "
        "strip between them.",
    ),
    "dry swab": _Task(
        "dry_swab",
        (23.5, 15.6),
        16.0,
        {"loose": 7, "stuck": 2},
        "A dry swab as wide as the sensor: one light sweep from edge to edge, then the clean face "
        "for the second.",
    ),
    "gel stick": _Task(
        "lift",
        (36.0, 24.0),
        6.0,
        {"loose": 3, "stuck": 4},
        "A gel stick: press it straight down on each marked spot and lift it, never slide. Clean "
        "the pad after each.",
    ),
}
_FAULTS: dict[Fault, str] = {
    "too_wet": "More than three drops: that leaves streaks, and fluid creeps between the layers "
    "of the filter.",
    "bent": "Pressed until the tip bent, or held too flat. The weight of a pencil is enough.",
    "standing": "The tip went so slowly that the fluid stood: a stroke takes a second or two.",
    "not_even": "The stroke began before the drops had evened out. Wait a second or two.",
    "used": "The swab was not fresh: it sheds lint, and brings back what it took before.",
    "over_edge": "The tip went over the edge of the glass, where grease and dust lie.",
    "slid": "The pad slid. It is pressed straight down and lifted: sliding drags grit and smears.",
    "lift_on_grease": "A gel stick smears what is greasy. That is work for a wet swab.",
    "dried": "The drops were left to wait: half dry they leave marks, and it wipes dry. Begin "
    "within ten seconds.",
    "no_fluid": "There was no fluid on the swab: it wiped dry.",
    "fast": "So fast a stroke skips over what clings. Take a second or two for it.",
    "face_again": "A face that had wiped went over the glass again, and brought back some of "
    "what it had taken. Turn it, or take a fresh swab.",
    "turned_back": "The stroke turned round on the glass: what clung to the face came off there.",
    "faint": "The tip hardly touched: it takes little so. Let it bear like a pencil.",
    "pad_full": "The pad was pressed again uncleaned: it holds less, and can give dirt back.",
}
_BROUGHT: dict[Cause, str] = {
    "too_wet": "streak",
    "bent": "streak",
    "standing": "drying mark",
    "not_even": "wet patch",
    "dried": "drying mark",
    "used": "lint",
    "over_edge": "grease from the edge",
    "slid": "smear",
    "lift_on_grease": "smear",
}
Fate = Literal["taken", "stayed", "missed", "dragged", "at the rim"]


class HandMark(Record):
    """A spot of the map, in the mount view: millimetres from its centre, x right and y down."""

    id: str
    x_mm: float
    y_mm: float


class HandQuestion(Record):
    """A task with its tool and the spots that the test frame showed; the same seed and topic give
    the same one. ``width_mm``: of the swab, or across the pad.
    """

    seed: int
    topic: HandTopic
    words: str
    tool: HandTool
    sensor_mm: tuple[float, float]
    width_mm: float
    marks: tuple[HandMark, ...]


class HandSample(Given):
    """One place of the tip: seconds since the first, millimetres, newtons, degrees from the glass
    where the device tells.
    """

    t_s: Number = Field(ge=0, le=86_400)
    x_mm: Number = Field(ge=-_REACH_MM, le=_REACH_MM)
    y_mm: Number = Field(ge=-_REACH_MM, le=_REACH_MM)
    force_n: Number = Field(ge=0, le=20)
    tilt_deg: Annotated[Number, Field(ge=0, le=90)] | None = None


class HandStroke(Given):
    """One touch, from setting down to lifting. ``face``: another number for every other face of
    every swab, or for the pad after each cleaning.
    """

    face: Whole = Field(ge=0, le=1_000)
    samples: list[HandSample] = Field(max_length=_MOST_SAMPLES)


class HandWork(Given):
    """What the hand did. ``wait_s``: from the last drop to the first stroke."""

    drops: Whole = Field(default=0, ge=0, le=20)
    wait_s: Number = Field(default=0, ge=0, le=86_400)
    used: bool = False
    strokes: list[HandStroke] = Field(max_length=_MOST_STROKES)


class HandFate(Record):
    """Where a spot ended. `stayed`: gone over, yet there; `missed`: never gone over."""

    id: str
    fate: Fate
    at: MountPoint | None


class HandNew(Record):
    """Something on the glass that was not there before, and why."""

    what: str
    at: MountPoint


class Strip(Record):
    """A band that no stroke went over, from and to in y."""

    from_mm: float
    to_mm: float


class HandDebrief(Record):
    """What came of it; ``lines``: in sentences, ``mistakes``: what to do otherwise, each with its
    reason. ``covered``: share of the glass a swab went over; None for a pad.
    """

    right: bool
    unsafe: bool
    lines: tuple[str, ...]
    mistakes: tuple[str, ...]
    fates: tuple[HandFate, ...]
    brought: tuple[HandNew, ...]
    strips: tuple[Strip, ...]
    covered: float | None
    fastest_mm_s: float
    hardest_n: float


def hand_question(seed: int, topic: HandTopic) -> HandQuestion:
    """A task and its spots."""
    task = _TASKS[topic]
    return HandQuestion(
        seed=seed,
        topic=topic,
        words=task.words,
        tool=task.tool,
        sensor_mm=task.sensor_mm,
        width_mm=task.width_mm,
        marks=tuple(
            HandMark(id=g.name, x_mm=g.x_mm, y_mm=g.y_mm)
            for g in grains(task.dirt, task.sensor_mm, seed)
        ),
    )


def hand_debrief(seed: int, topic: HandTopic, work: HandWork) -> HandDebrief:
    """What the strokes did to the hidden dirt, and what was wrong with them.

    Right is a clean hand: no mistake, nothing brought, no strip left, no spot missed. Whether all
    dirt came off does not count: some of it takes another turn whatever the hand does.
    """
    task = _TASKS[topic]
    dirt = grains(task.dirt, task.sensor_mm, seed)
    end = work_over(dirt, [_stroke(s) for s in work.strokes], _setup(task, work), task.sensor_mm)
    is_swab = task.tool != "lift"
    missed = [g for g in end.glass if g.name not in end.touched]
    whole = end.covered >= _COVERED and not end.strips if is_swab else not missed
    return HandDebrief(
        right=whole and not end.faults and not end.brought,
        unsafe=bool(_RISKS & set(end.faults)),
        lines=tuple(_lines(end, len(dirt), len(missed), is_swab=is_swab)),
        mistakes=tuple(_FAULTS[f] for f in end.faults),
        fates=tuple(_fates(dirt, end)),
        brought=tuple(
            HandNew(what=_BROUGHT[b.cause], at=MountPoint(x_mm=b.x_mm, y_mm=b.y_mm))
            for b in end.brought
        ),
        strips=tuple(Strip(from_mm=a, to_mm=b) for a, b in end.strips),
        covered=end.covered if is_swab else None,
        fastest_mm_s=end.fastest_mm_s,
        hardest_n=end.hardest_n,
    )


def _stroke(given: HandStroke) -> Stroke:
    samples = (Sample(s.t_s, s.x_mm, s.y_mm, s.force_n, s.tilt_deg) for s in given.samples)
    return Stroke(given.face, tuple(sorted(samples, key=lambda s: s.t_s)))


def _setup(task: _Task, work: HandWork) -> Setup:
    drops = work.drops if task.tool == "wet_swab" else 0
    return Setup(
        tool=task.tool, width_mm=task.width_mm, drops=drops, wait_s=work.wait_s, used=work.used
    )


def _lines(end: Result, total: int, missed: int, *, is_swab: bool) -> list[str]:
    stayed = len(end.glass) - missed
    lines = [f"{len(end.taken)} of {counted(total, 'spot')} came off."]
    if missed:
        lines.append(f"{counted(missed, 'spot was', 'spots were')} never touched.")
    if stayed:
        lines.append(f"{counted(stayed, 'spot', 'spots')} stayed where the tool went over it.")
    if end.rim:
        lines.append(f"{counted(len(end.rim), 'spot was', 'spots were')} pushed to the edge.")
    if end.brought:
        lines.append(f"{counted(len(end.brought), 'new mark', 'new marks')} came with the hand.")
    lines.append(f"Pressed with at most {end.hardest_n:.1f} N.")
    if is_swab:
        lines.append(f"The fastest stroke went at {end.fastest_mm_s:.0f} mm/s.")
        lines.append(f"{100 * end.covered:.0f} % of the glass was gone over.")
        widest = max((b - a for a, b in end.strips), default=0.0)
        if widest:
            lines.append(f"A strip of {widest:.1f} mm was left out.")
    return lines


def _fates(dirt: tuple[Grain, ...], end: Result) -> list[HandFate]:
    taken, rim = ({g.name for g in there} for there in (end.taken, end.rim))
    on_glass = {g.name: g for g in end.glass}

    def fate(name: str) -> Fate:
        if name in taken:
            return "taken"
        if name in rim:
            return "at the rim"
        if name in end.dragged:
            return "dragged"
        return "stayed" if name in end.touched else "missed"

    return [
        HandFate(
            id=g.name,
            fate=fate(g.name),
            at=MountPoint(x_mm=on_glass[g.name].x_mm, y_mm=on_glass[g.name].y_mm)
            if g.name in on_glass
            else None,
        )
        for g in dirt
    ]
