"""Measures of single drawn shadows against their worked values."""

from __future__ import annotations

import math

import cv2
import numpy as np
import pytest

from neatpatch.core.common import optics
from neatpatch.core.common.frame import Image
from neatpatch.core.measure.background import estimate_background
from neatpatch.core.measure.kinds import is_long, kind_of, site_of
from neatpatch.core.measure.particle_size import outer_px, particle_px
from neatpatch.core.measure.region_measures import Binned, RegionMeasures, cut_patch, measure_region
from neatpatch.core.measure.region_splitting import split_region
from neatpatch.core.measure.shapes import filled
from neatpatch.core.measure.spread import spread_ratio, too_spread
from neatpatch.core.measure.stack_height import (
    BlurFit,
    fit_blur,
    possible_blur_px,
    sharp_specks,
    soft_px,
)

SHAPE = (400, 400)
BLUR = BlurFit(16.0, 0.8, 0.0, "given")


def grid() -> tuple[np.ndarray, np.ndarray]:
    y, x = np.mgrid[: SHAPE[0], : SHAPE[1]]
    return y.astype(float), x.astype(float)


def speck(size: float, x: float = 200.3, y: float = 199.6, blur: float = 16.0) -> Image:
    yy, xx = grid()
    radius = np.hypot(yy - y, xx - x)
    area = math.pi / 4 * size**2
    profile = optics.unit_profile(radius.ravel(), size, blur, 0.8).reshape(SHAPE)
    return np.asarray(area * profile, np.float32)


def ring(diameter: float = 60.0) -> Image:
    yy, xx = grid()
    radius = np.hypot(yy - 200, xx - 200)
    return np.asarray(0.2 * np.exp(-(((radius - diameter / 2) / 4) ** 2)), np.float32)


def bar(length: float, width: float, depth: float) -> Image:
    yy, xx = grid()
    along = np.clip(length / 2 - np.abs(xx - 200) + 0.5, 0, 1)
    across = np.clip(width / 2 - np.abs(yy - 200) + 0.5, 0, 1)
    return np.asarray(depth * along * across, np.float32)


def measured(loss: Image, noise: float = 0.001, seed: int = 1) -> RegionMeasures:
    rng = np.random.default_rng(seed)
    light = (0.4 * (1 - loss) * (1 + noise * rng.standard_normal(SHAPE))).astype(np.float32)
    background = estimate_background(np.full(SHAPE, 0.4, np.float32))
    mask = filled(loss > max(3 * noise, 0.01 * float(loss.max())))
    patch = cut_patch(light, background, mask, Binned(mask, 1))
    found = measure_region(patch, noise, SHAPE)
    assert found is not None
    return found


@pytest.mark.parametrize("size", [4.0, 10.0, 25.0])
def test_speck_place_loss_and_size(size: float) -> None:
    found = measured(speck(size))
    assert found.x_px == pytest.approx(200.3, abs=0.1)
    assert found.y_px == pytest.approx(199.6, abs=0.1)
    assert particle_px(found, "speck", BLUR) == pytest.approx(size, rel=0.05)
    assert kind_of(found, BLUR) == "speck"
    assert site_of(found, "speck", BLUR) == "sensor"
    assert outer_px(found, "speck", BLUR) == pytest.approx(16 + 1.1 * size, rel=0.06)


def test_depth_of_a_small_speck_is_its_area_over_the_blur_disc() -> None:
    assert measured(speck(6.0)).depth == pytest.approx((6 / 16) ** 2, rel=0.06)
    assert measured(speck(6.0)).core_px == pytest.approx(16, rel=0.06)


def test_snr_is_the_root_of_the_squared_loss_over_the_noise() -> None:
    loss = speck(8.0)
    expected = float(np.sqrt((loss.astype(float) ** 2).sum())) / 0.002
    assert measured(loss, 0.002).snr == pytest.approx(expected, rel=0.05)


def test_a_faint_speck_keeps_its_place() -> None:
    errors = []
    for seed in range(8):
        found = measured(speck(4.0), noise=0.02, seed=seed)
        errors.append(math.hypot(found.x_px - 200.3, found.y_px - 199.6))
    assert np.median(errors) < 1.0


def test_ring_is_a_droplet() -> None:
    found = measured(ring())
    assert found.hollow < 0.3
    assert spread_ratio(found, BLUR.blur_px, 0.8) > 2
    assert kind_of(found, BLUR) == "droplet"


@pytest.mark.parametrize("diameter", [30.0, 45.0])
def test_a_droplet_smaller_than_the_blur_is_one_thing_and_told_by_its_spread(
    diameter: float,
) -> None:
    wide = BlurFit(50.0, 0.8, 0.0, "given")
    disc = (np.hypot(*np.mgrid[-25:26, -25:26]) <= 25).astype(np.float32)
    loss = np.asarray(cv2.filter2D(ring(diameter), -1, disc / disc.sum()), np.float32)
    mask = loss > 0.004
    assert len(split_region(loss, mask, 0.0005)) == 1
    found = measured(loss)
    assert found.hollow > 0.8
    assert too_spread(found, 50.0, 0.8)
    assert kind_of(found, wide) == "droplet"
    same_loss = measured(speck(particle_px(found, "speck", wide), blur=50.0))
    assert not too_spread(same_loss, 50.0, 0.8)
    assert kind_of(same_loss, wide) == "speck"


def test_thin_dark_line_is_a_fibre_and_a_wide_pale_one_is_residue() -> None:
    thread = measured(bar(150, 14, 0.25))
    smear = measured(bar(200, 50, 0.04))
    assert is_long(thread, BLUR)
    assert is_long(smear, BLUR)
    assert kind_of(thread, BLUR) == "fibre"
    assert kind_of(smear, BLUR) == "residue"
    assert thread.length_px == pytest.approx(150, rel=0.05)
    assert smear.length_px == pytest.approx(200, rel=0.05)
    assert smear.fwhm_px == pytest.approx(50, rel=0.08)


def test_wide_soft_blob_is_on_the_lens() -> None:
    found = measured(speck(60.0, blur=150.0))
    assert kind_of(found, BLUR) == "soft"
    assert site_of(found, "soft", BLUR) == "lens"


def test_a_mask_of_noise_measures_nothing() -> None:
    background = estimate_background(np.full(SHAPE, 0.4, np.float32))
    light = np.full(SHAPE, 0.5, np.float32)
    mask = np.zeros(SHAPE, bool)
    mask[10:14, 10:14] = True
    assert measure_region(cut_patch(light, background, mask, Binned(mask, 1)), 0.01, SHAPE) is None


def test_shadow_at_the_border_is_told() -> None:
    assert measured(speck(8.0, x=2.0)).at_border
    assert not measured(speck(8.0)).at_border


def test_blur_is_fitted_from_specks_of_many_sizes() -> None:
    things = [measured(speck(size), seed=int(size)) for size in (3, 4, 5, 6, 8, 10, 12)]
    found = fit_blur(things, None, 30.0, 0.0, (2.0, 100.0))
    assert found.source == "fitted"
    assert found.blur_px == pytest.approx(16.0, rel=0.03)
    assert found.softness_px == pytest.approx(0.8, abs=0.4)


def test_given_blur_wins_and_too_few_specks_fall_back() -> None:
    things = [measured(speck(5.0))]
    assert fit_blur(things, 12.0, 30.0, 0.0, (2.0, 100.0)).blur_px == 12.0
    assumed = fit_blur([], None, 30.0, 0.0, (2.0, 100.0))
    assert (assumed.blur_px, assumed.source) == (30.0, "assumed")
    unknown = fit_blur([], None, None, 0.0, (4.0, 100.0))
    assert unknown.blur_px == pytest.approx(20.0)


def test_rings_and_lines_say_nothing_about_the_blur() -> None:
    assert sharp_specks([measured(ring()), measured(bar(150, 14, 0.25))]) == []


def test_possible_blur_follows_the_aperture() -> None:
    low, high = possible_blur_px(22.0, 4.0)
    assert low == pytest.approx(200 / 22.627 * (80 / 79.8) / 4, rel=0.01)
    assert high == pytest.approx(8000 / 22.627 * (80 / 72) / 4, rel=0.01)
    assert possible_blur_px(None, 4.0) == possible_blur_px(22.0, None)


def test_soft_blur_adds_the_airy_core() -> None:
    assert soft_px(BlurFit(16.0, 0.6, 0.0, "given")) == pytest.approx(0.6)
    assert soft_px(BlurFit(16.0, 0.0, 3.0, "given")) == pytest.approx(1.26)
