"""Bands and waves on made loss maps: found, taken out, and told from dust and texture."""

from __future__ import annotations

import numpy as np
import pytest
from numpy.typing import NDArray

from neatpatch.core.common.filters import smoothed
from neatpatch.core.measure.patterns import amplitude, find_bands, find_waves

SHAPE = (900, 1200)
Image = NDArray[np.float32]
NOTHING = np.zeros(SHAPE[0], np.float32), np.zeros(SHAPE[1], np.float32)


def noise(sigma: float = 0.005, seed: int = 1) -> Image:
    return (sigma * np.random.default_rng(seed).standard_normal(SHAPE)).astype(np.float32)


def waves(period_px: float, angle_rad: float, share: float) -> Image:
    y, x = np.mgrid[: SHAPE[0], : SHAPE[1]]
    along = np.cos(angle_rad) * x + np.sin(angle_rad) * y
    return np.asarray(share * np.sin(2 * np.pi * along / period_px), np.float32)


def disc(loss: Image, y: int, x: int, radius: int, depth: float) -> Image:
    yy, xx = np.ogrid[: SHAPE[0], : SHAPE[1]]
    return np.asarray(np.where((yy - y) ** 2 + (xx - x) ** 2 < radius**2, depth, loss), np.float32)


@pytest.mark.parametrize("period_px", [14, 90, 400])
@pytest.mark.parametrize("along", ["rows", "columns"])
def test_bands_are_found_and_taken_out(period_px: float, along: str) -> None:
    angle = np.pi / 2 if along == "rows" else 0.0
    light = (1 - noise()) * (1 + waves(period_px, angle, 0.03))
    found = find_bands((1 - light).astype(np.float32), NOTHING, 1)
    assert found is not None
    profile = found.rows if along == "rows" else found.columns
    assert profile is not None
    assert amplitude(profile) == pytest.approx(0.03, rel=0.1)
    across = SHAPE[0] if along == "rows" else SHAPE[1]
    assert found.repeats() is (across >= 3 * period_px)
    assert (found.rows is None) != (found.columns is None)
    left = found.taken_out(light.astype(np.float32))
    assert np.std(left) == pytest.approx(0.005, rel=0.05)


@pytest.mark.parametrize("along", ["rows", "columns", None])
def test_bands_of_a_large_frame_are_found_though_few_pixels_are_looked_at_first(
    along: str | None,
) -> None:
    shape = (1700, 2000)
    loss = (0.005 * np.random.default_rng(4).standard_normal(shape)).astype(np.float32)
    if along == "rows":
        loss -= 0.02 * np.sin(np.arange(shape[0]) / 9)[:, None].astype(np.float32)
    if along == "columns":
        loss -= 0.02 * np.sin(np.arange(shape[1]) / 9)[None, :].astype(np.float32)
    followed = np.zeros(shape[0], np.float32), np.zeros(shape[1], np.float32)
    found = find_bands(loss, followed, 2)
    assert (found is not None and found.rows is not None) == (along == "rows")
    assert (found is not None and found.columns is not None) == (along == "columns")


def test_noise_dust_and_a_fibre_along_a_row_are_no_bands() -> None:
    loss = disc(noise(), 400, 600, 60, 0.5)
    loss[200:206, 100:700] = 0.4
    assert find_bands(loss, NOTHING, 1) is None


def test_a_bar_is_a_band_that_does_not_repeat() -> None:
    loss = noise()
    loss[:, 500:560] += 0.4
    found = find_bands(loss, NOTHING, 1)
    assert found is not None
    assert found.columns is not None
    assert not found.repeats()


@pytest.mark.long
@pytest.mark.parametrize(("period_px", "angle_rad"), [(8.0, 0.4), (31.0, 1.1), (52.0, 2.2)])
def test_waves_are_taken_out_up_to_the_border(period_px: float, angle_rad: float) -> None:
    clean = noise()
    found = find_waves(clean - waves(period_px, angle_rad, 0.03), 1)
    assert found is not None
    assert found.waves is not None
    assert amplitude(found.waves) == pytest.approx(0.03, rel=0.1)
    rest = np.abs(found.waves - waves(period_px, angle_rad, 0.03))
    assert float(rest[40:-40, 40:-40].mean()) < 0.0006
    assert float(rest[:10].mean()) < 0.003


@pytest.mark.long
def test_waves_leave_dust_as_it_is() -> None:
    dusty = disc(disc(noise(), 300, 300, 12, 0.2), 620, 800, 5, 0.1)
    found = find_waves(dusty - waves(24.0, 0.7, 0.03), 1)
    assert found is not None
    assert found.waves is not None
    error = found.waves - waves(24.0, 0.7, 0.03)
    assert float(np.abs(error[285:315, 285:315]).max()) < 0.006


def test_texture_noise_and_dust_hold_no_waves() -> None:
    grain = smoothed(noise(1.0, 3), 4.0)
    assert find_waves(noise(), 1) is None
    assert find_waves((0.02 * grain / grain.std()).astype(np.float32), 1) is None
    assert find_waves(disc(noise(), 400, 600, 40, 0.6), 1) is None


def test_small_pictures_hold_no_waves_to_tell() -> None:
    assert find_waves(np.zeros((300, 300), np.float32), 1) is None


def test_a_pattern_of_binned_pixels_is_taken_out_of_every_pixel() -> None:
    y = np.arange(901)
    full = 1 + 0.05 * np.sin(2 * np.pi * y / 60)
    light = np.repeat(full[:, None], 1203, axis=1).astype(np.float32)
    small = light[:900, :1202].reshape(450, 2, 601, 2).mean(axis=(1, 3))
    followed = np.zeros(450, np.float32), np.zeros(601, np.float32)
    found = find_bands((1 - small).astype(np.float32), followed, 2)
    assert found is not None
    assert float(np.std(found.taken_out(light))) < 0.002
