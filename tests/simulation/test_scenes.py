"""What people point a test frame at."""

from __future__ import annotations

import numpy as np
import pytest

from neatpatch.simulation.scenes import Scene, SceneKind, scene_light

SHAPE = (400, 600)
KINDS: tuple[SceneKind, ...] = (
    "clouds", "edged_clouds", "led_rows", "led_columns", "screen", "lamp_glow", "falloff",
    "tilt", "wall", "paper", "window",
)  # fmt: skip


@pytest.mark.parametrize("kind", KINDS)
def test_every_scene_is_light_of_its_amplitude_and_comes_again(kind: SceneKind) -> None:
    scene = Scene(kind=kind, amplitude=0.3, size_px=40.0, angle_rad=0.5)
    light = scene_light(scene, SHAPE, 3)
    assert light.shape == SHAPE
    assert light.dtype == np.float32
    assert np.isfinite(light).all()
    assert light.min() >= 0.01
    swing = float(np.quantile(light, 0.995) - np.quantile(light, 0.005))
    assert 0.05 < swing < 2.0
    assert np.array_equal(light, scene_light(scene, SHAPE, 3))


def test_bands_run_along_their_axis() -> None:
    rows = scene_light(Scene(kind="led_rows", amplitude=0.06, size_px=40), SHAPE, 1)
    columns = scene_light(Scene(kind="led_columns", amplitude=0.06, size_px=40), SHAPE, 1)
    assert np.ptp(rows, axis=1).max() == 0
    assert np.ptp(columns, axis=0).max() == 0
    assert np.ptp(rows[:, 0]) == pytest.approx(0.12, rel=0.25)


def test_falloff_leaves_the_corners_their_share() -> None:
    light = scene_light(Scene(kind="falloff", amplitude=0.7), SHAPE, 1)
    assert light[0, 0] == pytest.approx(0.3, abs=0.01)
    assert light[200, 300] == pytest.approx(1.0, abs=0.01)
