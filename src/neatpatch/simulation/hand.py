"""What a hand does to dirt on a drawn sensor: swabs that stroke, a gel stick that presses.

Millimetres in the mount view, origin at the sensor's centre, x right and y down; seconds; newtons.
A swab's tip is a bar across the stroke, ``width_mm`` along y. The model is this product's own and
made to teach: each grain clings with a hidden strength from 0 to 1 and is taken when the tip's hold
on it is greater. The thresholds follow the guidance of the trade (one to three drops, a light hand,
strokes of seconds, press and never slide); none of them is a measurement. Nothing is left to
chance: the same dirt under the same hand ends the same way.

What holds of it, and is tested: every grain ends on the glass, on the tool or at the rim, and
only once; whatever is on the glass that was not there before has a cause; a hand that does nothing
changes nothing; what was never touched lies where it lay.
"""

from __future__ import annotations

import math
from collections.abc import Sequence
from dataclasses import dataclass, field, replace
from itertools import pairwise

import numpy as np

from neatpatch.simulation.touch import (
    DRIES_S,
    EDGE_MM,
    EVEN_S,
    FAINT_N,
    FAST_MM_S,
    MOST_DROPS,
    OVER_MM,
    PAD_MM,
    SLIDE_MM,
    STANDING_MM_S,
    TIP_MM,
    TURN_MM,
    Brought,
    Cause,
    Cling,
    Fault,
    Grain,
    HandTool,
    Sample,
    Setup,
    Stroke,
    coverage,
    is_bent,
    mean_speed,
    meets,
    place,
    speeds,
)

_LET_GO = 0.25
"""A grain that was taken by so little is let go when the face comes over the glass again."""
_FACE_HOLDS, _PAD_HOLDS = 40, 8
_LEAST_CLEAN = 0.3
_FULL = 3
"""Grains on a pad from which on it is to be cleaned."""
_FAINT_SHARE, _BENT_SHARE = 0.3, 0.7
_HOLD: dict[HandTool, dict[Cling, float]] = {
    "wet_swab": {"loose": 1.0, "stuck": 0.97, "greasy": 0.97},
    "dry_swab": {"loose": 1.0, "stuck": 0.6, "greasy": 0.15},
    "lift": {"loose": 1.0, "stuck": 0.95, "greasy": 0.1},
}


@dataclass
class Result:
    """How it ended: grains on the glass, on the tool, at the rim; what came; what went wrong.

    ``covered``: share of the glass that a swab went over (1 for a pad: it is not meant to);
    ``strips``: bands along x left out, from and to in y. ``fastest_mm_s`` is 0 without strokes.
    """

    glass: list[Grain]
    taken: list[Grain] = field(default_factory=list)
    rim: list[Grain] = field(default_factory=list)
    brought: list[Brought] = field(default_factory=list)
    faults: list[Fault] = field(default_factory=list)
    touched: set[str] = field(default_factory=set)
    dragged: set[str] = field(default_factory=set)
    covered: float = 1.0
    strips: list[tuple[float, float]] = field(default_factory=list)
    fastest_mm_s: float = 0.0
    hardest_n: float = 0.0

    def fault(self, code: Fault) -> None:
        """Note what went wrong, once."""
        if code not in self.faults:
            self.faults.append(code)

    def bring(self, sample: Sample, cause: Cause) -> None:
        """Leave something on the glass."""
        self.brought.append(Brought(sample.x_mm, sample.y_mm, cause))
        self.fault(cause)


def work_over(
    dirt: Sequence[Grain],
    strokes: Sequence[Stroke],
    setup: Setup,
    sensor_mm: tuple[float, float],
) -> Result:
    """What is left after all strokes, in their order. Strokes without samples change nothing."""
    result = Result(glass=list(dirt))
    hand = _Hand(setup, sensor_mm, result)
    for stroke in strokes:
        if stroke.samples:
            hand.touch(stroke)
    if setup.tool != "lift":
        result.covered, result.strips = coverage(strokes, setup.width_mm, sensor_mm)
    return result


def grains(
    counts: dict[Cling, int], sensor_mm: tuple[float, float], seed: int
) -> tuple[Grain, ...]:
    """Dirt at random over the glass; the same seed gives the same."""
    rng = np.random.default_rng(seed + 41)
    found: list[Grain] = []
    for cling, count in counts.items():
        for _ in range(count):
            x, y = (float(v) for v in rng.uniform(-0.46, 0.46, 2) * sensor_mm)
            strength = float(rng.uniform(0.05, 0.85))
            found.append(
                Grain(name=f"g{len(found)}", x_mm=x, y_mm=y, cling=cling, strength=strength)
            )
    return tuple(found)


class _Hand:
    def __init__(self, setup: Setup, sensor_mm: tuple[float, float], result: Result) -> None:
        self._setup, self._half = setup, (sensor_mm[0] / 2, sensor_mm[1] / 2)
        self._result = result
        self._on_face: dict[int, list[tuple[float, Grain]]] = {}

    @property
    def _wet(self) -> bool:
        s = self._setup
        return s.tool == "wet_swab" and s.drops > 0 and s.wait_s <= DRIES_S

    def touch(self, stroke: Stroke) -> None:
        if self._setup.tool == "wet_swab" and self._setup.drops == 0:
            self._result.fault("no_fluid")
        self._result.hardest_n = max(self._result.hardest_n, max(s.force_n for s in stroke.samples))
        if self._setup.tool == "lift":
            self._press(stroke)
        else:
            self._wipe(stroke)

    # Swabs

    def _wipe(self, stroke: Stroke) -> None:
        result, first = self._result, stroke.samples[0]
        if stroke.face in self._on_face:
            result.fault("face_again")
            self._let_go(stroke.face, first)
        self._on_face.setdefault(stroke.face, [])
        self._leave_marks(stroke)
        pushed: list[Grain] = []
        way = 0.0
        turned = 0.0
        for a, b in pairwise(stroke.samples):
            dx = b.x_mm - a.x_mm
            if dx * way != 0:
                turned = turned + abs(dx) if dx * way < 0 else 0.0
            if turned > TURN_MM:
                result.fault("turned_back")
                self._let_go(stroke.face, a)
                pushed, way, turned = self._set_down(pushed, a), dx, 0.0
            elif way == 0.0 or dx * way > 0:
                way = dx or way
            pushed += self._sweep(a, b, stroke.face)
        self._set_down(pushed, stroke.samples[-1])

    def _sweep(self, a: Sample, b: Sample, face: int) -> list[Grain]:
        """Grains met between two samples: taken, pushed along, or left; gives those pushed."""
        result, pushed = self._result, []
        for grain in list(result.glass):
            if not meets(a, b, grain, self._setup.width_mm):
                continue
            result.touched.add(grain.name)
            hold = self._hold(grain, b, face)
            if hold >= grain.strength:
                result.glass.remove(grain)
                result.taken.append(grain)
                self._on_face[face].append((hold - grain.strength, grain))
            elif grain.cling == "loose":
                result.glass.remove(grain)
                pushed.append(grain)
        return pushed

    def _hold(self, grain: Grain, at: Sample, face: int) -> float:
        tool = self._setup.tool
        if tool == "wet_swab" and not self._wet:
            tool = "dry_swab"
        room = _PAD_HOLDS if tool == "lift" else _FACE_HOLDS
        clean = max(_LEAST_CLEAN, 1 - len(self._on_face[face]) / room)
        return _HOLD[tool][grain.cling] * clean * self._bearing(at)

    def _bearing(self, at: Sample) -> float:
        """How well the tip bears on the glass: not when faint, nor when bent."""
        if at.force_n < FAINT_N:
            self._result.fault("faint")
            return _FAINT_SHARE
        return _BENT_SHARE if self._setup.tool != "lift" and is_bent(at) else 1.0

    def _let_go(self, face: int, at: Sample) -> None:
        """What a face took by little it leaves where it comes over the glass again."""
        result, kept = self._result, []
        for margin, grain in self._on_face[face]:
            if margin >= _LET_GO:
                kept.append((margin, grain))
                continue
            result.taken.remove(grain)
            result.glass.append(self._moved(grain, at))
        self._on_face[face] = kept

    def _set_down(self, pushed: list[Grain], at: Sample) -> list[Grain]:
        """Leave what was pushed along under the tip, or at the rim; gives an empty list."""
        near = self._half[0] - abs(at.x_mm) <= EDGE_MM + TIP_MM / 2
        for grain in pushed:
            if near:
                self._result.dragged.add(grain.name)
                self._result.rim.append(grain)
            else:
                self._result.glass.append(self._moved(grain, at))
        return []

    def _moved(self, grain: Grain, at: Sample) -> Grain:
        self._result.dragged.add(grain.name)
        x, y = (max(-h, min(h, v)) for v, h in zip((at.x_mm, grain.y_mm), self._half, strict=True))
        return replace(grain, x_mm=x, y_mm=y)

    def _leave_marks(self, stroke: Stroke) -> None:
        result, setup, samples = self._result, self._setup, stroke.samples
        middle = samples[len(samples) // 2]
        fast = list(speeds(samples))
        result.fastest_mm_s = max([result.fastest_mm_s, *fast])
        if any(v > FAST_MM_S for v in fast):
            result.fault("fast")
        bent = next((s for s in samples if is_bent(s)), None)
        if setup.used:
            result.bring(middle, "used")
        over = next((s for s in samples if self._is_over(s)), None)
        if over is not None:
            result.bring(over, "over_edge")
        if not self._wet:
            if setup.tool == "wet_swab" and setup.drops > 0:
                result.bring(middle, "dried")
            if bent is not None:
                result.fault("bent")
            return
        if setup.drops > MOST_DROPS:
            result.bring(middle, "too_wet")
        if setup.wait_s < EVEN_S:
            result.bring(samples[0], "not_even")
        if bent is not None:
            result.bring(bent, "bent")
        if mean_speed(samples) < STANDING_MM_S:
            result.bring(middle, "standing")

    def _is_over(self, at: Sample) -> bool:
        beyond_x = abs(at.x_mm) + TIP_MM / 2 - self._half[0]
        beyond_y = abs(at.y_mm) + self._setup.width_mm / 2 - self._half[1]
        return max(beyond_x - TIP_MM / 2, beyond_y) > OVER_MM

    # The gel stick

    def _press(self, stroke: Stroke) -> None:
        result, first = self._result, stroke.samples[0]
        held = self._on_face.setdefault(stroke.face, [])
        if max(math.dist(place(first), place(s)) for s in stroke.samples) > SLIDE_MM:
            self._slide(stroke)
            return
        firm = max(stroke.samples, key=lambda s: s.force_n)
        for grain in list(result.glass):
            if math.dist(place(first), (grain.x_mm, grain.y_mm)) > PAD_MM:
                continue
            result.touched.add(grain.name)
            if len(held) >= _FULL:
                result.fault("pad_full")
            if self._hold(grain, firm, stroke.face) >= grain.strength:
                result.glass.remove(grain)
                result.taken.append(grain)
                held.append((0.0, grain))
            elif grain.cling == "greasy":
                result.bring(firm, "lift_on_grease")

    def _slide(self, stroke: Stroke) -> None:
        """A pad that slides takes nothing: it drags what is loose, and smears."""
        result, last = self._result, stroke.samples[-1]
        result.bring(last, "slid")
        for a, b in pairwise(stroke.samples):
            for grain in list(result.glass):
                if meets(a, b, grain, 2 * PAD_MM):
                    result.touched.add(grain.name)
                    if grain.cling == "loose":
                        result.glass.remove(grain)
                        result.glass.append(self._moved(grain, last))
