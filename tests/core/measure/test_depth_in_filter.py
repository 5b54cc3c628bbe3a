"""Dust between the filter's layers is told from dust on the glass and from dead photosites."""

from __future__ import annotations

import json
from dataclasses import replace
from pathlib import Path

import numpy as np
import pytest

from neatpatch.core.common.frame import Image
from neatpatch.core.common.records import Spot, SpotMap
from neatpatch.core.measure.depth_in_filter import is_inside_filter, is_pixel_defect
from neatpatch.core.measure.map_building import MapOptions, build_map
from neatpatch.core.measure.stack_height import BlurFit
from neatpatch.images.read import read_frame
from neatpatch.simulation import scatter
from neatpatch.simulation.frames import Recipe, write_simulated
from tests.core.measure.test_region_measures import SHAPE, grid, measured, speck

SENSOR = (23.5, 15.6)
OUTER_MM, INNER_MM = 2.0, 0.9
BLUR = BlurFit(24.0, 0.8, 0.0, "fitted")


@pytest.fixture(scope="module")
def layered(tmp_path_factory: pytest.TempPathFactory) -> tuple[SpotMap, dict[str, Spot]]:
    """A frame with dust on both surfaces, and its spots by the particles' names."""
    recipe = Recipe(seed=515, width_px=3000, stack_mm=OUTER_MM, sensor_mm=SENSOR, f_number=16.0)
    dirt = [
        replace(p, size_um=max(p.size_um, 18.0))
        for p in scatter({"speck": 24}, SENSOR, OUTER_MM, 515)
    ]
    for n in (3, 9, 15):
        dirt[n] = replace(dirt[n], height_mm=INNER_MM, size_um=20.0)
    path, told = write_simulated(recipe, tmp_path_factory.mktemp("layers"), tuple(dirt))
    found = build_map(read_frame(path), MapOptions(sensor_mm=SENSOR))
    spots = {}
    for thing in json.loads(Path(told).read_text())["spots"]:
        near = [
            s for s in found.spots if np.hypot(s.x_px - thing["x_px"], s.y_px - thing["y_px"]) < 4
        ]
        if near:
            spots[thing["id"]] = near[0]
    return found, spots


def test_only_what_lies_on_the_inner_surface_is_told_as_inside(
    layered: tuple[SpotMap, dict[str, Spot]],
) -> None:
    found, spots = layered
    assert {name for name, s in spots.items() if s.inside_filter} == {"p3", "p9", "p15"}
    assert sum(s.inside_filter for s in found.spots) == 3


def test_both_heights_are_told(layered: tuple[SpotMap, dict[str, Spot]]) -> None:
    found, spots = layered
    assert found.optics.height_mm == pytest.approx(OUTER_MM, rel=0.06)
    for name in ("p3", "p9", "p15"):
        assert spots[name].height_mm == pytest.approx(INNER_MM, rel=0.2)
        assert spots[name].particle_um == pytest.approx(20.0, rel=0.12)


def test_a_dead_photosite_is_no_dust() -> None:
    yy, xx = grid()
    loss = np.asarray(0.4 * np.exp(-((xx - 200) ** 2 + (yy - 200) ** 2) / 2.0), np.float32)
    found = measured(loss)
    assert is_pixel_defect(found, BLUR)
    assert not is_inside_filter(found, BLUR)


def test_a_speck_on_the_glass_is_not_inside() -> None:
    assert not is_inside_filter(measured(speck(9.0, blur=24.0)), BLUR)
    assert is_inside_filter(measured(speck(5.0, blur=11.0)), BLUR)


def test_where_the_height_is_only_assumed_nothing_is_said() -> None:
    assert not is_inside_filter(measured(speck(5.0, blur=11.0)), BlurFit(24.0, 0.8, 0.0, "assumed"))


def test_the_middle_of_a_ring_is_not_inside() -> None:
    yy, xx = grid()
    radius = np.hypot(xx - 200, yy - 200)
    disc: Image = np.asarray(0.3 * np.exp(-((radius / 5) ** 4)), np.float32)
    bright = np.asarray(-0.13 * np.exp(-(((radius - 17) / 0.8) ** 2)), np.float32)
    assert disc.shape == SHAPE
    assert is_inside_filter(measured(disc), BLUR)
    assert not is_inside_filter(measured(disc + bright), BLUR)
