"""What keeps its place is dust, what travels is the scene."""

from __future__ import annotations

from dataclasses import replace

import numpy as np
import pytest

from neatpatch.core.measure.region_measures import RegionMeasures
from neatpatch.core.measure.series import added_up, place_in_series

SHAPE = (2000, 3000)


def thing(x: float, y: float, snr: float = 50.0, loss: float = 20.0) -> RegionMeasures:
    return RegionMeasures(
        x_px=x,
        y_px=y,
        loss_px2=loss,
        depth=0.2,
        snr=snr,
        variance=(9.0, 9.0),
        angle_deg=0.0,
        area_px=200,
        profile=np.zeros(3),
        profile_step_px=1,
        length_px=12.0,
        fwhm_px=12.0,
        course_px=np.zeros((0, 2)),
        extent_px=12.0,
        fill=0.9,
        spread_px2=8.0,
        hollow=1.0,
        edge_px=5.0,
        noise=0.01,
        at_border=False,
    )


def dust(seed: int = 4, count: int = 14) -> list[RegionMeasures]:
    rng = np.random.default_rng(seed)
    places = rng.uniform([100, 100], [2900, 1900], (count, 2))
    return [thing(float(x), float(y), loss=float(5 + 3 * i)) for i, (x, y) in enumerate(places)]


def shifted(
    things: list[RegionMeasures], scale: float, dx: float, dy: float
) -> list[RegionMeasures]:
    return [
        replace(
            m,
            x_px=1499.5 + scale * (m.x_px - 1499.5) + dx,
            y_px=999.5 + scale * (m.y_px - 999.5) + dy,
        )
        for m in things
    ]


def test_one_frame_alone_judges_nothing() -> None:
    found = place_in_series([dust()], SHAPE)
    assert all(p.seen_in == 1 and not p.moves for p in found)


def test_dust_stays_under_another_exit_pupil_and_marks_travel() -> None:
    mine, marks = dust(), dust(9, 6)
    frames = [
        mine + marks,
        shifted(mine, 0.997, 0.8, -0.4) + shifted(marks, 1.0, 210, -140),
        shifted(mine, 1.002, -0.5, 0.2) + shifted(marks, 1.0, -160, 190),
    ]
    found = place_in_series(frames, SHAPE)
    assert [p.seen_in for p in found[: len(mine)]] == [3] * len(mine)
    assert all(p.moves for p in found[len(mine) :])


def test_a_faint_thing_not_found_again_is_not_called_scene() -> None:
    mine = dust()
    faint = thing(1500, 1000, snr=7.0, loss=2.0)
    found = place_in_series([[*mine, faint], shifted(mine, 1.0, 0.3, 0.1)], SHAPE)
    assert found[-1].seen_in == 1
    assert not found[-1].moves


def test_an_empty_second_frame_moves_all_that_should_have_shown() -> None:
    found = place_in_series([dust(), []], SHAPE)
    assert all(p.moves for p in found)
    assert place_in_series([[], dust()], SHAPE) == []


def test_what_is_seen_again_adds_up_by_its_strength() -> None:
    weak = replace(thing(10, 10), depth=0.1, snr=10.0, loss_px2=10.0)
    strong = replace(thing(10, 10), depth=0.2, snr=30.0, loss_px2=12.0)
    found = added_up(weak, [strong])
    assert found.depth == pytest.approx((0.1 * 100 + 0.2 * 900) / 1000)
    assert found.loss_px2 == pytest.approx(11.8)
    assert found.snr == pytest.approx(np.hypot(10, 30))
    assert (found.x_px, found.y_px) == (weak.x_px, weak.y_px)
    assert added_up(weak, []).snr == pytest.approx(weak.snr)
