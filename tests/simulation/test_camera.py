from __future__ import annotations

import math

import numpy as np
import pytest

from neatpatch.core.common.records import Kind
from neatpatch.simulation import Camera, Particle, View, expose, render, scatter
from neatpatch.simulation.camera import RAW_WHITE, developed
from neatpatch.simulation.shadows import magnification

SENSOR = (23.5, 15.6)


def speck(size_um: float, x_mm: float = 0.0) -> Particle:
    return Particle(
        name="a", kind="speck", x_mm=x_mm, y_mm=1.0, size_um=size_um, height_mm=1.5, shape=4
    )


@pytest.mark.parametrize("blades", [0, 5, 7, 9])
@pytest.mark.parametrize("size", [15.0, 60.0, 140.0])
def test_integrated_loss_is_the_particle_area_whatever_the_blur(size: float, blades: int) -> None:
    for f_number in (5.6, 22.0):
        shadow = render(
            speck(size),
            View(
                sensor_mm=SENSOR, width_px=3000, f_number=f_number, exit_pupil_mm=70, blades=blades
            ),
        )
        pitch = 23500 / 3000
        assert shadow.loss.sum() == pytest.approx(math.pi / 4 * (size / pitch) ** 2, rel=0.06)


def test_depth_falls_with_the_square_of_the_f_number() -> None:
    peaks = [
        render(speck(12), View(sensor_mm=SENSOR, width_px=6000, f_number=n, exit_pupil_mm=70)).peak
        for n in (8.0, 16.0)
    ]
    assert peaks[1] / peaks[0] == pytest.approx(4.0, rel=0.12)


def test_exit_pupil_moves_shadows_outward() -> None:
    assert magnification(1.5, 70.0) == pytest.approx(70 / 68.5)
    near = render(
        speck(40, 8.0), View(sensor_mm=SENSOR, width_px=3000, f_number=22, exit_pupil_mm=50)
    )
    far = render(
        speck(40, 8.0), View(sensor_mm=SENSOR, width_px=3000, f_number=22, exit_pupil_mm=120)
    )
    assert near.x_px - far.x_px == pytest.approx(
        8000 / (23500 / 3000) * (50 / 48.5 - 120 / 118.5), abs=0.1
    )


def test_the_same_seed_gives_the_same_frame_and_another_does_not() -> None:
    camera = Camera(width_px=600)
    dirt = scatter({"speck": 3}, camera.sensor_mm, 1.5, 2)
    first, again = (expose(camera, dirt, seed=9).mosaic for _ in range(2))
    other = expose(camera, dirt, seed=10).mosaic
    assert np.array_equal(first, again)
    assert not np.array_equal(first, other)


def test_noise_is_what_the_truth_says() -> None:
    camera = Camera(width_px=900, hot_pixels=0)
    shot = expose(camera, [], seed=1)
    green = shot.mosaic[0::2, 1::2].astype(float)
    middle = green[100:140, 180:240]
    assert middle.std() / middle.mean() == pytest.approx(shot.noise_per_pixel, rel=0.15)


def test_hot_pixels_belong_to_the_camera() -> None:
    camera = Camera(width_px=600)
    first, second = expose(camera, [], seed=1), expose(camera, [], seed=2)
    assert first.hot == second.hot
    assert all(first.mosaic[y, x] == RAW_WHITE for y, x in first.hot)


def test_scatter_makes_what_was_asked_and_keeps_it_on_the_sensor() -> None:
    counts: dict[Kind, int] = {"speck": 5, "fibre": 2, "droplet": 1, "residue": 1, "soft": 2}
    dirt = scatter(counts, SENSOR, 1.2, 3)
    assert {k: sum(p.kind == k for p in dirt) for k in counts} == counts
    assert all(abs(p.x_mm) < 23.5 / 2 and abs(p.y_mm) < 15.6 / 2 for p in dirt)
    assert all(p.height_mm > 15 for p in dirt if p.kind == "soft")


def test_developed_picture_is_neutral_grey() -> None:
    picture = developed(expose(Camera(width_px=600, hot_pixels=0), [], seed=1).mosaic)
    assert picture.shape == (398, 600, 3)
    red, green, blue = (float(picture[..., c].mean()) for c in range(3))
    assert red == pytest.approx(green, abs=2)
    assert blue == pytest.approx(green, abs=2)
