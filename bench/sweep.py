"""``python -m bench.sweep``: frames drawn far and wide, to see where the figures give way.

The bench's own frames are shot as asked for. These are not: f/11 to f/32, ISO 50 to 400, stacks of
0.6 to 3.5 mm, JPEG qualities from 82, dim and bright tones, few and many things.
"""

from __future__ import annotations

import argparse
import json
import tempfile
from collections.abc import Iterator
from pathlib import Path

import numpy as np

from bench.scoring import Score, rows_of, score
from neatpatch.core.measure.map_building import MapOptions, build_map
from neatpatch.images.read import read_frame
from neatpatch.simulation.frames import Recipe, write_simulated

_SENSORS_MM = ((36.0, 24.0), (23.5, 15.6), (17.3, 13.0), (43.8, 32.9), (22.3, 14.9))
_WIDTHS_PX = (3000, 4000, 5200, 6000, 7000)


def recipes(seed: int, count: int) -> Iterator[Recipe]:
    """So many recipes; the same seed draws the same ones."""
    draw = np.random.default_rng(seed)
    for number in range(count):
        yield Recipe(
            seed=int(draw.integers(1_000_000)),
            name=f"sweep-{seed}-{number}",
            sensor_mm=_SENSORS_MM[draw.integers(len(_SENSORS_MM))],
            width_px=int(draw.choice(_WIDTHS_PX)),
            f_number=float(draw.choice([11, 16, 18, 22, 22, 32])),
            iso=int(draw.choice([50, 100, 100, 200, 400])),
            stack_mm=float(draw.uniform(0.6, 3.5)),
            exit_pupil_mm=float(draw.uniform(40, 300)),
            blades=int(draw.choice([0, 5, 6, 7, 8, 9])),
            quality=int(draw.choice([82, 88, 92, 95, 98])),
            level=float(draw.uniform(0.15, 0.6)),
            dng=bool(draw.random() < 0.2),
            counts={
                "speck": int(draw.integers(3, 90)),
                "fibre": int(draw.integers(0, 8)),
                "droplet": int(draw.integers(0, 10)),
                "residue": int(draw.integers(0, 4)),
                "soft": int(draw.integers(0, 3)),
            },
        )


def measure(recipe: Recipe, folder: Path) -> tuple[Score, float]:
    """The score of one frame, and the error of its stack height as a share of the true one."""
    path, truth_path = write_simulated(recipe, folder)
    truth = json.loads(truth_path.read_text())
    found = build_map(read_frame(path), MapOptions(sensor_mm=recipe.sensor_mm))
    path.unlink()
    height = (found.optics.height_mm or 0.0) / recipe.stack_mm - 1
    return score(truth["spots"], rows_of(found), recipe.name or ""), height


def main() -> None:
    parser = argparse.ArgumentParser(description=__doc__)
    parser.add_argument("--seed", type=int, default=11)
    parser.add_argument("--count", type=int, default=22)
    asked = parser.parse_args()
    total, heights = Score(), []
    print("| frame | wanted | found | false | fragments | kind right | height error |")
    print("|---|---|---|---|---|---|---|")
    with tempfile.TemporaryDirectory() as folder:
        for r in recipes(asked.seed, asked.count):
            s, height = measure(r, Path(folder))
            total += s
            heights.append(abs(height))
            told = f"f/{r.f_number:g} ISO {r.iso} {r.stack_mm:.1f} mm {r.width_px} px"
            form = "DNG" if r.dng else f"JPEG {r.quality}"
            print(
                f"| {told} {form} | {s.wanted} | {s.found} | {s.false} | {s.fragments} "
                f"| {sum(s.kind_right)} of {len(s.kind_right)} | {100 * height:+.1f} % |",
                flush=True,
            )
    print(
        f"\nFound {100 * total.found / total.wanted:.1f} % of {total.wanted}, {total.false} false, "
        f"{total.fragments} fragments, kind right {100 * np.mean(total.kind_right):.1f} %, "
        f"height error: median {100 * np.median(heights):.1f} %, worst {100 * max(heights):.1f} %"
    )


if __name__ == "__main__":
    main()
