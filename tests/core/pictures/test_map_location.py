"""How a map lies on a picture: found again from shadows alone, and not where there are none."""

from __future__ import annotations

from typing import Any

import numpy as np
import pytest
from numpy.typing import NDArray

from neatpatch.core.common.filters import binned
from neatpatch.core.common.records import SpotMap
from neatpatch.core.patching.fitting import Subject, working_step
from neatpatch.core.patching.plan import (
    candidate_placements,
    find_crop,
    locate_in_picture,
    to_picture_pixels,
)
from neatpatch.core.pictures.map_location import MapLocation
from neatpatch.images.transfer import srgb_curve
from neatpatch.simulation import Camera
from tests import dusty_pictures as dusty


@pytest.fixture(scope="module")
def spot_map(tmp_path_factory: pytest.TempPathFactory) -> SpotMap:
    return dusty.map_of(tmp_path_factory.mktemp("map"))


def subject_of(tones: NDArray[Any], spot_map: SpotMap, f_number: float = 11.0) -> Subject:
    light = srgb_curve(256)[tones] @ np.array([0.25, 0.5, 0.25], np.float32)
    shape = (tones.shape[0], tones.shape[1])
    step = working_step(spot_map, shape, f_number)
    return Subject(light=binned(light, step), step=step, shape=shape, f_number=f_number)


def laid(tones: NDArray[Any], spot_map: SpotMap) -> tuple[Subject, MapLocation]:
    subject = subject_of(tones, spot_map)
    return subject, locate_in_picture(spot_map, subject, candidate_placements(spot_map, subject))


def pupil_scale(camera: Camera) -> float:
    """Of the picture's exit pupil over the test frame's, 1.5 mm above the photosites."""
    there, here = camera.exit_pupil_mm, Camera().exit_pupil_mm
    return (there / (there - 1.5)) / (70.0 / 68.5) if here == 70.0 else 1.0


@pytest.mark.long
@pytest.mark.parametrize("exit_pupil_mm", [60.0, 180.0])
def test_another_exit_pupil_is_found(spot_map: SpotMap, exit_pupil_mm: float) -> None:
    camera = Camera(width_px=dusty.WIDTH_PX, exit_pupil_mm=exit_pupil_mm)
    subject, found = laid(dusty.picture(dusty.dust(), 5, camera=camera), spot_map)
    alignment = to_picture_pixels(found.alignment, subject)
    assert found.found >= 5
    assert alignment.scale == pytest.approx(pupil_scale(camera), abs=0.002)
    assert alignment.radial == 0.0
    assert alignment.residual_px < 3


@pytest.mark.long
@pytest.mark.parametrize("radial", [0.02, -0.02])
def test_a_lens_correction_in_the_camera_is_found(spot_map: SpotMap, radial: float) -> None:
    _, found = laid(dusty.picture(dusty.dust(), 7, even=0.95, radial=radial), spot_map)
    assert found.alignment.radial == pytest.approx(radial, abs=0.006)


@pytest.mark.long
@pytest.mark.parametrize("turn", [0, 1, 2, 3])
def test_a_turned_picture_is_laid_the_right_way(spot_map: SpotMap, turn: int) -> None:
    tones = np.ascontiguousarray(np.rot90(dusty.picture(dusty.dust(), 8, even=0.9), turn))
    _, found = laid(tones, spot_map)
    assert found.alignment.placement.turn == turn
    assert found.found >= 5


@pytest.mark.long
def test_a_cut_out_is_found_by_its_shadows(spot_map: SpotMap) -> None:
    whole = dusty.picture(dusty.dust(), 9, even=0.9)
    left, top = 240, 130
    cut = np.ascontiguousarray(whole[top:1000, left:1640])
    subject = subject_of(cut, spot_map)
    assert candidate_placements(spot_map, subject) == ()
    place = find_crop(spot_map, subject)
    assert place is not None
    found = to_picture_pixels(locate_in_picture(spot_map, subject, (place,)).alignment, subject)
    spot = spot_map.spots[0]
    at = found.apply(np.array([[spot.x_px, spot.y_px]]))[0]
    pole = np.array([(dusty.WIDTH_PX - 1) / 2, (dusty.CAMERA.height_px - 1) / 2])
    scale = pupil_scale(dusty.CAMERA)
    truth = pole + scale * (np.array([spot.x_px, spot.y_px]) - pole) - (left, top)
    assert np.hypot(*(at - truth)) < 4


@pytest.mark.long
def test_a_clean_picture_says_that_no_shadow_is_there(spot_map: SpotMap) -> None:
    _, found = laid(dusty.picture((), 10, even=0.9), spot_map)
    assert found.expected >= 4
    assert found.found < 0.2 * found.expected
    cut = subject_of(np.ascontiguousarray(dusty.picture((), 11)[100:900, 100:1500]), spot_map)
    assert find_crop(spot_map, cut) is None
