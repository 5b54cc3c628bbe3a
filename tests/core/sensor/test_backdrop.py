"""Whether the camera moved, told from what lies behind the dust."""

from __future__ import annotations

from dataclasses import replace
from pathlib import Path
from typing import Any

import numpy as np
import pytest

from neatpatch.core.common.frame import Frame, FrameFacts
from neatpatch.core.sensor.backdrop import Backdrop, backdrop_of, camera_moved
from neatpatch.images.read import read_frame
from neatpatch.simulation import Camera, expose, scatter
from neatpatch.simulation.camera import developed
from neatpatch.simulation.frames import write_picture

CAMERA = Camera(width_px=1200)
DIRT = scatter({"speck": 12}, CAMERA.sensor_mm, 1.5, 3)


@pytest.fixture(scope="module")
def shot(tmp_path_factory: pytest.TempPathFactory) -> Any:
    folder: Path = tmp_path_factory.mktemp("backdrops")

    def shoot(seed: int, target: int, specks: int = 12) -> Backdrop:
        picture = developed(expose(CAMERA, DIRT[:specks], seed=seed, target_seed=target).mosaic)
        path = write_picture(folder / f"{seed}-{target}-{specks}.jpg", picture)
        found = backdrop_of(read_frame(path))
        assert found is not None
        return found

    return shoot


def test_two_frames_from_one_place_are_told_from_two_of_two_places(shot: Any) -> None:
    first = shot(1, 7)
    assert camera_moved(first, shot(2, 7)) is False
    assert camera_moved(first, shot(3, 7, specks=4)) is False
    assert camera_moved(first, shot(4, 8)) is True
    assert camera_moved(first, shot(5, 9, specks=4)) is True


def test_light_that_changes_is_no_proof_of_a_move(shot: Any) -> None:
    first, second = shot(1, 7), shot(2, 7)
    rows = np.linspace(-0.02, 0.02, first.cells.shape[0], dtype=np.float32)[:, None]
    bands = np.sin(np.arange(first.cells.shape[1], dtype=np.float32))[None, :] * 0.01
    dimmer = replace(second, cells=second.cells - 0.3 + rows + bands)
    assert camera_moved(first, dimmer) is False


def test_a_turned_camera_has_moved_and_others_cannot_be_told(shot: Any) -> None:
    first = shot(1, 7)
    assert camera_moved(first, replace(first, orientation=6)) is True
    assert camera_moved(first, first) is False
    assert camera_moved(first, None) is None
    assert camera_moved(None, first) is None
    assert camera_moved(first, replace(first, shape=(100, 100))) is None
    named = replace(first, f_number=16.0, focal_length_mm=50.0)
    assert camera_moved(replace(first, f_number=22.0), named) is None
    assert camera_moved(replace(named, focal_length_mm=85.0), named) is None


def test_a_picture_smaller_than_the_grid_has_no_backdrop() -> None:
    light = np.full((40, 60), 0.4, np.float32)
    assert backdrop_of(Frame(light=light, facts=FrameFacts(width_px=60, height_px=40))) is None
