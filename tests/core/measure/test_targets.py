"""Whole frames of real targets: right, or refused with the true cause; never a false map."""

from __future__ import annotations

from functools import lru_cache

import numpy as np
import pytest

from neatpatch.core.common.frame import Frame, FrameFacts
from neatpatch.core.common.records import SpotMap
from neatpatch.core.measure import map_building as mapping
from neatpatch.core.measure.map_building import MapOptions, build_map, measure_frame
from neatpatch.images.transfer import srgb_curve
from neatpatch.simulation import Camera, Shot, Target, expose, scatter
from neatpatch.simulation.camera import developed
from neatpatch.simulation.scenes import Scene

CAMERA = Camera(width_px=2400)
WEIGHTS = np.array([0.25, 0.5, 0.25], np.float32)


NAMED = {
    "led_rows": ("uneven", "lamp flickers", "daylight"),
    "led_columns": ("uneven", "lamp flickers", "longer"),
    "screen": ("target_in_focus", "screen's dots", "farther"),
    "lamp_glow": ("uneven", "lamp's glow", "one plain tone"),
}
"""What is said of targets that come out right all the same."""


@lru_cache(maxsize=1)
def dirt() -> tuple:  # type: ignore[type-arg]
    return scatter({"speck": 24, "fibre": 1, "droplet": 2}, CAMERA.sensor_mm, 1.5, 11)


def shot_of(scene: Scene | None, *, iso: int = 100, level: float = 0.38) -> tuple[Shot, SpotMap]:
    shot, frame = exposed(scene, iso=iso, level=level)
    return shot, build_map(frame, MapOptions(sensor_mm=CAMERA.sensor_mm))


def exposed(scene: Scene | None, *, iso: int = 100, level: float = 0.38) -> tuple[Shot, Frame]:
    target = Target(scene=scene, level=level)
    shot = expose(CAMERA, dirt(), iso=iso, seed=5, target=target)
    light = srgb_curve(256)[developed(shot.mosaic)] @ WEIGHTS
    facts = FrameFacts(
        width_px=light.shape[1], height_px=light.shape[0], f_number=22.0, iso=iso, format="JPEG"
    )
    return shot, Frame(light=light.astype(np.float32), facts=facts)


@pytest.mark.long
@pytest.mark.parametrize(
    ("scene", "measured"),
    [
        (None, 1),
        (Scene(kind="screen", amplitude=0.03, size_px=9, angle_rad=0.6), 2),
        (Scene(kind="lamp_glow", amplitude=0.8, size_px=320), 1),
    ],
)
def test_what_is_measured_is_what_is_left_of_the_target(scene: Scene | None, measured: int) -> None:
    steps: list[str] = []
    found = measure_frame(exposed(scene)[1], lambda _share, step: steps.append(step))
    assert found.detection.loss is found.level.loss
    assert found.level.telling is (scene is None)
    assert steps.count("measuring") == measured


@pytest.mark.long
@pytest.mark.parametrize(
    "scene", [None, Scene(kind="screen", amplitude=0.03, size_px=9, angle_rad=0.6)]
)
def test_a_large_picture_is_levelled_first_and_measured_alike(
    scene: Scene | None, monkeypatch: pytest.MonkeyPatch
) -> None:
    frame = exposed(scene)[1]
    usual = build_map(frame)
    monkeypatch.setattr(mapping, "_MOST_AT_ONCE", 0)
    steps: list[str] = []
    large = build_map(frame, None, lambda _share, step: steps.append(step))
    assert large == usual
    assert steps.count("measuring") == 1


def clear_and_false(shot: Shot, spot_map: SpotMap) -> tuple[float, int]:
    """Share of clear specks found, and rows that lie on nothing."""
    spots = [s for s in spot_map.spots if s.site != "scene"]
    clear = [
        s for p, s in shot.shadows if p.kind == "speck" and s.energy > 20 * shot.noise_per_pixel
    ]

    def near(x: float, y: float, reach: float) -> bool:
        return any(np.hypot(q.x_px - x, q.y_px - y) < reach for q in spots)

    found = sum(near(s.x_px, s.y_px, max(8.0, s.outer_px / 2)) for s in clear)
    false = sum(
        not any(
            np.hypot(q.x_px - s.x_px, q.y_px - s.y_px) < max(8.0, s.outer_px / 2)
            for _, s in shot.shadows
        )
        for q in spots
    )
    return found / len(clear), false


def retakes(spot_map: SpotMap) -> list[str]:
    return [c.code for c in spot_map.checks if c.level == "retake"]


@pytest.mark.long
@pytest.mark.parametrize(
    "scene",
    [
        Scene(kind="clouds", amplitude=0.05, size_px=320),
        Scene(kind="led_rows", amplitude=0.06, size_px=110),
        Scene(kind="led_columns", amplitude=0.02, size_px=23),
        Scene(kind="screen", amplitude=0.03, size_px=27, angle_rad=0.6),
        Scene(kind="lamp_glow", amplitude=0.8, size_px=320),
        Scene(kind="falloff", amplitude=0.6),
        Scene(kind="tilt", amplitude=0.35, angle_rad=1.0),
    ],
    ids=lambda s: s.kind,
)
def test_targets_that_come_out_right(scene: Scene) -> None:
    shot, spot_map = shot_of(scene, level=0.2 if scene.kind == "lamp_glow" else 0.38)
    found, false = clear_and_false(shot, spot_map)
    assert retakes(spot_map) == []
    assert found >= 0.95
    assert false <= 1
    if scene.kind in NAMED:
        code, words, remedy = NAMED[scene.kind]
        note = next(c for c in spot_map.checks if c.code == code)
        assert note.level == "note"
        assert words in note.message
        assert remedy in note.remedy


@pytest.mark.long
@pytest.mark.parametrize(
    ("scene", "causes"),
    [
        (Scene(kind="wall", amplitude=0.03, size_px=7), ["target_in_focus"]),
        (Scene(kind="paper", amplitude=0.03, size_px=4), ["target_in_focus"]),
        (Scene(kind="window", amplitude=0.5, size_px=12), ["uneven"]),
        (Scene(kind="edged_clouds", amplitude=0.25, size_px=20), ["uneven", "target_in_focus"]),
    ],
    ids=lambda v: v.kind if isinstance(v, Scene) else "",
)
def test_targets_that_are_refused_with_their_true_cause(scene: Scene, causes: list[str]) -> None:
    _, spot_map = shot_of(scene)
    assert not spot_map.fit
    assert retakes(spot_map)[0] in causes
    assert "grainy" not in retakes(spot_map)


@pytest.mark.long
def test_a_noisy_frame_of_an_even_target_is_noisy() -> None:
    _, spot_map = shot_of(None, iso=12800)
    assert retakes(spot_map) == ["grainy"]
