"""Ordinary pictures of the virtual camera."""

from __future__ import annotations

import numpy as np
import pytest

from neatpatch.simulation import Camera, Particle
from neatpatch.simulation.pictures import (
    chart_light,
    corrected,
    photograph,
    subject_light,
    toned,
)

SHAPE = (400, 600)


@pytest.mark.parametrize("draw", [subject_light, chart_light])
def test_subjects_are_light_of_their_seed(draw: object) -> None:
    first, again, other = (draw(SHAPE, s) for s in (1, 1, 2))  # type: ignore[operator]
    assert first.shape == (*SHAPE, 3)
    assert np.array_equal(first, again)
    assert not np.array_equal(first, other)
    assert first.min() > 0
    assert first.max() < 1


def test_a_photograph_differs_from_a_clean_one_by_its_dust_alone() -> None:
    camera = Camera(width_px=600, sensor_mm=(24, 16))
    dust = [Particle(name="p", kind="speck", x_mm=0, y_mm=0, size_um=120, height_mm=1.5)]
    light = np.full((*SHAPE, 3), 0.4, np.float32)
    clean, dusty = (photograph(camera, d, light, f_number=16, seed=3) for d in ((), dust))
    ratio = dusty / clean
    assert ratio[200, 300].mean() < 0.5
    assert np.allclose(ratio[:150], 1, atol=0.02)


@pytest.mark.parametrize("radial", [0.03, -0.03])
def test_a_correction_moves_marks_by_the_square_of_their_distance(radial: float) -> None:
    plane = np.ones(SHAPE, np.float32)
    plane[290:294, 480:484] = 0
    moved = corrected(plane, radial)
    y, x = np.argwhere(moved < 0.5).mean(axis=0)
    off = np.array([481.5 - 299.5, 291.5 - 199.5])
    rho2 = (off @ off) / ((600**2 + 400**2) / 4)
    wanted = np.array([299.5, 199.5]) + off * (1 + radial * rho2)
    assert np.allclose((x, y), wanted, atol=0.8)


def test_tones_come_in_both_depths() -> None:
    light = np.linspace(0, 1, 300, dtype=np.float32).reshape(10, 30)
    assert toned(light).dtype == np.uint8
    deep = toned(light, 65536)
    assert deep.dtype == np.uint16
    assert deep.max() == 65535
