from __future__ import annotations

import numpy as np
import pytest

from neatpatch.core.common.filters import binned
from neatpatch.core.common.frame import Image
from neatpatch.core.measure.background import estimate_background, refined

SHAPE = (900, 1300)


def vignetted() -> Image:
    y, x = np.meshgrid(np.linspace(-1, 1, SHAPE[0]), np.linspace(-1, 1, SHAPE[1]), indexing="ij")
    return ((0.4 - 0.06 * (x * x + y * y)) * (1 + 0.05 * x)).astype(np.float32)


def ratio(light: Image, truth: Image) -> Image:
    return estimate_background(light).window(0, 0, *SHAPE) / truth


def test_a_target_of_black_and_white_patches_is_followed_without_a_fault() -> None:
    rng = np.random.default_rng(3)
    patches = (rng.random((14, 20)) > 0.5).astype(np.float32)
    light = np.kron(patches, np.ones((100, 100), np.float32))
    first = estimate_background(light, 2, (1400, 2000))
    again = refined(first, binned(light, 2), 2, (1400, 2000), np.zeros((700, 1000), bool))
    assert np.isfinite(again.grid).all()
    assert np.isfinite(again.window(0, 0, 1400, 2000)).all()


def test_constant_frame_gives_that_constant() -> None:
    flat = np.full(SHAPE, 0.3, np.float32)
    assert np.max(np.abs(ratio(flat, flat) - 1)) < 1e-4


def test_black_frame_stays_above_zero() -> None:
    background = estimate_background(np.zeros(SHAPE, np.float32))
    assert background.window(0, 0, 10, 10).min() > 0


def test_follows_vignetting_and_tilt_to_a_thousandth_inside_and_a_little_less_at_the_edge() -> None:
    truth = vignetted()
    error = np.abs(ratio(truth, truth) - 1)
    assert np.max(error[64:-64, 64:-64]) < 1e-3
    assert np.max(error) < 2.5e-3


@pytest.mark.parametrize("depth", [0.04, 0.5])
def test_large_residue_does_not_pull_it_down(depth: float) -> None:
    truth = vignetted()
    dirty = truth.copy()
    dirty[400:460, 200:900] *= 1 - depth
    assert np.max(np.abs(ratio(dirty, truth) - 1)) < 0.004


def test_binned_window_agrees_with_the_mean_of_full_pixels() -> None:
    background = estimate_background(vignetted())
    fine = background.window(100, 200, 8, 12)
    coarse = background.window(100, 200, 4, 6, step=2)
    assert np.allclose(coarse, fine.reshape(4, 2, 6, 2).mean(axis=(1, 3)), rtol=1e-5)


def test_unevenness_tells_a_half_lit_target() -> None:
    light = np.full(SHAPE, 0.4, np.float32)
    light *= np.linspace(0.1, 1.0, SHAPE[1], dtype=np.float32)
    assert estimate_background(light).unevenness > 5
