"""Fates from what each frame holds at a place, found there or not, on frames of known dust."""

from __future__ import annotations

import json
from collections import Counter
from dataclasses import dataclass, replace
from pathlib import Path
from typing import Any

import numpy as np
import pytest
from bench.scoring import stands_apart

from neatpatch.core.compare.alignment import Alignment
from neatpatch.core.compare.comparing_maps import compare
from neatpatch.core.compare.comparison import Comparison
from neatpatch.core.compare.places import Depth, depth_at, fate_at, place_of
from neatpatch.core.measure.map_building import MapOptions, MeasuredMap, measure_map
from neatpatch.core.sensor.placement import Placement
from neatpatch.images.read import read_frame
from neatpatch.simulation import Particle, scatter
from neatpatch.simulation.frames import Recipe, write_simulated

SENSOR = (23.5, 15.6)
STACK_MM = 1.8
COUNTS: dict[Any, int] = {"speck": 56, "fibre": 2, "droplet": 3, "residue": 1}


@dataclass(frozen=True)
class Shot:
    """A frame of known dust: what was measured, and the truth."""

    measured: MeasuredMap
    truth: list[dict[str, Any]]


def shoot(dirt: list[Particle], seed: int, folder: Path, exit_pupil_mm: float = 90.0) -> Shot:
    recipe = Recipe(
        seed=seed,
        name=f"shot-{seed}",
        width_px=3000,
        stack_mm=STACK_MM,
        sensor_mm=SENSOR,
        f_number=16.0,
        exit_pupil_mm=exit_pupil_mm,
    )
    path, told = write_simulated(recipe, folder, tuple(dirt))
    return Shot(
        measure_map(read_frame(path), MapOptions(sensor_mm=SENSOR)),
        json.loads(Path(told).read_text())["spots"],
    )


@pytest.fixture(scope="module")
def dust() -> list[Particle]:
    """Half of the specks near the limit of what a frame shows."""
    sizes = np.random.default_rng(5).uniform(5.5, 12.0, 100)
    return [
        replace(p, size_um=float(sizes[n])) if p.kind == "speck" and n % 2 else p
        for n, p in enumerate(scatter(COUNTS, SENSOR, STACK_MM, 77))
    ]


@pytest.fixture(scope="module")
def first(dust: list[Particle], tmp_path_factory: pytest.TempPathFactory) -> Shot:
    return shoot(dust, 1, tmp_path_factory.mktemp("first"))


def compared(before: Shot, after: Shot) -> Comparison:
    fields = before.measured.field, after.measured.field
    found = compare(before.measured.spot_map, after.measured.spot_map, None, fields)
    assert found.comparable
    return found


def truth_at(shot: Shot, spot: str) -> str:
    """The particle that lies where a spot was found."""
    s = next(s for s in shot.measured.spot_map.spots if s.id == spot)
    nearest = min(shot.truth, key=lambda t: np.hypot(t["x_px"] - s.x_px, t["y_px"] - s.y_px))
    return str(nearest["id"])


def test_shot_twice_nothing_is_gone_or_new(
    dust: list[Particle], first: Shot, tmp_path: Path
) -> None:
    again = shoot(dust, 2, tmp_path, exit_pupil_mm=104.0)
    fates = Counter(c.status for c in compared(first, again).spots)
    assert fates["gone"] == fates["new"] == fates["moved"] == 0
    assert fates["unseen"] <= 0.1 * fates["stayed"]


def test_after_a_step_what_went_is_told_and_what_stayed_is_not(
    dust: list[Particle], first: Shot, tmp_path: Path
) -> None:
    went = {p.name for n, p in enumerate(dust) if p.kind == "speck" and n % 3 == 0}
    after = shoot([p for p in dust if p.name not in went], 3, tmp_path)
    found = compared(first, after)
    clear = {t["id"] for t in first.truth if t["snr"] >= 12 and stands_apart(t, first.truth)}
    told = {truth_at(first, c.before): c.status for c in found.spots if c.before}
    assert all(told[name] not in ("gone", "moved") for name in told if name not in went)
    removed = [told[name] for name in told if name in went & clear]
    assert removed.count("gone") >= 0.9 * len(removed)
    assert "stayed" not in removed
    for c in found.spots:
        if c.status == "gone":
            assert c.depth_before is not None
            assert c.depth_after is not None
            assert c.depth_after_error is not None
            assert abs(c.depth_after) < 0.5 * c.depth_before


def test_what_came_is_new_and_only_that(dust: list[Particle], first: Shot, tmp_path: Path) -> None:
    came = [
        replace(p, name=f"came-{p.name}", size_um=20.0)
        for p in scatter({"speck": 6}, SENSOR, STACK_MM, 990)
    ]
    after = shoot([*dust, *came], 4, tmp_path)
    found = compared(first, after)
    new = {truth_at(after, c.after) for c in found.spots if c.status == "new" and c.after}
    assert new == {p.name for p in came}


def test_a_droplet_that_was_smeared_is_fainter(
    dust: list[Particle], first: Shot, tmp_path: Path
) -> None:
    drops = {p.name for p in dust if p.kind == "droplet"}
    thinner = [replace(p, opacity=0.45 * p.opacity) if p.name in drops else p for p in dust]
    found = compared(first, shoot(thinner, 5, tmp_path))
    fainter = {truth_at(first, c.before) for c in found.spots if c.status == "fainter" and c.before}
    assert fainter == drops
    assert found.summary.fainter == len(drops)


def test_the_depth_of_a_known_speck_is_told_within_its_error(first: Shot) -> None:
    field = first.measured.field
    off = []
    for t in first.truth:
        spots = first.measured.spot_map.spots
        s = min(spots, key=lambda s: np.hypot(t["x_px"] - s.x_px, t["y_px"] - s.y_px))
        if t["kind"] != "speck" or t["snr"] > 40 or np.hypot(t["x_px"] - s.x_px, 0) > 3:
            continue
        found = depth_at(field, place_of(s, (t["x_px"], t["y_px"]), 1.0, field), ())
        assert found is not None
        off.append((found.value - t["peak"]) / found.error)
    assert len(off) > 8
    assert abs(float(np.median(off))) < 1.5
    assert float(np.std(off)) < 2.5


def test_an_empty_place_holds_nothing_within_its_error(first: Shot) -> None:
    field, spot = first.measured.field, first.measured.spot_map.spots[-1]
    rng = np.random.default_rng(8)
    values: list[float] = []
    while len(values) < 60:
        x, y = rng.uniform(100, 2900), rng.uniform(100, 1800)
        if min(np.hypot(t["x_px"] - x, t["y_px"] - y) - t["outer_px"] for t in first.truth) > 40:
            found = depth_at(field, place_of(spot, (x, y), 1.0, field), ())
            assert found is not None
            values.append(found.value / found.error)
    assert abs(float(np.mean(values))) < 0.5
    assert 0.6 < float(np.std(values)) < 1.6


def test_outside_the_frame_nothing_is_told(first: Shot) -> None:
    field, spot = first.measured.field, first.measured.spot_map.spots[0]
    assert depth_at(field, place_of(spot, (-50.0, 20.0), 1.0, field), ()) is None
    assert fate_at(None, Depth(0.1, 0.001)) is None


@pytest.mark.parametrize(
    ("found", "error", "fate"),
    [
        (0.10, 0.004, "there"),
        (0.07, 0.004, "there"),
        (0.001, 0.004, "absent"),
        (0.05, 0.04, None),
        (0.0, 0.06, None),
    ],
)
def test_a_place_is_told_only_where_the_odds_are_plain(
    found: float, error: float, fate: str | None
) -> None:
    assert fate_at(Depth(found, error), Depth(0.1, 0.003)) == fate


def test_an_alignment_can_be_undone() -> None:
    place = Placement(here=(2000, 3000), there=(3000, 2000), turn=1)
    laid = Alignment(placement=place, scale=1.004, shift_px=(1.5, -2.0), radial=-0.02)
    points = np.array([[10.0, 20.0], [2900.0, 1800.0], [1500.0, 1000.0]])
    assert laid.back(laid.apply(points)) == pytest.approx(points, abs=0.01)
