"""Whose frame it is, what size its sensor seems to have, and what became of each spot."""

from __future__ import annotations

from typing import Any

import pytest
from hypothesis import given
from hypothesis import strategies as st

from neatpatch.core.compare.comparing_maps import compare
from neatpatch.core.compare.comparison import Comparison
from neatpatch.core.visit.body import Body
from neatpatch.core.visit.camera_recognition import (
    USUAL_FORMATS_MM,
    Candidate,
    Clues,
    Recognised,
    guessed_sensor_mm,
    recognise,
    size_doubt,
)
from neatpatch.core.visit.spot_fates import spot_trails
from neatpatch.core.visit.trail import TrailEntry, TrailFrame, TrailStep
from tests.core.made_maps import spot, spot_map

NAME = "Fennick Judge D"


def candidate(
    body_id: int, *, same: bool | None = None, waits: bool = False, **body: Any
) -> Candidate:
    known = {"name": f"Body {body_id}", "sensor_mm": (36.0, 24.0), "camera_name": NAME, **body}
    return Candidate(body_id, Body.model_validate(known), same, waits)


def seen(*candidates: Candidate, serial: str = "", **record: Any) -> Recognised | None:
    return recognise(candidates, spot_map(**record).frames[0], Clues(serial=serial))


def test_the_sensor_comes_before_whatever_a_file_says() -> None:
    mine = candidate(1, same=True, camera_name="Other", serial="9", sensor_mm=(17.3, 13.0))
    named = candidate(2, serial="7")
    assert seen(named, mine, serial="7") == Recognised(1, "sensor")


def test_a_serial_number_tells_two_of_one_model_apart() -> None:
    pair = candidate(1, serial="41-0077"), candidate(2, serial="41-0078")
    assert seen(*pair, serial="410078") == Recognised(2, "serial")
    assert seen(*pair) is None
    assert seen(*pair, serial="99") is None


def test_a_name_is_taken_where_one_body_only_has_it_and_nothing_speaks_against_it() -> None:
    assert seen(candidate(1), candidate(2, camera_name="Tarn")) == Recognised(1, "name")
    assert seen(candidate(1), candidate(2)) is None
    assert seen(candidate(1, same=False)) is None
    assert seen(candidate(1, serial="5"), serial="6") is None
    assert seen(candidate(1, sensor_mm=(17.3, 13.0))) is None
    assert seen(candidate(1), camera=None) is None


def test_a_new_body_whose_visit_waits_takes_a_frame_of_no_other() -> None:
    new = candidate(3, camera_name=None, waits=True)
    assert seen(new) == Recognised(3, "visit")
    assert seen(new, camera=None) == Recognised(3, "visit")
    assert seen(new, candidate(4, camera_name=None, waits=True)) is None
    assert seen(new, candidate(1), candidate(2)) is None
    assert seen(candidate(3, camera_name=None)) is None


def test_a_serial_of_another_model_is_not_believed() -> None:
    assert seen(candidate(1, camera_name="Tarn", serial="7"), serial="7") is None


@pytest.mark.parametrize("size", USUAL_FORMATS_MM)
def test_a_format_is_guessed_from_the_equivalent_focal_length(size: tuple[float, float]) -> None:
    width = 4000
    record = spot_map(
        width_px=width,
        height_px=round(width * size[1] / size[0]),
        sensor_mm=None,
        focal_length_mm=50.0,
    ).frames[0]
    factor = 43.267 / (size[0] ** 2 + size[1] ** 2) ** 0.5
    assert guessed_sensor_mm(record, Clues(equivalent_mm=round(50 * factor))) == size


def test_nothing_is_guessed_without_a_clue_or_against_the_shape() -> None:
    record = spot_map(sensor_mm=None).frames[0]
    assert guessed_sensor_mm(record, Clues()) is None
    assert guessed_sensor_mm(record, Clues(equivalent_mm=170)) is None, "3:2, but a factor of two"
    noted = spot_map(sensor_mm=(35.8, 23.9)).frames[0]
    assert guessed_sensor_mm(noted, Clues()) == (36.0, 24.0)
    odd = spot_map(sensor_mm=(30.0, 20.0)).frames[0]
    assert guessed_sensor_mm(odd, Clues()) == (30.0, 20.0)


def test_a_size_that_no_frame_of_a_body_has_the_shape_of_is_doubted() -> None:
    body = candidate(1).body
    square = spot_map(height_px=3000)
    assert "1.50 times" in size_doubt(body, [square])
    assert size_doubt(body, [square, spot_map()]) == ""
    assert size_doubt(body, [spot_map(width_px=2000, height_px=3000)]) == "", "held upright"
    assert size_doubt(body, []) == ""


def laid(before: TrailFrame, after: TrailFrame) -> Comparison:
    assert before.spot_map is not None
    assert after.spot_map is not None
    return compare(before.spot_map, after.spot_map)


DUST = [spot(f"d{i}", 300.0 + 260 * i, 250.0 + 150 * i) for i in range(8)]


def test_a_spot_is_followed_through_steps_until_it_goes() -> None:
    new = spot("n", 2500.0, 300.0)
    trail: list[TrailEntry] = [
        TrailFrame(id=1, spot_map=spot_map(*DUST)),
        TrailStep(id=2, step="auto_clean"),
        TrailFrame(id=3, spot_map=spot_map(*DUST[1:], fit=False)),
        TrailStep(id=4, step="air"),
        TrailFrame(id=5, spot_map=spot_map(*DUST[1:], new)),
    ]
    lives = spot_trails(trail, laid)
    assert set(lives) == {1, 5}, "an unfit frame tells nothing"
    gone = lives[1]["d0"]
    assert (gone.first, gone.traced) == (1, False)
    assert [(f.entry, f.steps, f.status) for f in gone.fates] == [
        (5, ("auto_clean", "air"), "gone")
    ]
    assert lives[5]["d3"] == lives[1]["d3"]
    assert lives[5]["d3"].fates[0].status == "stayed"
    assert (lives[5]["n"].first, lives[5]["n"].traced, lives[5]["n"].fates) == (5, True, ())


def test_where_frames_cannot_be_compared_lives_begin_anew() -> None:
    other = Comparison.model_validate(
        {
            **laid(
                TrailFrame(id=1, spot_map=spot_map(*DUST)),
                TrailFrame(id=2, spot_map=spot_map(*DUST)),
            ).model_dump(by_alias=True),
            "comparable": False,
        }
    )
    trail: list[TrailEntry] = [
        TrailFrame(id=1, spot_map=spot_map(*DUST)),
        TrailFrame(id=2, spot_map=None),
        TrailFrame(id=3, spot_map=spot_map(*DUST)),
    ]
    lives = spot_trails(trail, lambda _before, _after: other)
    assert {(life.first, life.traced) for life in lives[3].values()} == {(3, False)}
    assert spot_trails([], laid) == {}


@pytest.mark.long
@given(st.text(max_size=12), st.text(max_size=12), st.sampled_from([None, True, False]))
def test_never_two_and_never_one_told_to_be_another(
    name: str, serial: str, same: bool | None
) -> None:
    a, b = candidate(1, camera_name=name or None, serial=serial), candidate(2, same=same)
    found = seen(a, b, serial=serial)
    assert found is None or found.body_id in (1, 2)
    if same:
        assert found == Recognised(2, "sensor")
    if same is False:
        assert found is None or found.body_id == 1
