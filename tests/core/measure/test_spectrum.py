"""Noise and texture of made loss maps."""

from __future__ import annotations

import numpy as np
import pytest
from numpy.typing import NDArray

from neatpatch.core.common.filters import smoothed
from neatpatch.core.measure.spectrum import NO_GRAIN, grain_of

Image = NDArray[np.float32]


def noise(sigma: float, seed: int = 1) -> Image:
    shape = (700, 1000)
    return (sigma * np.random.default_rng(seed).standard_normal(shape)).astype(np.float32)


def texture(share: float, size_px: float) -> Image:
    grain = smoothed(noise(1.0, 5), size_px)
    return np.asarray(share * grain / grain.std(), np.float32)


def test_white_noise_is_told_and_is_no_texture() -> None:
    grain = grain_of(noise(0.01), 1, developed=False)
    assert grain.noise == pytest.approx(0.01, rel=0.08)
    assert grain.texture < 0.004
    assert grain.quietest < 0.002


def test_noise_is_told_beside_texture() -> None:
    grain = grain_of(noise(0.01) + texture(0.03, 2.0), 1, developed=False)
    assert grain.noise == pytest.approx(0.01, rel=0.15)
    assert grain.texture == pytest.approx(0.03, rel=0.15)
    assert grain.quietest > 0.5 * grain.texture


def test_coarse_texture_is_not_fine() -> None:
    coarse = grain_of(noise(0.005) + texture(0.03, 9.0), 1, developed=False)
    fine = grain_of(noise(0.005) + texture(0.03, 2.0), 1, developed=False)
    assert coarse.fine < 0.3 * coarse.texture
    assert fine.fine > 0.7 * fine.texture


def test_texture_in_a_part_of_the_frame_leaves_a_quiet_quarter() -> None:
    loss = noise(0.005)
    loss[:, :450] += texture(0.05, 3.0)[:, :450]
    assert grain_of(loss, 1, developed=False).quietest < 0.002


def test_noise_is_given_per_pixel_of_the_frame() -> None:
    assert grain_of(noise(0.01), 2, developed=False).noise == pytest.approx(0.02, rel=0.08)


def test_pictures_too_small_tell_nothing() -> None:
    assert grain_of(np.zeros((100, 400), np.float32), 1, developed=True) == NO_GRAIN
