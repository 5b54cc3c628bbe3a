"""Before and after on frames with known truth: statuses right, alignment error.

Moved, or gone here and new there, count as one class: two specks of one size cannot be told apart.
"""

from __future__ import annotations

import json
import math
from collections.abc import Iterator, Sequence
from dataclasses import dataclass, replace
from pathlib import Path
from typing import Any

import numpy as np

from bench.frames import SHARED
from neatpatch.core.common.records import SpotMap
from neatpatch.core.compare.comparing_maps import compare
from neatpatch.core.compare.comparison import Comparison
from neatpatch.core.measure.map_building import MapOptions, build_map
from neatpatch.images.read import read_frame
from neatpatch.simulation import Particle, scatter
from neatpatch.simulation.frames import Recipe, write_simulated

LEAST_SNR = 20.0
_SHARED_PAIRS = (("before", "after-air"), ("after-air", "after-wet"), ("before", "after-wet"))
Truth = dict[str, Any]


@dataclass
class PairScore:
    """``right`` one entry a spot; ``misplaced_px`` one a pair."""

    right: list[bool]
    misplaced_px: list[float]


def score_pairs(folder: Path, seed: int, count: int = 6) -> PairScore:
    """Shared pairs, and fresh ones with unseen seeds."""
    total = PairScore([], [])
    for before, after in [*_shared(), *_fresh(folder, seed, count)]:
        _add(total, before, after)
    return total


def _shared() -> Iterator[tuple[Path, Path]]:
    for names in _SHARED_PAIRS:
        before, after = (SHARED / f"{name}.jpg" for name in names)
        if before.is_file() and after.is_file():
            yield before, after


def _fresh(folder: Path, seed: int, count: int) -> Iterator[tuple[Path, Path]]:
    for number in range(count):
        rng = np.random.default_rng(seed + number)
        recipe = Recipe(
            seed=seed + number,
            width_px=3000,
            f_number=(22.0, 16.0)[number % 2],
            stack_mm=1.0 + 0.3 * number,
            exit_pupil_mm=float(rng.uniform(60, 120)),
        )
        dirt = scatter(
            {"speck": 34, "fibre": 3, "droplet": 4, "residue": 2},
            recipe.sensor_mm,
            recipe.stack_mm,
            seed + number,
        )
        before, _ = write_simulated(replace(recipe, name=f"pair-{number}-before"), folder, dirt)
        later = replace(
            recipe,
            name=f"pair-{number}-after",
            seed=seed + 1000 + number,
            exit_pupil_mm=float(rng.uniform(60, 120)),
        )
        after, _ = write_simulated(later, folder, _cleaned(dirt, recipe, rng))
        yield before, after


def _cleaned(
    dirt: Sequence[Particle], recipe: Recipe, rng: np.random.Generator
) -> tuple[Particle, ...]:
    """About half gone, two specks moved, two new."""
    kept = [p for p in dirt if rng.random() > 0.45]
    movable = [i for i, p in enumerate(kept) if p.kind == "speck"][:2]
    for i in movable:
        x, y = (float((rng.random() - 0.5) * 0.9 * side) for side in recipe.sensor_mm)
        kept[i] = replace(kept[i], name=f"{kept[i].name}-moved", x_mm=x, y_mm=y)
    fresh = scatter({"speck": 2}, recipe.sensor_mm, recipe.stack_mm, int(rng.integers(1 << 30)))
    return (*kept, *(replace(p, name=f"new-{p.name}") for p in fresh))


def _add(total: PairScore, before: Path, after: Path) -> None:
    truths = [json.loads(p.with_suffix(".truth.json").read_text()) for p in (before, after)]
    maps = [
        build_map(read_frame(p), MapOptions(sensor_mm=tuple(t["sensor_mm"])))
        for p, t in zip((before, after), truths, strict=True)
    ]
    found = compare(maps[0], maps[1])
    total.right += [*_earlier(found, maps[0], *truths), *_later(found, maps[1], *truths)]
    total.misplaced_px += _misplaced(found, *truths)


def _row_of(spot_map: SpotMap, truth: Truth) -> str:
    near = [
        (math.hypot(s.x_px - truth["x_px"], s.y_px - truth["y_px"]), s.id) for s in spot_map.spots
    ]
    distance, name = min(near, default=(math.inf, ""))
    return name if distance < max(6.0, 0.3 * truth["outer_px"]) else ""


def _earlier(found: Comparison, spot_map: SpotMap, old: Truth, new: Truth) -> Iterator[bool]:
    names = {t["id"] for t in new["spots"]}
    status = {s.before: s.status for s in found.spots if s.before}
    for truth in old["spots"]:
        if truth["snr"] >= LEAST_SNR:
            wanted = {"stayed"} if truth["id"] in names else {"gone", "moved"}
            yield status.get(_row_of(spot_map, truth)) in wanted


def _later(found: Comparison, spot_map: SpotMap, old: Truth, new: Truth) -> Iterator[bool]:
    names = {t["id"] for t in old["spots"]}
    status = {s.after: s.status for s in found.spots if s.after}
    for truth in new["spots"]:
        if truth["snr"] >= LEAST_SNR and truth["id"] not in names:
            yield status.get(_row_of(spot_map, truth), "stayed") in ("new", "moved")


def _misplaced(found: Comparison, old: Truth, new: Truth) -> Iterator[float]:
    """Root mean square of where unchanged things are put against where they are."""
    there = {t["id"]: t for t in new["spots"]}
    centre = (new["width_px"] - 1) / 2, (new["height_px"] - 1) / 2
    scale, shift = found.alignment.scale, found.alignment.shift_px
    errors = []
    for truth in old["spots"]:
        if truth["id"] in there and truth["kind"] != "lens":
            x = centre[0] + scale * (truth["x_px"] - centre[0]) + shift[0]
            y = centre[1] + scale * (truth["y_px"] - centre[1]) + shift[1]
            other = there[truth["id"]]
            errors.append(math.hypot(x - other["x_px"], y - other["y_px"]))
    if errors:
        yield float(np.sqrt(np.mean(np.square(errors))))
