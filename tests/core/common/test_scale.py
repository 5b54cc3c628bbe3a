"""From stored pixels to the sensor: the one scale that every width and place goes through."""

from __future__ import annotations

import pytest

from neatpatch.core.common.scale import from_centre_mm, oriented_sensor, pitch_um


def test_a_picture_held_upright_has_an_upright_sensor() -> None:
    for given in ((36.0, 24.0), (24.0, 36.0)):
        assert oriented_sensor(given, 6000, 4000) == (36.0, 24.0)
        assert oriented_sensor(given, 4000, 6000) == (24.0, 36.0)
        assert oriented_sensor(given, 4000, 4000) == (36.0, 24.0)


def test_the_pitch_is_a_sensors_width_over_its_pixels() -> None:
    assert pitch_um((36.0, 24.0), 6000) == 6.0
    assert pitch_um((24.0, 36.0), 4000) == 6.0


def test_the_middle_pixel_of_an_odd_row_is_the_centre_and_the_ends_are_half_a_sensor_away() -> None:
    assert from_centre_mm(3000, 6001, 6.0) == 0.0
    assert from_centre_mm(2999.5, 6000, 6.0) == 0.0
    assert from_centre_mm(5999.5, 6000, 6.0) == pytest.approx(18.0)
    assert from_centre_mm(-0.5, 6000, 6.0) == pytest.approx(-18.0)
