"""Shadows drawn from a map's records, against the virtual camera's own rendering."""

from __future__ import annotations

import cv2
import numpy as np
import pytest
from hypothesis import given
from hypothesis import strategies as st

from neatpatch.core.common.frame import Frame, FrameFacts
from neatpatch.core.common.optics import blur_um
from neatpatch.core.common.records import Spot
from neatpatch.core.measure.map_building import MapOptions, build_map
from neatpatch.core.pictures.silhouettes import ShadowOptics, half_width, placed, shadow_of
from neatpatch.simulation import Particle
from neatpatch.simulation.shadows import View, render

PITCH_UM = 5.0
SENSOR = (24.0, 16.0)


def look(f_number: float, zoom: float = 1.0, height_mm: float = 1.5) -> ShadowOptics:
    return ShadowOptics(
        blur=blur_um(height_mm, f_number, 1e6) / PITCH_UM * zoom,
        softness=0.4,
        wave=0.55 * f_number / PITCH_UM * zoom,
        zoom=zoom,
    )


def spot(kind: str = "speck", **more: object) -> Spot:
    known = {
        "id": "s1",
        "x_px": 100.0,
        "y_px": 100.0,
        "x_mm": None,
        "y_mm": None,
        "zone": "centre",
        "kind": kind,
        "site": "sensor",
        "snr": 50.0,
        "depth": 0.5,
        "outer_px": 20.0,
        "outer_um": None,
        "length_um": None,
        "particle_um": None,
        "height_mm": None,
        "shows_from_f": None,
        "particle_px": 6.0,
    }
    return Spot.model_validate({**known, **more})


def rendered(size_um: float, f_number: float) -> np.ndarray:
    particle = Particle(name="p", kind="speck", x_mm=0, y_mm=0, size_um=size_um, height_mm=1.5)
    view = View(sensor_mm=SENSOR, width_px=4801, f_number=f_number, exit_pupil_mm=1e6)
    return np.asarray(render(particle, view).loss)


@pytest.mark.parametrize("f_number", [8.0, 11.0, 16.0])
@pytest.mark.parametrize("size_um", [25.0, 45.0])
def test_a_speck_is_as_deep_and_takes_as_much_light_as_the_camera_draws_it(
    size_um: float, f_number: float
) -> None:
    truth = rendered(size_um, f_number)
    drawn = shadow_of(spot(particle_px=size_um / PITCH_UM), look(22.0), look(f_number))
    area_px = np.pi / 4 * (size_um / PITCH_UM) ** 2
    assert drawn.sum() == pytest.approx(area_px, rel=0.04), "some comes back farther out"
    assert truth.sum() == pytest.approx(area_px, rel=0.05)
    assert drawn.max() == pytest.approx(truth.max(), rel=0.08)


def test_a_smaller_picture_shows_the_same_depth_in_fewer_pixels() -> None:
    own, whole, half = look(22.0), look(11.0), look(11.0, zoom=0.5)
    large, small = shadow_of(spot(), own, whole), shadow_of(spot(), own, half)
    assert small.max() == pytest.approx(large.max(), rel=0.06)
    assert small.sum() == pytest.approx(large.sum() / 4, rel=0.05)


@pytest.mark.parametrize("kind", ["fibre", "droplet", "residue"])
def test_long_and_ringed_things_keep_the_depth_measured_at_the_maps_own_aperture(kind: str) -> None:
    thing = spot(kind, outer_px=90.0, depth=0.3, particle_px=3.0, width_px=20.0, angle_deg=30.0)
    own = look(22.0)
    assert shadow_of(thing, own, own).max() == pytest.approx(0.3, rel=0.02)
    wider = shadow_of(thing, own, look(8.0)).max()
    assert 0 < wider < 0.3


def test_a_turned_picture_turns_the_shadow() -> None:
    fibre = spot("fibre", outer_px=80.0, angle_deg=0.0, particle_px=2.0)
    lying = shadow_of(fibre, look(22.0), look(16.0))
    upright = shadow_of(fibre, look(22.0), look(16.0), turn=1)
    assert np.allclose(np.rot90(lying), upright)
    assert lying.sum(axis=0).std() < lying.sum(axis=1).std()


@given(st.floats(-0.5, 0.5), st.floats(-0.5, 0.5))
def test_a_shadow_moved_within_its_window_keeps_its_light(dx: float, dy: float) -> None:
    loss = shadow_of(spot(), look(22.0), look(11.0))
    moved = placed(loss, dx, dy)
    assert moved.sum() == pytest.approx(loss.sum(), rel=1e-3)
    assert loss.shape == (2 * half_width(spot(), look(11.0)) + 1,) * 2


@pytest.mark.long
@pytest.mark.parametrize("bend", [-0.5, 0.5])
def test_a_bent_fibre_is_drawn_where_it_lies_and_nowhere_else(bend: float) -> None:
    fibre = Particle(
        name="f",
        kind="fibre",
        x_mm=0,
        y_mm=0,
        size_um=16,
        height_mm=1.5,
        length_um=900,
        angle_rad=0.4,
        bend=bend,
    )

    def seen(f_number: float) -> tuple[np.ndarray, int, int]:
        view = View(sensor_mm=SENSOR, width_px=4800, f_number=f_number, exit_pupil_mm=1e6)
        shadow = render(fibre, view)
        return np.asarray(shadow.loss), shadow.top, shadow.left

    loss, top, left = seen(22.0)
    light = np.full((700, 700), 0.5, np.float32)
    rows, columns = loss.shape
    y, x = 350 - rows // 2, 350 - columns // 2
    light[y : y + rows, x : x + columns] *= 1 - loss
    light += np.random.default_rng(3).normal(0, 0.002, light.shape).astype(np.float32)
    frame = Frame(light=light, facts=FrameFacts(width_px=700, height_px=700, f_number=22.0))
    spot_map = build_map([frame], MapOptions(sensor_mm=(3.5, 3.5)))
    [found] = [s for s in spot_map.spots if s.kind == "fibre"]
    assert found.course_px is not None
    ends = np.array([found.course_px[0], found.course_px[-1]])
    assert np.hypot(*(ends[1] - ends[0])) == pytest.approx(900 / PITCH_UM, rel=0.05)

    truth, far_top, far_left = seen(11.0)
    drawn = shadow_of(found, look(22.0), look(11.0))
    middle = drawn.shape[0] // 2
    whole = np.zeros((900, 900), np.float32)
    # The truth, where it lies from the middle that was measured.
    dy, dx = far_top - top + y - round(found.y_px), far_left - left + x - round(found.x_px)
    whole[450 + dy : 450 + dy + truth.shape[0], 450 + dx : 450 + dx + truth.shape[1]] = truth
    there = whole[450 - middle : 451 + middle, 450 - middle : 451 + middle]
    assert np.corrcoef(there.ravel(), drawn.ravel())[0, 1] > 0.97
    near = cv2.dilate((there > 1e-3).astype(np.uint8), np.ones((9, 9), np.uint8)) > 0
    assert float(drawn[~near].max()) < 0.004
    straight = shadow_of(found.model_copy(update={"course_px": None}), look(22.0), look(11.0))
    assert float(straight[~near].max()) > 0.02
