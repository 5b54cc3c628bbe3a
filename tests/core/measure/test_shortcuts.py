"""What is left out for time is what would change nothing."""

from __future__ import annotations

import cv2
import numpy as np
import pytest

from neatpatch.core.common.filters import medians, smoothed
from neatpatch.core.maps import prediction
from neatpatch.core.measure import region_splitting as splitting
from neatpatch.core.measure.regions import _Window, highest_in_block
from neatpatch.core.measure.shapes import bend_of, depths, extent_of
from tests.core.made_maps import spot, spot_map

LEVELS = np.linspace(0.0, 1.0, 10)


@pytest.mark.parametrize("count", [1, 4, 5, 24, 37])
@pytest.mark.parametrize("axis", [0, 1, 2])
def test_medians_are_numpys(count: int, axis: int) -> None:
    shape = [3, 5, 4]
    shape[axis] = count
    values = np.random.default_rng(count).normal(size=shape).astype(np.float32)
    assert np.allclose(medians(values, axis), np.median(values, axis=axis), atol=1e-7)


@pytest.mark.parametrize("seed", range(12))
def test_the_ends_of_rows_tell_the_extent_of_all_pixels(seed: int) -> None:
    rng = np.random.default_rng(seed)
    mask = smoothed(rng.normal(size=(40, 50)).astype(np.float32), 4.0) > 0.02
    ys, xs = np.nonzero(mask)
    whole = cv2.minEnclosingCircle(np.column_stack([xs, ys]).astype(np.float32))[1]
    assert extent_of(xs, ys) == pytest.approx(2 * whole, abs=1e-3)
    assert extent_of(xs[:1], ys[:1]) == 0.0


@pytest.mark.parametrize("seed", range(40))
def test_what_has_one_top_is_cut_at_no_level(seed: int) -> None:
    rng = np.random.default_rng(seed)
    rows, columns = np.mgrid[:40, :60]
    smooth = smoothed(rng.normal(0, 0.02, (40, 60)).astype(np.float32), 1.0)
    for _ in range(int(rng.integers(1, 4))):
        y, x, wide = rng.uniform(8, 32), rng.uniform(8, 52), rng.uniform(3, 8)
        smooth += np.exp(-(((rows - y) ** 2 + (columns - x) ** 2) / wide**2)).astype(np.float32)
    mask = smooth > 0.1
    low, sigma = 0.02 * float(smooth.max()), 0.01
    levels = low * (0.85 * float(smooth.max()) / low) ** LEVELS
    cuts = [len(splitting._prominent_parts(smooth, mask, float(v), sigma)) > 1 for v in levels]
    tops = splitting._tops(smooth, mask, low)
    worth = [np.count_nonzero(splitting._prominent(tops, float(v), sigma)) > 1 for v in levels]
    assert worth == sorted(worth, reverse=True)
    assert all(told or not cut for told, cut in zip(worth, cuts, strict=True))


def test_what_is_noticed_could_be_told_to_be_possible() -> None:
    rng = np.random.default_rng(3)
    noticed = 0
    for _ in range(60):
        size = float(rng.uniform(0.5, 20))
        made = spot("s", 900, 700, particle_px=size, depth=min(0.99, (size / 12) ** 2 + 0.01))
        known = spot_map(made)
        for n in (2.8, 5.6, 11.0, 22.0, 32.0):
            scene = prediction._Scene(known.frames[0], known.optics, n)
            here = prediction._Scene(known.frames[0], known.optics, 22.0).here(made)
            if scene.noticed(*scene.shadow(made, here)):
                noticed += 1
                assert scene.may_be_noticed(made, here)
    assert noticed > 60


@pytest.mark.parametrize("shape", [(21, 35), (16, 40), (5, 3), (83, 61)])
def test_the_highest_of_each_block_is_told_to_the_last_row_and_column(
    shape: tuple[int, int],
) -> None:
    signal = np.random.default_rng(4).normal(size=shape).astype(np.float32) - 5
    blocks = highest_in_block(signal)
    assert blocks.shape == (-(-shape[0] // 8), -(-shape[1] // 8))
    for (row, column), highest in np.ndenumerate(blocks):
        assert highest == signal[8 * row : 8 * row + 8, 8 * column : 8 * column + 8].max()


def test_means_under_labels() -> None:
    window = np.array([[0, 2, 2], [5, 5, 0]], np.int16)
    loss = np.array([[9, 1, 3], [4, 8, 9]], np.float32)
    here = _Window(window, loss)
    assert here.means(np.array([2, 5])).tolist() == [2.0, 6.0]
    assert here.any_of([5]).tolist() == [[False] * 3, [True, True, False]]
    assert here.any_of([2, 5]).tolist() == [[False, True, True], [True, True, False]]
    assert not here.any_of([]).any()


def test_depths_count_from_the_border() -> None:
    mask = np.ones((5, 7), bool)
    assert depths(mask)[2, 3] == pytest.approx(3, abs=0.2)
    assert depths(np.zeros((3, 3), bool)).max() == 0


@pytest.mark.parametrize("weighted", [False, True])
def test_a_bend_is_numpys_polynomial(weighted: bool) -> None:
    rng = np.random.default_rng(7)
    along = rng.uniform(-1, 1, 300)
    across = 40 * along**3 - 12 * along**2 + along + 5 + rng.normal(size=300)
    weight = rng.uniform(0.2, 3, 300) if weighted else None
    wanted = np.polyfit(along, across, 3, w=None if weight is None else np.sqrt(weight))
    assert np.allclose(bend_of(along, across, weight), wanted, atol=1e-6)
