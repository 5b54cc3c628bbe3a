"""Specks of the blur's own shape, near the limit of what a frame can show."""

from __future__ import annotations

import numpy as np

from neatpatch.core.common.frame import Image
from neatpatch.core.common.optics import predicted_depth, unit_profile
from neatpatch.core.measure.background import Background, estimate_background
from neatpatch.core.measure.detection import detect
from neatpatch.core.measure.faint_specks import faint_specks
from neatpatch.core.measure.stack_height import BlurFit

SHAPE = (600, 900)
BLUR = BlurFit(16.0, 0.8, 0.4, "fitted")
NOISE = 0.01
SPECK = 3.0
"""Diameter in pixels: 4 % deep under this blur."""
PLACES = [(x, y) for y in (100, 300, 500) for x in (100, 300, 500, 700)]


def background() -> Background:
    return estimate_background(np.ones(SHAPE, np.float32), 1, SHAPE)


def shadow(particle: float) -> Image:
    rows, columns = np.mgrid[-30:31, -30:31]
    profile = unit_profile(np.hypot(rows, columns), particle, BLUR.blur_px, 0.8, BLUR.wave_px)
    return np.asarray(np.pi / 4 * particle**2 * profile, np.float32)


def frame(strength: float, seed: int) -> Image:
    loss = np.random.default_rng(seed).normal(0, NOISE, SHAPE).astype(np.float32)
    for x, y in PLACES:
        loss[y - 30 : y + 31, x - 30 : x + 31] += np.float32(strength) * shadow(SPECK)
    return loss


def nothing() -> np.ndarray[tuple[int, int], np.dtype[np.bool_]]:
    return np.zeros(SHAPE, bool)


def snr() -> float:
    return float(np.linalg.norm(shadow(SPECK)) / NOISE)


def test_what_the_search_by_gaussians_misses_is_found_by_its_shape() -> None:
    by_shape = by_gaussians = 0
    for seed in range(6):
        loss = frame(7.0 / snr(), seed)
        by_gaussians += len(detect(loss.copy(), background().cells, 1).regions)
        by_shape += len(faint_specks(loss, background(), nothing(), 1, BLUR))
    assert by_shape > 0.6 * 6 * len(PLACES)
    assert by_shape > 2 * by_gaussians


def test_noise_alone_gives_none() -> None:
    assert [
        n
        for seed in range(12)
        if (n := len(faint_specks(frame(0, seed), background(), nothing(), 1, BLUR)))
    ] == []


def test_place_and_depth_are_those_of_the_speck() -> None:
    strength = 14.0 / snr()
    found = faint_specks(frame(strength, 3), background(), nothing(), 1, BLUR)
    assert len(found) == len(PLACES)
    wanted = strength * predicted_depth(SPECK, BLUR.blur_px, 0.8, BLUR.wave_px)
    assert (
        np.mean([m.depth for m in found]) == np.float64(wanted).round(9)
        or abs(np.mean([m.depth for m in found]) / wanted - 1) < 0.08
    )
    for m in found:
        assert min(np.hypot(m.x_px - x, m.y_px - y) for x, y in PLACES) < 2.0


def test_what_is_known_is_not_found_again() -> None:
    known = nothing()
    x, y = PLACES[4]
    known[y - 8 : y + 9, x - 8 : x + 9] = True
    found = faint_specks(frame(14.0 / snr(), 3), background(), known, 1, BLUR)
    assert len(found) == len(PLACES) - 1


def test_marks_as_bright_as_these_are_dark_raise_the_bar() -> None:
    loss = frame(7.0 / snr(), 1)
    loss[40:101, 780:841] -= np.float32(14.0 / snr()) * shadow(SPECK)
    assert faint_specks(loss, background(), nothing(), 1, BLUR) == []


def test_a_blur_of_few_pixels_has_no_shape_to_search_by() -> None:
    narrow = BlurFit(4.0, 0.8, 0.4, "fitted")
    assert faint_specks(frame(3.0, 1), background(), nothing(), 1, narrow) == []
