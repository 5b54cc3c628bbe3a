"""The lens's opening: one light, one area, and sides where blades make them."""

from __future__ import annotations

import numpy as np
import pytest
from hypothesis import given
from hypothesis import strategies as st

from neatpatch.core.pictures.pupil import Blades, pupil


@given(st.floats(3, 60), st.sampled_from([None, Blades(5, 10.0), Blades(7, -20.0, 0.4)]))
def test_it_passes_one_whole_light_and_has_the_area_of_its_disc(
    diameter: float, blades: Blades | None
) -> None:
    plane = pupil(diameter, blades)
    assert plane.sum() == pytest.approx(1, abs=1e-4)
    assert 1 / plane.max() == pytest.approx(np.pi / 4 * diameter**2, rel=0.03, abs=1)


@pytest.mark.parametrize("count", [5, 6, 7, 9])
@pytest.mark.parametrize("turn_deg", [0.0, 17.0])
def test_sides_reach_as_far_as_their_corners_and_no_farther(count: int, turn_deg: float) -> None:
    plane = pupil(80.0, Blades(count, turn_deg))
    y, x = np.indices(plane.shape) - plane.shape[0] // 2
    angle = np.degrees(np.arctan2(y, x))
    far = np.hypot(x, y)[plane > plane.max() / 2]
    corner = np.abs((angle[plane > plane.max() / 2] - turn_deg + 180 / count) % (360 / count))
    at_corners = far[np.abs(corner - 180 / count) < 3].max()
    between = far[np.minimum(corner, 360 / count - corner) < 3].max()
    assert between / at_corners == pytest.approx(np.cos(np.pi / count), abs=0.03)


def test_bent_blades_are_nearly_round() -> None:
    straight, bent, round_one = (
        pupil(40.0, b) for b in (Blades(5, 0.0), Blades(5, 0.0, 0.2), None)
    )
    off = [float(np.abs(p - round_one).sum()) for p in (straight, bent)]
    assert off[1] < 0.3 * off[0]
