"""Frames that the camera corrected for its lens, laid by the fingerprint alone."""

from __future__ import annotations

import numpy as np
import pytest

from neatpatch.core.maps.corrections import Correction
from neatpatch.core.maps.registration import register
from neatpatch.simulation import pictures
from tests.core.maps.test_fingerprint import Light, frame, printed, shot


def corrected(light: Light, by: Correction) -> Light:
    """A picture whose places went where the correction takes them."""
    return pictures.corrected(light, by.radial, by.scale)


@pytest.mark.parametrize(
    "by", [Correction(1.02, -0.03), Correction(0.985, 0.025), Correction(1.012, -0.02)]
)
def test_a_corrected_frame_is_of_the_same_sensor(by: Correction) -> None:
    found = register(printed(shot(1, 1)), frame(corrected(shot(1, 2), by)))
    assert found.same is True
    assert found.lens is not None
    assert found.lens.radial == pytest.approx(by.radial, abs=0.002)
    assert found.lens.scale == pytest.approx(by.scale, abs=0.001)
    assert found.placement is not None
    assert found.placement.plain


def test_a_corrected_frame_may_be_turned_as_well() -> None:
    by = Correction(1.02, -0.03)
    turned = np.ascontiguousarray(np.rot90(corrected(shot(1, 2), by)))
    found = register(printed(shot(1, 1)), frame(turned))
    assert found.same is True
    assert found.placement is not None
    assert found.placement.turn == 1
    assert found.lens is not None


def test_another_sensors_corrected_frame_is_another_sensors() -> None:
    by = Correction(1.02, -0.03)
    found = register(printed(shot(1, 1)), frame(corrected(shot(2, 2), by)))
    assert (found.same, found.placement, found.lens) == (False, None, None)


def test_without_a_look_for_corrections_a_corrected_frame_passes_for_anothers() -> None:
    own = frame(corrected(shot(1, 2), Correction(1.02, -0.03)))
    assert register(printed(shot(1, 1)), own, corrected=False).same is False
    assert register(printed(shot(1, 1)), frame(shot(1, 3)), corrected=False).same is True


def test_a_frame_that_needs_no_correction_is_given_none() -> None:
    assert register(printed(shot(1, 1)), frame(shot(1, 3))).lens is None


def test_a_correction_and_its_inverse_leave_places_where_they_were() -> None:
    by = Correction(1.02, -0.03)
    off = np.array([[900.0, 500.0], [-300.0, 700.0], [0.0, 0.0]])
    there = by.apply(off, 1442.0)
    assert np.hypot(*(there - off).T).max() > 8
    assert np.hypot(*(by.inverse().apply(there, 1442.0) - off).T).max() < 2.5
    both = by.then(by.inverse())
    assert (both.scale, both.radial) == pytest.approx((1.0, 0.0), abs=1e-9)
