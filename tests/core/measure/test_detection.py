from __future__ import annotations

import numpy as np
import pytest

from neatpatch.core.common.frame import Image
from neatpatch.core.measure.crossed_bars import crossed_bars
from neatpatch.core.measure.detection import detect, faintest_seen, robust_sigma, threshold
from neatpatch.core.measure.region_splitting import is_ring, split_region

SHAPE = (600, 900)
EVEN = np.ones((10, 14), np.float32)


def noise(sigma: float = 0.01, seed: int = 3) -> Image:
    return np.random.default_rng(seed).normal(0, sigma, SHAPE).astype(np.float32)


def disc(image: Image, y: float, x: float, diameter: float, depth: float) -> None:
    yy, xx = np.ogrid[: image.shape[0], : image.shape[1]]
    image += depth * np.clip(diameter / 2 - np.hypot(yy - y, xx - x) + 0.5, 0, 1)


def test_pure_noise_gives_nothing() -> None:
    for seed in range(6):
        assert detect(noise(seed=seed), EVEN, 1).regions == ()


def test_constant_map_gives_nothing() -> None:
    assert detect(np.zeros(SHAPE, np.float32), EVEN, 1).regions == ()


def test_nan_counts_as_no_loss() -> None:
    loss = noise()
    loss[50:60, 50:60] = np.nan
    assert detect(loss, EVEN, 1).regions == ()


@pytest.mark.parametrize(("diameter", "depth"), [(8, 0.03), (20, 0.012), (60, 0.008), (9, 0.9)])
def test_finds_one_disc_at_any_scale(diameter: float, depth: float) -> None:
    loss = noise()
    disc(loss, 300, 450, diameter, depth)
    found = detect(loss, EVEN, 1)
    assert len(found.regions) == 1
    region = found.regions[0]
    ys, xs = np.nonzero(region.mask)
    assert abs(ys.mean() + region.top - 300) < diameter / 2 + 2
    assert abs(xs.mean() + region.left - 450) < diameter / 2 + 2


def test_a_frame_flattened_by_compression_is_not_full_of_dust() -> None:
    """Most blocks have lost their noise; the rest keep steps of a whole tone."""
    rng = np.random.default_rng(11)
    blocks = rng.choice([0.0, 0.01, -0.01], p=[0.7, 0.15, 0.15], size=(75, 113))
    loss = np.repeat(np.repeat(blocks, 8, 0), 8, 1)[: SHAPE[0], : SHAPE[1]].astype(np.float32)
    disc(loss, 300, 450, 30, 0.06)
    (found,) = detect(loss, EVEN, 1).regions
    ys, xs = np.nonzero(found.mask)
    assert np.hypot(ys.mean() + found.top - 300, xs.mean() + found.left - 450) < 4


def test_bright_pixels_are_not_loss() -> None:
    loss = noise()
    loss[200, 300] = -0.9
    assert detect(loss, EVEN, 1).regions == ()


def test_white_noise_is_told_per_pixel() -> None:
    assert detect(noise(0.02), EVEN, 1).white_noise == pytest.approx(0.02, rel=0.06)


def test_threshold_grows_slowly_with_the_frame() -> None:
    assert 4 < threshold(100_000) < threshold(100_000_000) < 7


def test_robust_sigma_of_nothing_and_of_a_constant() -> None:
    assert robust_sigma(np.array([])) == 0.0
    assert robust_sigma(np.ones(50)) == 0.0


def test_touching_discs_are_two_and_one_is_one() -> None:
    image = np.zeros((60, 80), np.float32)
    disc(image, 30, 26, 20, 0.8)
    alone = split_region(image, image > 0.01, 0.001)
    disc(image, 30, 48, 20, 0.7)
    both = split_region(np.clip(image, 0, 1), image > 0.01, 0.001)
    assert (len(alone), len(both)) == (1, 2)


def test_a_ring_stays_whole() -> None:
    yy, xx = np.ogrid[:60, :60]
    radius = np.hypot(yy - 30, xx - 30)
    ring = np.exp(-(((radius - 15) / 3) ** 2)).astype(np.float32) * 0.2
    mask = ring > 0.01
    assert is_ring(ring, mask)
    assert len(split_region(ring, mask, 0.001)) == 1


def test_crossing_bars_are_two_and_a_bent_one_is_one() -> None:
    cross = np.zeros((200, 200), bool)
    cross[95:105, 10:190] = True
    cross[10:190, 60:70] = True
    image = np.where(cross, 0.04, 0).astype(np.float32)
    assert len(crossed_bars(cross, image)) == 2
    bent = np.zeros((200, 200), bool)
    for x in range(10, 190):
        y = int(60 + 0.004 * (x - 100) ** 2)
        bent[y - 4 : y + 5, x] = True
    assert len(crossed_bars(bent, bent.astype(np.float32))) == 1


def test_a_speck_on_a_smear_is_taken_off_it() -> None:
    image = np.zeros((120, 260), np.float32)
    image[50:70, 10:250] = 0.04
    disc(image, 60, 130, 12, 0.7)
    pieces = split_region(image, image > 0.01, 0.001)
    assert len(pieces) >= 2
    assert any(p.sum() < 600 and p[60, 130] for p in pieces)


def test_split_of_nothing_is_nothing() -> None:
    assert split_region(np.zeros((9, 9), np.float32), np.zeros((9, 9), bool), 0.1) == []


@pytest.mark.parametrize("width", [8, 20])
def test_the_faintest_speck_told_is_where_finding_ends(width: int) -> None:
    """What is a third deeper is found, what is a third fainter is not."""
    faintest = faintest_seen(detect(noise(), EVEN, 1), width)
    for times, wanted in ((1.35, 1), (0.65, 0)):
        found = 0
        for seed in range(5):
            loss = noise(seed=seed + 20)
            disc(loss, 300, 450, width, times * faintest)
            found += len(detect(loss, EVEN, 1).regions)
        assert abs(found - 5 * wanted) <= 1
