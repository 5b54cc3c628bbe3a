"""What must hold for any dirt, any mask, any damage."""

from __future__ import annotations

from pathlib import Path

import numpy as np
import pytest
from hypothesis import HealthCheck, given, settings
from hypothesis import strategies as st

from neatpatch.core.common.errors import UnusableFrameError
from neatpatch.core.common.filters import binned, finite, widened
from neatpatch.core.common.frame import Frame, FrameFacts, Image
from neatpatch.core.common.optics import disc_overlap, predicted_depth, unit_profile
from neatpatch.core.common.records import SpotMap
from neatpatch.core.compare.alignment import Marks, align_unshifted
from neatpatch.core.measure.map_building import MapOptions, build_map
from neatpatch.core.measure.region_splitting import split_region
from neatpatch.core.measure.shapes import filled, roundness
from neatpatch.images.read import read_frame
from neatpatch.simulation.frames import Recipe, write_simulated

SLOW = settings(
    max_examples=12, deadline=None, derandomize=True, suppress_health_check=list(HealthCheck)
)
QUICK = settings(max_examples=80, deadline=None, derandomize=True)
SENSOR = (23.5, 15.6)
widths = st.floats(0.5, 80)


@pytest.fixture(scope="module")
def dusty(tmp_path_factory: pytest.TempPathFactory) -> Frame:
    recipe = Recipe(seed=15, width_px=1800, counts={"speck": 12, "fibre": 1, "droplet": 1})
    path, _ = write_simulated(recipe, tmp_path_factory.mktemp("p"))
    return read_frame(path)


def with_light(frame: Frame, light: Image) -> Frame:
    facts = FrameFacts(width_px=light.shape[1], height_px=light.shape[0], f_number=22.0)
    return Frame(light=np.ascontiguousarray(light), facts=facts)


def strong(spot_map: SpotMap) -> list[tuple[float, float]]:
    return sorted((s.x_px, s.y_px) for s in spot_map.spots if s.snr > 15)


def same_places(found: list[tuple[float, float]], expected: list[tuple[float, float]]) -> bool:
    return len(found) == len(expected) and all(
        min(np.hypot(x - a, y - b) for a, b in found) < 1.0 for x, y in expected
    )


def test_a_mirrored_frame_gives_a_mirrored_map(dusty: Frame) -> None:
    plain = strong(build_map(dusty, MapOptions(sensor_mm=SENSOR)))
    width = dusty.shape[1]
    mirrored = build_map(with_light(dusty, dusty.luminance[:, ::-1]), MapOptions(sensor_mm=SENSOR))
    assert same_places([(width - 1 - x, y) for x, y in strong(mirrored)], plain)


def test_a_turned_frame_gives_a_turned_map(dusty: Frame) -> None:
    plain = strong(build_map(dusty, MapOptions(sensor_mm=SENSOR)))
    turned = build_map(with_light(dusty, dusty.luminance.T), MapOptions(sensor_mm=SENSOR))
    assert same_places([(y, x) for x, y in strong(turned)], plain)


@pytest.mark.long
@SLOW
@given(factor=st.floats(0.3, 1.6))
def test_exposure_changes_no_place(dusty: Frame, factor: float) -> None:
    plain = strong(build_map(dusty))
    scaled = build_map(with_light(dusty, dusty.luminance * np.float32(factor)))
    assert same_places(strong(scaled), plain)


@SLOW
@given(seed=st.integers(0, 10**6), shape=st.tuples(st.integers(64, 200), st.integers(64, 200)))
def test_any_noise_gives_a_valid_map(seed: int, shape: tuple[int, int]) -> None:
    rng = np.random.default_rng(seed)
    light = rng.gamma(2.0, 0.2, shape).astype(np.float32)
    facts = FrameFacts(width_px=shape[1], height_px=shape[0])
    found = build_map(Frame(light=light, facts=facts))
    assert SpotMap.model_validate_json(found.model_dump_json()) == found


@QUICK
@given(particle=widths, blur=widths, wider=st.floats(1.01, 4))
def test_more_blur_never_deepens_a_shadow(particle: float, blur: float, wider: float) -> None:
    here = predicted_depth(particle, blur, 0.8)
    there = predicted_depth(particle, blur * wider, 0.8)
    assert there <= here * 1.01 + 1e-6


@QUICK
@given(a=widths, b=widths, distance=st.floats(0, 200))
def test_overlap_is_symmetric_and_bounded(a: float, b: float, distance: float) -> None:
    shared = float(disc_overlap(a, b, [distance])[0])
    assert shared == pytest.approx(float(disc_overlap(b, a, [distance])[0]), abs=1e-6)
    assert -1e-6 <= shared <= np.pi / 4 * min(a, b) ** 2 + 1e-6


@QUICK
@given(particle=widths, blur=widths)
def test_profiles_fall_from_the_middle(particle: float, blur: float) -> None:
    radius = np.linspace(0, particle + blur, 60)
    profile = unit_profile(radius, particle, blur, 0.1 * (particle + blur), 0.05 * blur)
    assert np.all(np.diff(profile) <= 0.01 * profile.max())


@QUICK
@given(seed=st.integers(0, 10**6))
def test_splitting_shares_out_pixels_without_overlap(seed: int) -> None:
    rng = np.random.default_rng(seed)
    image = np.zeros((60, 60), np.float32)
    yy, xx = np.ogrid[:60, :60]
    for _ in range(int(rng.integers(1, 5))):
        y, x, size, depth = rng.uniform([10, 10, 3, 0.05], [50, 50, 12, 0.9])
        image = np.maximum(image, depth * np.exp(-((yy - y) ** 2 + (xx - x) ** 2) / size**2))
    mask = image > 0.02
    pieces = split_region(image.astype(np.float32), mask, 0.002)
    assert pieces
    assert np.sum(pieces, axis=0).max() == 1
    assert not np.any(np.any(pieces, axis=0) & ~filled(mask))


@pytest.mark.long
@QUICK
@given(seed=st.integers(0, 10**6), scale=st.floats(0.99, 1.01), shift=st.floats(-6, 6))
def test_alignment_undoes_what_was_done(seed: int, scale: float, shift: float) -> None:
    rng = np.random.default_rng(seed)
    here, loss = rng.uniform(0, 2000, (25, 2)), rng.uniform(5, 500, 25)
    centre = np.array([999.5, 999.5])
    there = centre + scale * (here - centre) + shift
    marks = Marks(places=here, losses=loss), Marks(places=there, losses=loss)
    found = align_unshifted(*marks, (2000, 2000))
    assert found.scale == pytest.approx(scale, abs=1e-3)
    assert found.residual_px < 0.5


@QUICK
@given(seed=st.integers(0, 10**6), step=st.sampled_from([1, 2, 3]))
def test_binning_keeps_the_mean(seed: int, step: int) -> None:
    image = np.random.default_rng(seed).random((12, 18)).astype(np.float32)
    assert binned(image, step).mean() == pytest.approx(float(image.mean()), abs=1e-5)


def test_small_tools() -> None:
    dot = np.zeros((9, 9), bool)
    dot[4, 4] = True
    assert widened(dot, 2).sum() == 25
    assert widened(dot, 2, round_=True).sum() < 25
    ring = widened(dot, 2) & ~dot
    assert filled(ring)[4, 4]
    assert roundness(dot) == 1.0
    odd = np.array([[1.0, np.nan], [np.inf, 3.0]], np.float32)
    assert np.asarray(finite(odd)).tolist() == [[1.0, 2.0], [2.0, 3.0]]
    assert np.asarray(finite(np.full((2, 2), np.nan, np.float32))).tolist() == [[0, 0], [0, 0]]


@pytest.mark.long
@settings(max_examples=60, deadline=None, derandomize=True, suppress_health_check=list(HealthCheck))
@given(
    places=st.lists(st.tuples(st.integers(0, 10**9), st.integers(0, 255)), max_size=8),
    keep=st.floats(0.05, 1.0),
)
def test_damaged_files_are_frames_or_clear_errors(
    small_jpeg: Path, tmp_path: Path, places: list[tuple[int, int]], keep: float
) -> None:
    data = bytearray(small_jpeg.read_bytes())
    for place, value in places:
        data[place % len(data)] = value
    path = tmp_path / "damaged"
    path.write_bytes(bytes(data[: int(len(data) * keep)]))
    said = "."
    try:
        smallest = min(read_frame(path).shape)
    except UnusableFrameError as error:
        smallest, said = 64, str(error)
    assert smallest >= 64
    assert said.endswith(".")
