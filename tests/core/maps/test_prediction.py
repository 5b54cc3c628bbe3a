from __future__ import annotations

from pathlib import Path

import numpy as np
import pytest
from bench.scoring import Row, pair_up

from neatpatch.core.common.errors import BadArgumentError
from neatpatch.core.common.records import Kind, SpotMap
from neatpatch.core.maps.prediction import is_noticed, predict
from neatpatch.core.measure.map_building import MapOptions, build_map
from neatpatch.images.read import read_frame
from neatpatch.simulation import View, render, scatter
from neatpatch.simulation.frames import Recipe, write_simulated
from tests.conftest import SENSOR

COUNTS: dict[Kind, int] = {"speck": 20, "fibre": 2, "droplet": 3, "residue": 1}


@pytest.fixture(scope="module")
def dusty_map(dusty_jpeg: Path) -> SpotMap:
    return build_map(read_frame(dusty_jpeg), MapOptions(sensor_mm=SENSOR))


def test_at_its_own_aperture_nothing_changes(dusty_map: SpotMap) -> None:
    for spot, told in zip(dusty_map.spots, predict(dusty_map, 22.0).spots, strict=True):
        assert told.depth == pytest.approx(spot.depth, rel=1e-6)
        assert told.outer_px == pytest.approx(spot.outer_px, abs=0.02)


def test_wider_apertures_never_show_more(dusty_map: SpotMap) -> None:
    counts = [sum(s.noticed for s in predict(dusty_map, n).spots) for n in (22, 16, 8, 4, 2)]
    assert counts == sorted(counts, reverse=True)
    assert counts[0] > counts[-1]


def test_shows_from_agrees_with_the_prediction(dusty_map: SpotMap) -> None:
    for spot in dusty_map.spots:
        if spot.shows_from_f is not None and spot.shows_from_f > 2:
            above = predict(dusty_map, spot.shows_from_f * 1.1).spots
            below = predict(dusty_map, spot.shows_from_f * 0.85).spots
            assert next(s for s in above if s.id == spot.id).noticed
            assert not next(s for s in below if s.id == spot.id).noticed


@pytest.mark.long
def test_against_the_virtual_camera(tmp_path: Path) -> None:
    dirt = scatter(COUNTS, SENSOR, 1.5, 77)
    path, _ = write_simulated(Recipe(seed=77, width_px=3000), tmp_path, dirt)
    found = build_map(read_frame(path), MapOptions(sensor_mm=SENSOR))
    rows = [Row(s.x_px, s.y_px, s.outer_px, s.kind) for s in found.spots]
    here, there = (
        [
            render(p, View(sensor_mm=SENSOR, width_px=3000, f_number=n, exit_pupil_mm=70, blades=7))
            for p in dirt
        ]
        for n in (22.0, 8.0)
    )
    truths = [
        {"x_px": s.x_px, "y_px": s.y_px, "outer_px": s.outer_px, "kind": p.kind}
        for p, s in zip(dirt, here, strict=True)
    ]
    told = {s.id: s for s in predict(found, 8.0).spots}
    errors = [
        told[found.spots[j].id].depth / there[i].peak - 1
        for i, j in pair_up(truths, rows)
        if there[i].peak > 0.002
    ]
    assert len(errors) > 10
    assert np.median(np.abs(errors)) < 0.15


@pytest.mark.parametrize("f_number", [0.0, -8.0, 500.0])
def test_impossible_apertures_are_refused(dusty_map: SpotMap, f_number: float) -> None:
    with pytest.raises(BadArgumentError, match="outside"):
        predict(dusty_map, f_number)


def test_an_unknown_aperture_is_said(dusty_map: SpotMap) -> None:
    frame = dusty_map.frames[0].model_copy(update={"f_number": None})
    with pytest.raises(BadArgumentError, match="aperture is unknown"):
        predict(dusty_map.model_copy(update={"frames": (frame,)}), 8.0)


def test_noticed_without_a_sensor_size_takes_depth_alone() -> None:
    assert is_noticed(0.03, 5.0, None, None)
    assert not is_noticed(0.01, 500.0, None, None)


@pytest.mark.parametrize(("kind", "middle", "most"), [("droplet", 0.1, 0.25), ("fibre", 0.3, 0.5)])
@pytest.mark.parametrize("wide", [1.4, 2.0, 4.0])
def test_wide_apertures_spread_long_and_ring_shaped_things_like_specks(
    wide: float, kind: Kind, middle: float, most: float, tmp_path: Path
) -> None:
    """Once the blur exceeds its length a thing's light is spread over the whole of it.

    Threads are told a quarter too deep: what bends round them here is taken for thickness.
    """
    dirt = scatter({kind: 8}, SENSOR, 1.5, 31)
    path, _ = write_simulated(Recipe(seed=31, width_px=3000), tmp_path, dirt)
    found = build_map(read_frame(path), MapOptions(sensor_mm=SENSOR))
    told = {s.id: s for s in predict(found, wide).spots}
    view = View(sensor_mm=SENSOR, width_px=3000, f_number=wide, exit_pupil_mm=70, blades=7)
    off = []
    for shadow in (render(p, view) for p in dirt):
        near = min(found.spots, key=lambda s: np.hypot(s.x_px - shadow.x_px, s.y_px - shadow.y_px))
        off.append(told[near.id].depth / shadow.peak - 1)
    assert abs(float(np.median(off))) <= middle
    assert float(np.quantile(np.abs(off), 0.9)) <= most
