"""Frames that the camera corrected for its lens, laid by the fingerprint alone."""

from __future__ import annotations

import numpy as np
import pytest

from neatpatch.core.sensor.correction_field import correction_field_of
from neatpatch.core.sensor.fingerprint import turned
from neatpatch.core.sensor.lens_correction import Correction
from neatpatch.core.sensor.registration import register
from neatpatch.simulation import pictures
from tests.core.sensor.test_fingerprint import Light, frame, printed, shot


def corrected(light: Light, by: Correction) -> Light:
    """A picture whose places went where the correction takes them."""
    return pictures.corrected(light, by.radial, by.scale, by.second)


def worst_px(found: Correction | None, by: Correction) -> float:
    """How far places over the whole frame are misplaced at most."""
    assert found is not None
    height, width = printed(shot(1, 1)).shape
    x, y = np.meshgrid(np.linspace(-width / 2, width / 2, 13), np.linspace(-height / 2, height / 2))
    off = np.stack([x.ravel(), y.ravel()], axis=1)
    reach = float(np.hypot(height, width)) / 2
    return float(np.hypot(*(found.apply(off, reach) - by.apply(off, reach)).T).max())


@pytest.mark.long
@pytest.mark.parametrize(
    "by", [Correction(1.02, -0.03), Correction(0.985, 0.025), Correction(1.012, -0.02)]
)
def test_a_corrected_frame_is_of_the_same_sensor(by: Correction) -> None:
    found = register(printed(shot(1, 1)), frame(corrected(shot(1, 2), by)))
    assert found.same is True
    assert found.lens is not None
    assert found.lens.radial == pytest.approx(by.radial, abs=0.0005)
    assert found.lens.second == 0.0
    assert worst_px(found.lens, by) < 0.5
    assert found.placement is not None
    assert found.placement.plain


@pytest.mark.long
@pytest.mark.parametrize(
    "by",
    [
        Correction(1.02, -0.05, 0.03),
        Correction(1.01, -0.02, 0.012),
        Correction(0.99, 0.03, -0.02),
        Correction(1.005, -0.03, 0.03),
    ],
)
def test_a_correction_that_turns_about_on_its_way_out_is_met_by_its_tiles(by: Correction) -> None:
    found = register(printed(shot(1, 1)), frame(corrected(shot(1, 2), by)))
    assert found.same is True
    assert worst_px(found.lens, by) < 2.0


@pytest.mark.long
@pytest.mark.parametrize("by", [Correction(1.0, 0.008), Correction(1.004, -0.006)])
def test_a_slight_correction_is_told_though_the_frame_agrees_as_it_is(by: Correction) -> None:
    reference, own = printed(shot(1, 1)), frame(corrected(shot(1, 2), by))
    plain = register(reference, own, corrected=False)
    assert (plain.same, plain.lens) == (True, None)
    found = register(reference, own)
    assert found.strength == plain.strength
    assert worst_px(found.lens, by) < 0.6


def test_tiles_that_agree_nowhere_leave_what_was_found() -> None:
    here, there = (turned(printed(shot(body, body)), 0) for body in (1, 2))
    before = Correction(1.01, -0.02)
    assert correction_field_of(here, there, before).correction == before
    small = correction_field_of(here[:90, :90], there[:90, :90], before)
    assert (small.correction, small.moved) == (before, 0.0)


@pytest.mark.long
def test_a_corrected_frame_may_be_turned_as_well() -> None:
    by = Correction(1.02, -0.03)
    turned = np.ascontiguousarray(np.rot90(corrected(shot(1, 2), by)))
    found = register(printed(shot(1, 1)), frame(turned))
    assert found.same is True
    assert found.placement is not None
    assert found.placement.turn == 1
    assert found.lens is not None


@pytest.mark.long
def test_another_sensors_corrected_frame_is_another_sensors() -> None:
    by = Correction(1.02, -0.03)
    found = register(printed(shot(1, 1)), frame(corrected(shot(2, 2), by)))
    assert (found.same, found.placement, found.lens) == (False, None, None)


@pytest.mark.long
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
    assert np.hypot(*(by.inverse().apply(there, 1442.0) - off).T).max() < 0.5
    both = by.then(by.inverse())
    assert (both.scale, both.radial, both.second) == pytest.approx((1.0, 0.0, 0.0), abs=1e-9)


def test_two_corrections_are_one_and_know_how_much_larger_they_draw() -> None:
    first, after = Correction(1.01, -0.02, 0.01), Correction(0.99, 0.015, -0.005)
    off = np.array([[900.0, 500.0], [-300.0, 700.0], [20.0, 0.0]])
    twice = after.apply(first.apply(off, 1442.0), 1442.0)
    assert np.hypot(*(first.then(after).apply(off, 1442.0) - twice).T).max() < 0.5
    beside = off + np.array([[1.0, 0.0], [0.0, 1.0], [0.0, 1.0]])
    across = off + np.array([[0.0, 1.0], [-1.0, 0.0], [-1.0, 0.0]])
    here, a, b = (first.apply(p, 1442.0) for p in (off, beside, across))
    (ax, ay), (bx, by) = (a - here).T, (b - here).T
    area = np.abs(ax * by - ay * bx)
    assert np.allclose(first.growth(off, 1442.0) ** 2, area, rtol=2e-3)
