"""Targets as people shoot them: right, or refused with the true cause first; never a false map."""

from __future__ import annotations

import json
from collections.abc import Iterator
from dataclasses import dataclass, replace
from pathlib import Path

import numpy as np

from bench.frames import Case
from bench.scoring import Row, Truth, rows_of, score
from neatpatch.core.common.records import Kind, SpotMap
from neatpatch.simulation.frames import Recipe, write_simulated
from neatpatch.simulation.scenes import Scene

_COUNTS: dict[Kind, int] = {"speck": 30, "fibre": 2, "droplet": 3, "residue": 1}
CAUSES = {
    "wall": ("target_in_focus",),
    "paper": ("target_in_focus",),
    "window": ("uneven", "target_in_focus"),
    "edged_clouds": ("uneven", "target_in_focus"),
}
"""Codes that name the true cause, for scenes that may be refused."""
LEAST_FOUND, MOST_FALSE = 0.95, 1


def scenes(rng: np.random.Generator, width_px: int) -> Iterator[tuple[str, Scene]]:
    """Each kind in two or three strengths, its periods and places drawn anew for each seed."""
    wide = width_px / 3000

    def pick(low: float, high: float) -> float:
        return float(np.exp(rng.uniform(np.log(low), np.log(high)))) * wide

    turn = float(rng.uniform(0, 1.5))
    yield "soft clouds 3 %", Scene(kind="clouds", amplitude=0.03, size_px=pick(250, 600))
    yield "soft clouds 8 %", Scene(kind="clouds", amplitude=0.08, size_px=pick(250, 600))
    for share in (0.02, 0.06):
        yield (
            f"led rows {share:.0%}",
            Scene(kind="led_rows", amplitude=share, size_px=pick(12, 900)),
        )
        yield (
            f"led columns {share:.0%}",
            Scene(kind="led_columns", amplitude=share, size_px=pick(12, 900)),
        )
    for share in (0.01, 0.04):
        waves = Scene(kind="screen", amplitude=share, size_px=pick(8, 60), angle_rad=turn)
        yield f"screen {share:.0%}", waves
    yield "lamp glow", Scene(kind="lamp_glow", amplitude=0.8, size_px=pick(250, 600))
    yield "strong lamp", Scene(kind="lamp_glow", amplitude=1.6, size_px=pick(150, 400))
    yield "falloff 70 %", Scene(kind="falloff", amplitude=0.7)
    yield "tilt 35 %", Scene(kind="tilt", amplitude=0.35, angle_rad=turn * 4)
    yield "wall 1.5 %", Scene(kind="wall", amplitude=0.015, size_px=pick(4, 14))
    yield "wall 4 %", Scene(kind="wall", amplitude=0.04, size_px=pick(4, 14))
    yield "paper 1 %", Scene(kind="paper", amplitude=0.01, size_px=pick(2, 6))
    yield "paper 3 %", Scene(kind="paper", amplitude=0.03, size_px=pick(2, 6))
    yield "window", Scene(kind="window", amplitude=0.5, size_px=pick(4, 40))
    yield "edged clouds 10 %", Scene(kind="edged_clouds", amplitude=0.1, size_px=pick(15, 60))
    yield "edged clouds 25 %", Scene(kind="edged_clouds", amplitude=0.25, size_px=pick(15, 60))


_BASES = (
    Recipe(width_px=3000, stack_mm=1.5),
    Recipe(width_px=4200, stack_mm=1.1, f_number=16.0, exit_pupil_mm=95.0, iso=200),
)


def target_cases(folder: Path, seed: int) -> Iterator[tuple[str, Scene, Case]]:
    """Frames of every scene; two cameras in turn."""
    rng = np.random.default_rng(seed)
    number = 0
    for base in _BASES:
        for name, scene in scenes(rng, base.width_px):
            number += 1
            level = 0.2 if scene.kind == "lamp_glow" else 0.38
            recipe = replace(
                base,
                seed=seed + number,
                name=f"target-{number}",
                counts=_COUNTS,
                scene=scene,
                level=level,
            )
            path, truth = write_simulated(recipe, folder)
            told = f"{name} ({base.width_px} px, {scene.size_px:.0f} px)"
            yield told, scene, Case(f"target-{number}", path, json.loads(truth.read_text()), True)


@dataclass(frozen=True)
class TargetResult:
    """One frame: what was found of the clear specks, what is false, what the first retake says."""

    found: float
    false: int
    causes: tuple[str, ...]

    def right(self) -> bool:
        return not self.causes and self.found >= LEAST_FOUND and self.false <= MOST_FALSE

    def refused_rightly(self, scene: Scene) -> bool:
        return bool(self.causes) and self.causes[0] in CAUSES.get(scene.kind, ())


def _meets(row: Row, truth: Truth) -> bool:
    away = float(np.hypot(row.x_px - truth["x_px"], row.y_px - truth["y_px"]))
    return away < max(8.0, float(truth["outer_px"]) / 2)


def judged(truth: Case, found: SpotMap) -> TargetResult:
    s = score(truth.truth["spots"], rows_of(found), truth.name)
    causes = tuple(c.code for c in found.checks if c.level == "retake")
    clear = [t for t in truth.truth["spots"] if t["kind"] == "speck" and t["snr"] >= 20]
    rows = rows_of(found)
    hits = sum(any(_meets(r, t) for r in rows) for t in clear)
    return TargetResult(hits / max(len(clear), 1), s.false + s.fragments, causes)
