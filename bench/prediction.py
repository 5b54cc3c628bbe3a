"""Predicted depth at wider apertures against the virtual camera's truth."""

from __future__ import annotations

import tempfile
from pathlib import Path

import numpy as np

from bench.scoring import Row, pair_up
from neatpatch.core.maps.prediction import is_noticed, predict
from neatpatch.core.measure.map_building import MapOptions, build_map
from neatpatch.images.read import read_frame
from neatpatch.simulation import View, render, scatter
from neatpatch.simulation.frames import Recipe, write_simulated

APERTURES = (11.0, 8.0)
RECIPES = (
    Recipe(seed=7001, width_px=4200, stack_mm=1.5),
    Recipe(seed=7002, width_px=6000, stack_mm=1.1, sensor_mm=(35.9, 23.9), blades=9),
)


def prediction_errors() -> tuple[float, float]:
    """Median relative error of the depth, and the share of rightly told noticed-or-not.

    Maps at f/22 are predicted at f/11 and f/8; the truth is rendered there. Only spots whose
    true depth there is above 0.2 % count for the depth.
    """
    errors: list[float] = []
    right: list[bool] = []
    for recipe in RECIPES:
        counts = {"speck": 40, "fibre": 4, "droplet": 5, "residue": 3}
        dirt = scatter(counts, recipe.sensor_mm, recipe.stack_mm, recipe.seed)  # type: ignore[arg-type]
        with tempfile.TemporaryDirectory() as folder:
            path, _ = write_simulated(recipe, Path(folder), dirt)
            found = build_map(read_frame(path), MapOptions(sensor_mm=recipe.sensor_mm))
        shown = {
            n: [
                render(
                    p,
                    View(
                        sensor_mm=recipe.sensor_mm,
                        width_px=recipe.width_px,
                        f_number=n,
                        exit_pupil_mm=recipe.exit_pupil_mm,
                        blades=recipe.blades,
                    ),
                )
                for p in dirt
            ]
            for n in (22.0, *APERTURES)
        }
        truths = [
            {"x_px": s.x_px, "y_px": s.y_px, "outer_px": s.outer_px, "kind": p.kind}
            for p, s in zip(dirt, shown[22.0], strict=True)
        ]
        rows = [Row(s.x_px, s.y_px, s.outer_px, s.kind) for s in found.spots]
        pitch = recipe.sensor_mm[0] * 1000 / recipe.width_px
        for n in APERTURES:
            told = {s.id: s for s in predict(found, n).spots}
            for i, j in pair_up(truths, rows):
                truth, guess = shown[n][i], told[found.spots[j].id]
                seen = is_noticed(truth.peak, truth.outer_px, pitch, recipe.sensor_mm[0])
                right.append(seen == guess.noticed)
                if truth.peak > 0.002:
                    errors.append(abs(guess.depth / truth.peak - 1))
    return float(np.median(errors)), float(np.mean(right))
