"""The whole way from a frame to a map, against what is known to be true."""

from __future__ import annotations

from pathlib import Path

import numpy as np
import pytest
from bench.scoring import score

from neatpatch.core.common.errors import BadArgumentError
from neatpatch.core.common.frame import Frame, FrameFacts
from neatpatch.core.common.records import SpotMap
from neatpatch.core.measure.map_building import MapOptions, build_map
from neatpatch.images.read import read_frame
from neatpatch.simulation.frames import Recipe, write_simulated
from tests.conftest import SENSOR, SHARED_FRAMES, rows_of, truth_beside


def mapped(path: Path, sensor: tuple[float, float] | None = SENSOR) -> SpotMap:
    return build_map(read_frame(path), MapOptions(sensor_mm=sensor))


def plain(luminance: np.ndarray) -> Frame:
    facts = FrameFacts(width_px=luminance.shape[1], height_px=luminance.shape[0], f_number=22.0)
    return Frame(light=luminance.astype(np.float32), facts=facts)


@pytest.mark.long
@pytest.mark.parametrize("name", ["dusty_jpeg", "dusty_dng"])
def test_simulated_frames(name: str, request: pytest.FixtureRequest) -> None:
    path: Path = request.getfixturevalue(name)
    truth = truth_beside(path)
    found = mapped(path)
    s = score(truth["spots"], rows_of(found), name)
    assert s.found >= 0.95 * s.wanted, s.missed
    assert s.false <= 1
    assert s.fragments <= 1
    assert np.mean(s.kind_right) > 0.95
    assert np.median(s.position) < 0.3
    assert np.median(s.size) < 0.05
    assert found.optics.height_source == "fitted"
    assert found.optics.height_mm == pytest.approx(truth["stack_mm"], rel=0.05)


SHARED = [
    ("plain-f22.jpg", (23.5, 15.6)),
    ("before.jpg", (23.5, 15.6)),
    ("large-f22.jpg", (35.9, 23.9)),
    ("raw-f16.dng", (23.5, 15.6)),
]


@pytest.mark.long
@pytest.mark.parametrize(("name", "sensor"), SHARED)
def test_practice_frames(name: str, sensor: tuple[float, float]) -> None:
    path = SHARED_FRAMES / name
    if not path.exists():
        pytest.skip("the practice frames are not here")
    found = mapped(path, sensor)
    s = score(truth_beside(path)["spots"], rows_of(found), name)
    assert s.found >= 0.95 * s.wanted, s.missed
    assert s.false <= 2
    assert s.fragments <= 0.03 * s.rows
    assert found.fit


CODES = {
    "grainy.jpg": "grainy",
    "textured.jpg": "target_in_focus",
    "too-bright.jpg": "too_bright",
    "wide-open.jpg": "aperture_too_wide",
}


@pytest.mark.long
@pytest.mark.parametrize(("name", "code"), CODES.items())
def test_flawed_practice_frames_get_their_code(name: str, code: str) -> None:
    path = SHARED_FRAMES / name
    if not path.exists():
        pytest.skip("the practice frames are not here")
    found = mapped(path)
    assert not found.fit
    assert code in {c.code for c in found.checks if c.level == "retake"}
    assert all(c.remedy for c in found.checks if c.level != "ok")


def test_clean_sensor_gives_no_rows_and_no_hot_pixels(clean_jpeg: Path) -> None:
    found = mapped(clean_jpeg)
    assert len(truth_beside(clean_jpeg)["hot_pixels"]) == 12
    assert found.spots == ()
    assert found.summary.count == 0
    assert found.optics.height_source == "assumed"


def test_constant_frame() -> None:
    found = build_map(plain(np.full((400, 600), 0.4)))
    assert found.spots == ()


def test_black_frame_is_told_to_be_retaken() -> None:
    found = build_map(plain(np.zeros((400, 600))))
    assert "too_dark" in {c.code for c in found.checks if c.level == "retake"}


@pytest.mark.long
@pytest.mark.parametrize("odd", [np.nan, np.inf, -np.inf])
def test_values_that_are_no_numbers_count_as_background(odd: float, dusty_jpeg: Path) -> None:
    frame = read_frame(dusty_jpeg)
    light = frame.luminance.copy()
    light[40:50, 60:70] = odd
    expected = build_map(frame)
    found = build_map(Frame(light=light, facts=frame.facts))
    assert abs(len(found.spots) - len(expected.spots)) <= 1


def test_tiny_frame_does_not_fail() -> None:
    rng = np.random.default_rng(1)
    assert build_map(plain(0.4 + rng.normal(0, 0.01, (64, 64)))).spots == ()


def test_without_sensor_size_lengths_are_unknown(dusty_jpeg: Path) -> None:
    found = mapped(dusty_jpeg, None)
    assert "sensor_size_unknown" in {c.code for c in found.checks}
    assert found.optics.height_mm is None
    assert found.optics.blur_um is None
    assert all(s.outer_um is None and s.x_mm is None and s.particle_um is None for s in found.spots)
    with_size = mapped(dusty_jpeg)
    assert len(found.spots) == len(with_size.spots)


def test_given_height_is_used(dusty_jpeg: Path) -> None:
    options = MapOptions(sensor_mm=SENSOR, height_mm=1.5)
    found = build_map(read_frame(dusty_jpeg), options)
    assert (found.optics.height_source, found.optics.height_mm) == ("given", 1.5)


def test_millimetres_have_their_origin_at_the_centre(dusty_jpeg: Path) -> None:
    for spot in mapped(dusty_jpeg).spots:
        assert spot.x_mm == pytest.approx((spot.x_px - 2799 / 2) * 23.5 / 2800, abs=1e-3)


@pytest.mark.long
def test_lens_dust_is_told_from_sensor_dust(frames_dir: Path) -> None:
    recipe = Recipe(seed=44, name="lensy", width_px=2800, counts={"speck": 14, "soft": 2})
    path, _ = write_simulated(recipe, frames_dir)
    found = mapped(path)
    soft = [s for s in found.spots if s.kind == "soft"]
    assert len(soft) == 2
    assert all(s.site == "lens" and (s.height_mm or 0) > 8 for s in soft)
    assert found.summary.count == len(found.spots) - 2


def test_series_keeps_dust_and_rejects_what_travels() -> None:
    paths = [SHARED_FRAMES / f"series-{i}.jpg" for i in (1, 2, 3)]
    if not paths[0].exists():
        pytest.skip("the practice frames are not here")
    found = build_map([read_frame(p) for p in paths], MapOptions(sensor_mm=SENSOR))
    truth = truth_beside(paths[0])["spots"]
    s = score(truth, rows_of(found))
    assert (s.found, s.false) == (len(truth), 0), s.missed
    assert sum(spot.site == "scene" for spot in found.spots) >= 12
    assert all(spot.seen_in >= 2 for spot in found.spots if spot.site == "sensor")


def test_frames_of_different_size_are_no_series() -> None:
    frames = [plain(np.full((100, 100), 0.4)), plain(np.full((100, 120), 0.4))]
    with pytest.raises(BadArgumentError, match="one size"):
        build_map(frames)
    with pytest.raises(BadArgumentError, match="at least one"):
        build_map([])


def test_progress_runs_from_start_to_done(small_jpeg: Path) -> None:
    told: list[float] = []
    build_map(read_frame(small_jpeg), progress=lambda share, _step: told.append(share))
    assert told == sorted(told)
    assert told[-1] == 1.0


def test_colour_cast_and_tilt_change_nothing(dusty_jpeg: Path) -> None:
    frame = read_frame(dusty_jpeg)
    tilt = np.linspace(0.8, 1.1, frame.shape[1], dtype=np.float32)
    tilted = Frame(light=frame.luminance * tilt, facts=frame.facts)
    plain_map, tilted_map = (build_map(f, MapOptions(sensor_mm=SENSOR)) for f in (frame, tilted))
    assert abs(len(plain_map.spots) - len(tilted_map.spots)) <= 1


@pytest.mark.long
@pytest.mark.parametrize(("quality", "f_number", "stack_mm"), [(95, 16.0, 3.4), (82, 22.0, 1.2)])
def test_tall_stacks_and_strong_compression_give_one_row_for_each_thing(
    quality: int, f_number: float, stack_mm: float, tmp_path: Path
) -> None:
    recipe = Recipe(
        seed=77,
        sensor_mm=(17.3, 13.0),
        width_px=4000,
        f_number=f_number,
        stack_mm=stack_mm,
        iso=50,
        level=0.2,
        quality=quality,
        counts={"speck": 25, "droplet": 8, "fibre": 2},
    )
    path, _ = write_simulated(recipe, tmp_path)
    found = mapped(path, (17.3, 13.0))
    s = score(truth_beside(path)["spots"], rows_of(found), "tall")
    assert (s.false, s.fragments) == (0, 0)
    assert s.found >= 0.9 * s.wanted
    assert np.mean(s.kind_right) >= 0.9
    assert found.optics.height_mm == pytest.approx(stack_mm, rel=0.05)
