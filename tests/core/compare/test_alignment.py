"""Small parts of the core, each against worked values."""

from __future__ import annotations

import numpy as np
import pytest

from neatpatch.core.common.zones import zone_of
from neatpatch.core.compare.alignment import Alignment, Marks, align, align_unshifted
from neatpatch.core.maps.prediction import nominal_stop
from neatpatch.core.sensor.lens_correction import Correction
from neatpatch.core.sensor.placement import as_they_are

SHAPE = (2000, 3000)


def cloud(n: int, seed: int = 0) -> tuple[np.ndarray, np.ndarray]:
    rng = np.random.default_rng(seed)
    return rng.uniform([50, 50], [2950, 1950], (n, 2)), rng.uniform(5, 500, n)


def laid(
    here: np.ndarray, loss: np.ndarray, there: np.ndarray, there_loss: np.ndarray
) -> Alignment:
    marks = Marks(places=here, losses=loss), Marks(places=there, losses=there_loss)
    return align_unshifted(*marks, SHAPE)


@pytest.mark.parametrize("kept", [1.0, 0.5])
def test_alignment_survives_half_the_spots_changing(kept: float) -> None:
    here, loss = cloud(30)
    there = (here - [1499.5, 999.5]) * 0.9968 + [1499.5, 999.5] + [1.3, -0.7]
    n = int(30 * kept)
    strangers, strange_loss = cloud(15, 5)
    there = np.vstack([there[:n], strangers])
    found = laid(here, loss, there, np.concatenate([loss[:n], strange_loss]))
    assert found.scale == pytest.approx(0.9968, abs=2e-4)
    assert found.shift_px == pytest.approx((1.3, -0.7), abs=0.3)
    assert found.residual_px < 0.5
    assert found.radial == 0.0
    moved = found.apply(here[:n])
    assert np.max(np.hypot(*(moved - there[:n]).T)) < 1.0


def test_alignment_of_nothing_is_the_identity() -> None:
    none = np.zeros((0, 2))
    found = laid(none, np.zeros(0), none, np.zeros(0))
    assert (found.scale, found.shift_px, found.matched) == (1.0, (0.0, 0.0), 0)


@pytest.mark.parametrize("radial", [-0.03, 0.012, 0.03])
def test_a_lens_correction_is_found_as_a_radial_term(radial: float) -> None:
    here, loss = cloud(40)
    off = here - [1499.5, 999.5]
    far = (off**2).sum(axis=1, keepdims=True) / (np.hypot(2000, 3000) / 2) ** 2
    there = off * 1.008 * (1 + radial * far) + [1499.5, 999.5] + [0.6, -0.4]
    strangers, strange_loss = cloud(20, 5)
    found = laid(
        here, loss, np.vstack([there[:25], strangers]), np.concatenate([loss[:25], strange_loss])
    )
    assert found.radial == pytest.approx(radial, abs=0.0015)
    assert np.max(np.hypot(*(found.apply(here[:25]) - there[:25]).T)) < 1.5


def test_a_known_correction_keeps_its_second_term() -> None:
    here, loss = cloud(30)
    lens = Correction(1.01, -0.03, 0.02)
    middle = np.array([1499.5, 999.5])
    there = lens.apply(here - middle, float(np.hypot(2000, 3000)) / 2) + middle + [0.8, -0.5]
    marks = Marks(places=here, losses=loss), Marks(places=there, losses=loss)
    found = align(*marks, as_they_are(SHAPE, SHAPE), lens)
    assert found.matched == 30
    assert found.second == pytest.approx(0.02, abs=0.0002)
    assert np.max(np.hypot(*(found.apply(here) - there).T)) < 0.4


@pytest.mark.parametrize(
    ("x", "y", "zone"),
    [
        (0, 0, "top left"),
        (150, 100, "centre"),
        (299, 199, "bottom right"),
        (150, 5, "top"),
        (-4, 100, "left"),
        (500, 100, "right"),
    ],
)
def test_zones(x: float, y: float, zone: str) -> None:
    assert zone_of(x, y, 300, 200) == zone


@pytest.mark.parametrize(("value", "stop"), [(5.66, 5.6), (22.6, 22.0), (1.41, 1.4), (40.3, 40.0)])
def test_nominal_stops(value: float, stop: float) -> None:
    assert nominal_stop(value) == stop
