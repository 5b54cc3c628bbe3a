"""Every fast path equals its slow, obvious reference."""

from __future__ import annotations

from functools import partial
from itertools import combinations

import cv2
import numpy as np
import pytest
from hypothesis import given
from hypothesis import strategies as st
from numpy.typing import NDArray
from scipy.ndimage import median_filter

from neatpatch.core.common import filters, optics
from neatpatch.core.common.diffraction import disc_spectrum
from neatpatch.core.common.filters import (
    binned,
    binned_light,
    finite,
    over_enlarged,
    quantile,
    smoothed,
)
from neatpatch.core.common.frame import CodedLight, Frame, FrameFacts
from neatpatch.core.compare import alignment
from neatpatch.core.measure.background import estimate_background
from neatpatch.core.measure.region_splitting import split_region
from neatpatch.core.measure.regions import grow_regions
from neatpatch.images.transfer import srgb_curve

Floats = NDArray[np.float32]


def noise(shape: tuple[int, int], seed: int = 1) -> Floats:
    return np.random.default_rng(seed).standard_normal(shape).astype(np.float32)


def put(whole: Floats, rows: slice, strip: Floats) -> None:
    whole[rows] = strip


@pytest.mark.parametrize("sigma", [0.6, 1.3, 4.0])
def test_smoothing_in_halves_equals_smoothing_the_whole(sigma: float) -> None:
    image = noise((701, 900), 5)
    assert image.size > filters._WORTH_SHARING
    whole = cv2.GaussianBlur(image, (0, 0), sigma, borderType=cv2.BORDER_REFLECT)
    assert np.array_equal(smoothed(image, sigma), whole)


@pytest.mark.parametrize("shape", [(64, 96), (67, 101), (200, 33)])
@pytest.mark.parametrize("step", [1, 2, 8])
def test_binning_strip_by_strip_equals_binning_the_whole(shape: tuple[int, int], step: int) -> None:
    image = noise(shape)
    assert np.allclose(binned_light(image, step), binned(image, step), atol=1e-6)


@pytest.mark.parametrize("shape", [(40, 64), (41, 67), (3, 5)])
def test_enlarging_strip_by_strip_equals_enlarging_the_whole(shape: tuple[int, int]) -> None:
    zoom = 4
    coarse = noise((-(-shape[0] // zoom), -(-shape[1] // zoom)), 3)
    whole = cv2.resize(
        coarse, (coarse.shape[1] * zoom, coarse.shape[0] * zoom), interpolation=cv2.INTER_LINEAR
    )
    found = np.full(shape, np.nan, np.float32)
    over_enlarged(coarse, zoom, shape, partial(put, found))
    assert np.allclose(found, whole[: shape[0], : shape[1]], atol=1e-5)


def test_light_kept_as_codes_is_the_light_itself() -> None:
    codes = np.random.default_rng(2).integers(0, 256, (120, 90)).astype(np.uint8)
    curve = srgb_curve(256)
    light = CodedLight(codes, curve)
    plain = curve[codes]
    assert light.shape == plain.shape
    assert light.size == plain.size
    assert np.array_equal(light[:], plain)
    assert np.array_equal(light[10:31, 7:50], plain[10:31, 7:50])
    assert np.array_equal(light[::3, ::5], plain[::3, ::5])
    assert light[5:5].size == 0
    assert finite(light) is light
    frame = Frame(light=light, facts=FrameFacts(width_px=90, height_px=120))
    assert frame.shape == (120, 90)
    assert np.array_equal(frame.luminance, plain)


@given(st.lists(st.floats(-1e6, 1e6, width=32), min_size=1, max_size=60), st.floats(0, 1))
def test_quantiles_are_values_of_the_sample_in_order(values: list[float], share: float) -> None:
    array = np.array(values, np.float32)
    found = quantile(array, share)
    ordered = np.sort(array)
    assert found == ordered[round(share * (array.size - 1))]


def test_quantile_of_nothing_is_zero() -> None:
    assert quantile(np.zeros(0, np.float32), 0.5) == 0.0


def test_background_in_patches_and_strips_equals_the_window() -> None:
    shape = (700, 930)
    y, x = np.mgrid[: shape[0], : shape[1]]
    light = (0.4 - 2e-7 * ((x - 400) ** 2 + (y - 300) ** 2)).astype(np.float32)
    background = estimate_background(light)
    for step in (1, 2, 4):
        top, left = 64 * step, 24 * step
        rows, columns = 40, 50
        window = background.window(top, left, rows, columns, step)
        assert np.allclose(background.patch(top, left, rows, columns, step), window, rtol=1e-5)
    for step in (1, 2):
        height, width = shape[0] // step, shape[1] // step
        whole = background.window(0, 0, height, width, step)
        found = np.full((height, width), np.nan, np.float32)
        background.over_strips(height, width, step, partial(put, found))
        inside = np.s_[4:-4, 4:-4]
        assert np.allclose(found[inside], whole[inside], rtol=2e-4)


def test_background_from_binned_light_equals_that_of_the_whole() -> None:
    light = (0.4 + 0.01 * noise((640, 960), 8)).astype(np.float32)
    whole = estimate_background(light)
    half = estimate_background(binned_light(light, 2), 2, (640, 960))
    assert np.allclose(half.grid, whole.grid, rtol=1e-4)


def components_by_hand(seeds: NDArray[np.bool_], spread: NDArray[np.bool_]) -> set[frozenset[int]]:
    """Pixels of each component that holds a seed, found without any blocks."""
    _, labels = cv2.connectedComponents(spread.astype(np.uint8), connectivity=8)
    wanted = set(np.unique(labels[seeds & spread])) - {0}
    return {frozenset(np.flatnonzero(labels == label).tolist()) for label in wanted}


@pytest.mark.parametrize("density", [0.02, 0.15, 0.45])
@pytest.mark.parametrize("shape", [(120, 160), (83, 61)])
def test_components_sought_in_blocks_are_all_components_with_a_seed(
    density: float, shape: tuple[int, int]
) -> None:
    rng = np.random.default_rng(int(100 * density))
    signal = np.where(rng.random(shape) < density, 4.0, 0.0).astype(np.float32)
    signal[rng.random(shape) < 0.01] = 9.0
    found = set()
    for one in grow_regions(signal, 6.0, 3.0)[0]:
        whole = np.zeros(shape, bool)
        rows, columns = one.mask.shape
        whole[one.top : one.top + rows, one.left : one.left + columns] = one.mask
        found.add(frozenset(np.flatnonzero(whole).tolist()))
    seeds = signal > 6.0
    assert found == components_by_hand(seeds, signal > 3.0)


def most_agreed_by_hand(a: NDArray[np.float64], b: NDArray[np.float64]) -> int:
    best = 0
    for i, j in combinations(range(len(a)), 2):
        base = a[j] - a[i]
        length = float(base @ base)
        if length < 100.0**2:
            continue
        scale = float((b[j] - b[i]) @ base) / length
        if abs(scale - 1) > 0.02:
            continue
        shift = (b[i] + b[j]) / 2 - scale * (a[i] + a[j]) / 2
        best = max(best, int((np.hypot(*(scale * a + shift - b).T) < 2.5).sum()))
    return best


@pytest.mark.parametrize("seed", range(5))
def test_the_model_most_pairs_agree_with_is_found_in_bulk(seed: int) -> None:
    rng = np.random.default_rng(seed)
    a = rng.uniform(-1500, 1500, (24, 2))
    b = 0.997 * a + [1.0, -2.0] + rng.normal(0, 0.4, a.shape)
    b[14:] += rng.uniform(-30, 30, (10, 2))
    found = alignment._most_agreed(a, b)
    assert found is not None
    assert found.sum() == most_agreed_by_hand(a, b)


def test_no_model_without_pairs_far_enough_apart() -> None:
    close = np.array([[0.0, 0.0], [3.0, 4.0]])
    assert alignment._most_agreed(close, close) is None


@pytest.mark.parametrize("particle", [2.0, 9.0, 25.0])
def test_the_peak_and_many_profiles_equal_the_single_profile(particle: float) -> None:
    blur, softness, wave = 14.0, 1.1, 2.0
    every = optics.unit_profile(np.linspace(0, blur, 4000), particle, blur, softness, wave)
    peak = optics.unit_peak(particle, blur, softness, wave)
    assert peak == pytest.approx(float(every.max()), rel=1e-3)
    radii, profiles = optics.unit_profiles(np.array([particle, 12.0]), blur, softness, wave)
    inside = radii < 0.6 * (particle + blur)
    single = optics.unit_profile(radii[inside], particle, blur, softness, wave)
    assert np.allclose(profiles[0][inside], single, atol=0.02 * single.max())


def test_jinc_by_table_is_within_a_millionth() -> None:
    from scipy.special import j1

    x = np.linspace(0.01, 47, 5000)
    assert np.max(np.abs(disc_spectrum(1.0, x / np.pi) - 2 * j1(x) / x)) < 2e-6


def test_wide_regions_split_on_pairs_keep_their_pixels() -> None:
    y, x = np.mgrid[:160, :200]
    discs = [np.hypot(x - cx, y - 80) < 38 for cx in (58, 142)]
    image = cv2.GaussianBlur(0.4 * (discs[0] | discs[1]).astype(np.float32), (0, 0), 5)
    mask = image > 0.004
    assert mask.sum() > 3000
    parts = split_region(image, mask, 0.001)
    assert len(parts) == 2
    together = parts[0] | parts[1]
    assert not (parts[0] & parts[1]).any()
    assert np.count_nonzero(together ^ mask) < 0.02 * mask.sum()


@pytest.mark.parametrize("shape", [(5, 7), (63, 94), (1, 1)])
def test_the_running_median_is_the_general_filter(shape: tuple[int, int]) -> None:
    image = np.random.default_rng(3).normal(size=shape)
    wanted = median_filter(image, size=11, mode="nearest")
    assert np.array_equal(filters.running_median(image, 11), wanted)
