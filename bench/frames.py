"""The frames a bench runs on: the practice frames when present, and fresh simulated ones."""

from __future__ import annotations

import json
from collections.abc import Iterator
from dataclasses import dataclass, replace
from pathlib import Path
from typing import Any

from neatpatch.simulation.frames import Recipe, write_simulated

SHARED = Path(__file__).parents[2] / "shared" / "frames"
FLAWED = {
    "grainy": "grainy",
    "textured": "target_in_focus",
    "too-bright": "too_bright",
    "wide-open": "aperture_too_wide",
}
SERIES = ("series-1", "series-2", "series-3")


@dataclass(frozen=True)
class Case:
    """A frame with its truth; ``good`` ones count towards the figures.

    ``by_waves``: its shadows are drawn by wave optics. The others' are geometry's: their heights
    and sizes are no measure.
    """

    name: str
    path: Path
    truth: dict[str, Any]
    good: bool
    by_waves: bool = True

    @property
    def sensor_mm(self) -> tuple[float, float]:
        width, height = self.truth["sensor_mm"]
        return float(width), float(height)


def shared_cases() -> Iterator[Case]:
    """Practice frames drawn by geometry; nothing when they are not there."""
    yield from _shared("[!w]*.truth.json")
    yield from _shared("wide-open.truth.json")


def wave_cases() -> list[Case]:
    """Practice frames of another renderer, drawn by wave optics."""
    return [replace(case, by_waves=True) for case in _shared("wave-*.truth.json")]


def _shared(pattern: str) -> Iterator[Case]:
    for truth_path in sorted(SHARED.glob(pattern)):
        truth = json.loads(truth_path.read_text())
        name = truth_path.name.removesuffix(".truth.json")
        good = name not in FLAWED and name not in SERIES
        yield Case(name, SHARED / truth["frame"], truth, good, by_waves=False)


FRESH = (
    Recipe(width_px=3000, blades=7, stack_mm=1.5),
    Recipe(width_px=4200, blades=5, stack_mm=0.9, f_number=16.0, exit_pupil_mm=110),
    Recipe(width_px=6000, blades=9, stack_mm=2.2, quality=90),
    Recipe(width_px=4200, blades=6, stack_mm=1.2, f_number=11.0, iso=200),
    Recipe(width_px=6000, blades=0, stack_mm=1.0, f_number=16.0, sensor_mm=(35.9, 23.9)),
    Recipe(width_px=3000, blades=8, stack_mm=1.8, f_number=16.0, dng=True),
)


_COUNTS = {"speck": 40, "fibre": 4, "droplet": 5, "residue": 2}


def fresh_cases(folder: Path, seed: int) -> Iterator[Case]:
    """Simulated frames of other cameras, apertures, blades, noise and quality; seeds unseen."""
    for number, base in enumerate(FRESH):
        counts = {**_COUNTS, "soft": number % 2}
        fresh = {"seed": seed + number, "name": f"fresh-{number + 1}", "counts": counts}
        recipe = Recipe(**{**base.__dict__, **fresh})
        path, truth = write_simulated(recipe, folder)
        yield Case(f"fresh-{number + 1}", path, json.loads(truth.read_text()), True)
