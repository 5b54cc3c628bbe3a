"""Shadows drawn from a map's records, against the virtual camera's own rendering."""

from __future__ import annotations

import numpy as np
import pytest
from hypothesis import given
from hypothesis import strategies as st

from neatpatch.core.common.records import Spot
from neatpatch.core.pictures.silhouettes import Look, half_width, placed, pupil, shadow_of
from neatpatch.simulation import Particle
from neatpatch.simulation.shadows import View, render

PITCH_UM = 5.0
SENSOR = (24.0, 16.0)


def look(f_number: float, zoom: float = 1.0, height_mm: float = 1.5) -> Look:
    return Look(
        blur=height_mm * 1000 / f_number / PITCH_UM * zoom,
        softness=0.4,
        airy=0.55 * f_number / PITCH_UM * zoom,
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
    assert drawn.sum() == pytest.approx(area_px, rel=0.01)
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


@given(st.floats(3, 60))
def test_a_pupil_passes_one_whole_light(blur: float) -> None:
    plane = pupil(Look(blur=blur, softness=0.5, airy=0.0))
    assert plane.sum() == pytest.approx(1, abs=1e-4)
    wide = float((plane > plane.max() / 2).sum())
    assert wide == pytest.approx(np.pi / 4 * blur**2, rel=0.3, abs=6)


@given(st.floats(-0.5, 0.5), st.floats(-0.5, 0.5))
def test_a_shadow_moved_within_its_window_keeps_its_light(dx: float, dy: float) -> None:
    loss = shadow_of(spot(), look(22.0), look(11.0))
    moved = placed(loss, dx, dy)
    assert moved.sum() == pytest.approx(loss.sum(), rel=1e-3)
    assert loss.shape == (2 * half_width(spot(), look(11.0)) + 1,) * 2
