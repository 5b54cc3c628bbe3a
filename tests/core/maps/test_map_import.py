"""Maps written elsewhere, with the contract's fields alone, work like our own."""

from __future__ import annotations

import json
from typing import Any

import pytest
from pydantic import ValidationError

from neatpatch.core.common.records import SpotMap
from neatpatch.core.compare.comparing_maps import compare
from neatpatch.core.maps.map_import import import_map
from neatpatch.core.maps.prediction import predict
from tests.core.made_maps import PITCH_UM, SENSOR, spot, spot_map

_OURS = {
    "frames": {"sensor_mm", "notes"},
    "spots": {"angle_deg", "width_px", "particle_px", "blur_px"},
}
DUST = spot_map(
    spot("a", 400, 300, depth=0.3, outer_px=9.0, particle_px=3.0, particle_um=36.0, blur_px=5.63),
    spot("b", 2500, 1700, depth=0.1, outer_px=7.7, particle_px=1.8, particle_um=21.6, blur_px=5.63),
    spot(
        "f",
        1500,
        900,
        kind="fibre",
        depth=0.4,
        outer_px=85.7,
        particle_px=2.0,
        particle_um=24.0,
        width_px=5.3,
        blur_px=5.63,
        length_um=960.0,
    ),
    spot(
        "d",
        700,
        1500,
        kind="droplet",
        depth=0.1,
        outer_px=45.7,
        particle_px=14.0,
        particle_um=168.0,
        blur_px=5.63,
    ),
    spot(
        "l",
        1000,
        600,
        kind="soft",
        site="lens",
        depth=0.02,
        outer_px=120.0,
        particle_px=15.0,
        particle_um=180.0,
        blur_px=100.0,
        height_mm=20.27,
    ),
)


def told(spot_map_: SpotMap, **changes: Any) -> dict[str, Any]:
    """The contract's fields of a map."""
    given: dict[str, Any] = json.loads(spot_map_.model_dump_json())
    for part, ours in _OURS.items():
        given[part] = [{k: v for k, v in row.items() if k not in ours} for row in given[part]]
    given["optics"] = {k: given["optics"][k] for k in ("height_mm", "height_source", "blur_um")}
    given["frames"][0].update(changes)
    return given


def test_a_complete_map_comes_back_as_it_was() -> None:
    given = json.loads(spot_map(DUST.spots[0], DUST.spots[1]).model_dump_json())
    found = import_map(given)
    assert found.optics == DUST.optics
    for mine, back in zip(DUST.spots, found.spots, strict=False):
        assert back == mine.model_copy(update={"zone": back.zone})


def test_what_was_not_told_is_worked_out() -> None:
    found = import_map(told(DUST))
    assert found.frames[0].sensor_mm == pytest.approx(SENSOR)
    assert found.optics.blur_px == pytest.approx(5.63, abs=0.01)
    for mine, back in zip(DUST.spots, found.spots, strict=True):
        assert back.particle_px == pytest.approx(mine.particle_px, rel=1e-3)
        assert back.blur_px == pytest.approx(mine.blur_px, rel=0.01)


@pytest.mark.parametrize("f_number", [11.0, 8.0, 4.0])
def test_it_is_predicted_as_ours_is(f_number: float) -> None:
    ours, theirs = predict(DUST, f_number).spots, predict(import_map(told(DUST)), f_number).spots
    for mine, back in zip(ours, theirs, strict=True):
        assert back.depth == pytest.approx(mine.depth, rel=0.03)
        assert back.outer_px == pytest.approx(mine.outer_px, rel=0.02)


def test_without_a_pitch_the_blur_comes_from_the_specks() -> None:
    given = told(DUST, pitch_um=None)
    given["optics"] = {"height_mm": None, "height_source": "assumed", "blur_um": None}
    for row in given["spots"]:
        row |= {"x_mm": None, "y_mm": None, "outer_um": None, "particle_um": None}
    found = import_map(given)
    assert found.optics.blur_px == pytest.approx(5.63, rel=0.05)
    assert found.spots[0].particle_px == pytest.approx(3.0, rel=0.1)
    assert found.spots[0].x_mm is None
    sized = import_map(given, SENSOR)
    assert sized.frames[0].pitch_um == PITCH_UM
    assert sized.spots[0].x_mm == pytest.approx(DUST.spots[0].x_mm, abs=1e-3)
    assert sized.spots[0].outer_um == pytest.approx(108.0)


def test_an_upright_frame_has_its_sensor_upright() -> None:
    found = import_map(told(DUST, pitch_um=None, width_px=2000, height_px=3000), SENSOR)
    assert found.frames[0].sensor_mm == (24.0, 36.0)
    assert found.frames[0].pitch_um == PITCH_UM


def test_smears_without_a_width_get_one_from_their_light() -> None:
    smear = spot(
        "r",
        100,
        100,
        kind="residue",
        depth=0.05,
        outer_px=205.7,
        particle_px=18.0,
        particle_um=216.0,
        length_um=2400.0,
    )
    across = import_map(told(spot_map(smear))).spots[0].width_px
    assert across == pytest.approx(254.5 / (0.05 * 200), rel=0.01)


def test_fields_and_words_of_others_are_left_aside() -> None:
    given = told(DUST)
    given["made_with"] = "something else"
    given["spots"][0] |= {"zone": "upper-left third", "colour": "grey"}
    assert import_map(given).spots[0].zone == "top left"


def test_what_is_no_map_is_refused() -> None:
    no_maps: list[dict[str, Any]] = [{}, {"frames": []}, {**told(DUST), "spots": [{"id": 3}]}]
    for wrong in no_maps:
        with pytest.raises(ValidationError):
            import_map(wrong)


def test_maps_of_others_are_compared_even_with_nothing_known_of_the_particles() -> None:
    before, after = told(DUST), told(spot_map(*DUST.spots[1:4]))
    for given in (before, after):
        for row in given["spots"]:
            row |= {"particle_um": None, "depth": 0.0}
    found = compare(import_map(before), import_map(after))
    assert {s.before: s.status for s in found.spots}["a"] == "gone"
    assert found.summary.stayed == 3
