"""A body of the virtual camera on the bench: dust with hidden bonds, and what each rung does to it.

Made up to behave plausibly, so that a whole cleaning can be lived through with no camera. The odds
are nobody's figures and appear nowhere in the interface.
"""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass, replace
from typing import Literal

import numpy as np

from neatpatch.simulation.particles import Particle, scatter

Bond = Literal["loose", "bonded", "greasy", "marks", "lens"]
_GONE: dict[str, dict[Bond, float]] = {
    "auto_clean": {"loose": 0.35, "bonded": 0.02},
    "air": {"loose": 0.85, "bonded": 0.08},
    "brush": {"loose": 0.9, "bonded": 0.35, "greasy": 0.05},
    "lift": {"loose": 0.97, "bonded": 0.85, "greasy": 0.15, "marks": 0.05},
    "dry_swab": {"loose": 0.95, "bonded": 0.6, "greasy": 0.1, "marks": 0.3},
    "wet_swab": {"loose": 0.98, "bonded": 0.93, "greasy": 0.85, "marks": 0.9},
    "dry_followup": {"loose": 0.9, "bonded": 0.4, "greasy": 0.1, "marks": 0.92},
    "corner_swab": {"loose": 0.95, "bonded": 0.85, "greasy": 0.7, "marks": 0.6},
    "clean_lens": {"lens": 0.9},
    "service": {"loose": 1, "bonded": 1, "greasy": 1, "marks": 1, "lens": 1},
}
_COMES_A_DAY = {"speck": 0.12, "fibre": 0.02, "droplet": 0.01}
_EDGE_SHARE = 0.44
_PUSHED = 0.5
_STREAKS_FROM_DROPS = 3.5
_BONDS: dict[str, tuple[Bond, ...]] = {
    "speck": ("loose", "loose", "bonded"),
    "fibre": ("loose", "bonded"),
    "droplet": ("greasy",),
    "residue": ("marks",),
    "soft": ("lens",),
}


@dataclass(frozen=True)
class BondedParticle:
    """One particle and how it clings."""

    particle: Particle
    bond: Bond


@dataclass(frozen=True, kw_only=True)
class Handling:
    """How a step was done, as far as it matters here."""

    opening: str | None = None
    drops: float | None = None
    tip_bent: bool | None = None
    damp_or_cold: bool = False


def scatter_dust(
    counts: dict[str, int], sensor_mm: tuple[float, float], height_mm: float, seed: int
) -> tuple[BondedParticle, ...]:
    """Dirt with bonds at random; the same seed gives the same."""
    rng = np.random.default_rng(seed + 5)
    dirt = scatter(counts, sensor_mm, height_mm, seed)  # type: ignore[arg-type]
    return tuple(
        BondedParticle(p, _BONDS[p.kind][int(rng.integers(len(_BONDS[p.kind])))]) for p in dirt
    )


def add_settled_dust(
    dust: Sequence[BondedParticle],
    days: float,
    sensor_mm: tuple[float, float],
    height_mm: float,
    seed: int,
) -> tuple[BondedParticle, ...]:
    """What lies there after so many more days; the same seed gives the same."""
    rng = np.random.default_rng(seed + 11)
    counts = {kind: int(rng.poisson(rate * days)) for kind, rate in _COMES_A_DAY.items()}
    return (*dust, *scatter_dust(counts, sensor_mm, height_mm, seed))


def perform(
    dust: Sequence[BondedParticle],
    step: str,
    handling: Handling,
    sensor_mm: tuple[float, float],
    seed: int,
) -> tuple[BondedParticle, ...]:
    """What is left after a step. Unknown steps change nothing; the same seed gives the same."""
    rng = np.random.default_rng(seed)
    odds = _GONE.get(step, {})
    stirring = step == "air" and handling.opening == "up"
    left: list[BondedParticle] = []
    for d in dust:
        roll = float(rng.random())
        if stirring and d.bond == "loose":
            left.append(_elsewhere(d, sensor_mm, rng))
        elif stirring or roll >= odds.get(d.bond, 0.0):
            left.append(d)
        elif step in ("dry_swab", "wet_swab") and rng.random() < 0.08:
            left.append(_pushed(d, sensor_mm, rng))
    if step in ("wet_swab", "corner_swab") and _streaks(handling):
        left += _drying_marks(dust, sensor_mm, seed)
    return tuple(left)


def _streaks(handling: Handling) -> bool:
    drops = handling.drops if handling.drops is not None else 2.0
    return drops > _STREAKS_FROM_DROPS or bool(handling.tip_bent) or handling.damp_or_cold


def _elsewhere(
    d: BondedParticle, sensor_mm: tuple[float, float], rng: np.random.Generator
) -> BondedParticle:
    x, y = (float((rng.random() - 0.5) * 0.94 * side) for side in sensor_mm)
    return replace(d, particle=replace(d.particle, x_mm=x, y_mm=y))


def _pushed(
    d: BondedParticle, sensor_mm: tuple[float, float], rng: np.random.Generator
) -> BondedParticle:
    side = 1.0 if rng.random() < _PUSHED else -1.0
    x = side * sensor_mm[0] * _EDGE_SHARE
    return replace(d, particle=replace(d.particle, x_mm=float(x)))


def _drying_marks(
    dust: Sequence[BondedParticle], sensor_mm: tuple[float, float], seed: int
) -> list[BondedParticle]:
    height = dust[0].particle.height_mm if dust else 1.5
    marks = scatter({"residue": 2}, sensor_mm, height, seed + 31)
    return [BondedParticle(replace(p, name=f"mark-{seed}-{p.name}"), "marks") for p in marks]
