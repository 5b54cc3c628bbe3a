"""compare and advise on the command line."""

from __future__ import annotations

import json
from pathlib import Path
from typing import Any

import numpy as np
import pytest

from neatpatch.simulation import Camera, expose, scatter
from neatpatch.simulation.camera import developed
from neatpatch.simulation.frames import write_picture
from tests.cli.test_cli import run
from tests.core.advice.situations import facts
from tests.core.made_maps import spot, spot_map


def test_compare_takes_frames_and_maps(
    small_jpeg: Path,
    tmp_path: Path,
    monkeypatch: pytest.MonkeyPatch,
    capsys: pytest.CaptureFixture[str],
) -> None:
    run(monkeypatch, "map", str(small_jpeg), "--sensor", "23.5x15.6", "--json")
    kept = tmp_path / "map.json"
    kept.write_text(capsys.readouterr().out)
    assert (
        run(monkeypatch, "compare", str(kept), str(small_jpeg), "--sensor", "23.5x15.6", "--json")
        == 0
    )
    found = json.loads(capsys.readouterr().out)
    assert {"schema", "comparable", "why_not", "alignment", "spots", "summary"} <= set(found)
    assert found["schema"] == "neatpatch.compare/1"
    assert {"scale", "shift_px", "radial", "residual_px"} <= set(found["alignment"])
    assert found["same_sensor"] is None
    assert set(found["fingerprint"]) == {"strength", "limit"}
    assert {s["status"] for s in found["spots"]} == {"stayed"}
    assert run(monkeypatch, "compare", str(kept), str(kept)) == 0
    assert "stayed" in capsys.readouterr().out


def test_compare_tells_one_sensor_turned_or_spotless_from_another(
    tmp_path: Path, monkeypatch: pytest.MonkeyPatch, capsys: pytest.CaptureFixture[str]
) -> None:
    def shot(name: str, camera: str, specks: int, seed: int, turn: int = 0) -> str:
        body = Camera(name=camera, width_px=2400, fixed_pattern=0.004)
        dirt = scatter({"speck": specks}, body.sensor_mm, 1.5, seed)
        picture = developed(expose(body, dirt, seed=seed).mosaic)
        path = tmp_path / f"{name}.jpg"
        return str(write_picture(path, np.rot90(picture, turn)))

    def compared(before: str, after: str) -> dict[str, Any]:
        assert run(monkeypatch, "compare", before, after, "--sensor", "23.5x15.6", "--json") == 0
        return dict(json.loads(capsys.readouterr().out))

    before = shot("before", "Judge One", 9, 1)
    spotless = compared(before, shot("after", "Judge One", 0, 2, turn=2))
    assert spotless["same_sensor"] is True
    assert spotless["fingerprint"]["strength"] > spotless["fingerprint"]["limit"]
    assert spotless["comparable"] is True
    assert spotless["alignment"]["turn_deg"] == 180
    assert spotless["summary"]["gone"] == spotless["summary"]["before"] > 0
    strange = compared(before, shot("strange", "Judge Two", 7, 3))
    assert strange["same_sensor"] is False
    assert strange["comparable"] is False
    assert strange["spots"] == []
    assert set(strange["summary"].values()) == {0}


def test_advise_prints_one_json_object_of_the_contract(
    tmp_path: Path, monkeypatch: pytest.MonkeyPatch, capsys: pytest.CaptureFixture[str]
) -> None:
    path = tmp_path / "facts.json"
    path.write_text(json.dumps(facts()))
    assert run(monkeypatch, "advise", str(path), "--json") == 0
    found = json.loads(capsys.readouterr().out)
    keys = {"schema", "decision", "title", "why", "cautions", "barred", "needs", "alternatives"}
    assert keys <= set(found)
    assert found["decision"] == "lift"
    assert set(found["cautions"][0]) == {"code", "text", "importance", "said_before"}
    assert set(found["barred"][0]) == {"action", "code", "text", "always"}
    assert run(monkeypatch, "advise", str(path)) == 0
    text = capsys.readouterr().out
    assert "Lift the specks off (lift)" in text
    assert "Not now:" in text


@pytest.mark.parametrize(
    ("content", "words"),
    [
        ("{", "not JSON"),
        ("[]", "one JSON object"),
        ('{"camera": {"colour": 1}}', "camera.colour is not a known field"),
        ('{"room": {"humidity_percent": 130}}', "room.humidity_percent"),
        (None, "no such file"),
    ],
)
def test_bad_facts_are_one_plain_line(
    content: str | None,
    words: str,
    tmp_path: Path,
    monkeypatch: pytest.MonkeyPatch,
    capsys: pytest.CaptureFixture[str],
) -> None:
    path = tmp_path / "facts.json"
    if content is not None:
        path.write_text(content)
    assert run(monkeypatch, "advise", str(path), "--json") == 2
    out = capsys.readouterr()
    assert out.out == ""
    assert out.err.count("\n") == 1
    assert words in out.err


def test_a_folder_to_watch_must_be_there(
    tmp_path: Path, monkeypatch: pytest.MonkeyPatch, capsys: pytest.CaptureFixture[str]
) -> None:
    gone = str(tmp_path / "gone")
    assert run(monkeypatch, "serve", "--data", str(tmp_path / "d"), "--watch", gone) == 2
    assert "no such folder" in capsys.readouterr().err


PLANS: list[tuple[list[str], set[str]]] = [
    (
        ["swab", "--sensor", "36x24", "--swab", "24"],
        {"fits", "lanes", "overlap_mm", "swabs", "drops", "strokes", "warnings"},
    ),
    (["dab", "--sensor", "36x24", "--tip", "8x6", "--whole"], {"dabs", "patches"}),
    (
        ["dry", "--temperature", "20", "--humidity", "45", "--fluid", "mild"],
        {"relative_rate", "minutes", "dew_point_c", "verdict", "why"},
    ),
    (["loupe", "--flange", "18", "--loupe-range", "40-46"], {"fits", "spacer_mm", "why"}),
    (
        ["shoot", "--focal-mm", "85", "--smallest-f", "22", "--ev100", "9"],
        {"f_number", "iso", "exposure_s", "focus", "target_distance_m", "move", "steps"},
    ),
    (
        ["power", "--lockup-minutes", "20", "--battery", "80"],
        {"lasts_s", "warn_s", "stop_s", "why"},
    ),
]


@pytest.mark.parametrize(("words", "keys"), PLANS, ids=[p[0][0] for p in PLANS])
def test_plans_print_what_the_contract_names(
    words: list[str],
    keys: set[str],
    monkeypatch: pytest.MonkeyPatch,
    capsys: pytest.CaptureFixture[str],
) -> None:
    assert run(monkeypatch, "plan", *words, "--json") == 0
    found = json.loads(capsys.readouterr().out)
    assert keys <= set(found)
    if "strokes" in found:
        assert {"swab", "face", "from", "to"} <= set(found["strokes"][0])
    assert run(monkeypatch, "plan", *words) == 0
    assert ":" in capsys.readouterr().out


def test_a_dab_plan_covers_the_spots_of_a_map(
    small_jpeg: Path,
    tmp_path: Path,
    monkeypatch: pytest.MonkeyPatch,
    capsys: pytest.CaptureFixture[str],
) -> None:
    for sensor in (["--sensor", "23.5x15.6"], []):
        run(monkeypatch, "map", str(small_jpeg), *sensor, "--json")
        kept = tmp_path / f"map{len(sensor)}.json"
        kept.write_text(capsys.readouterr().out)
    words = ["plan", "dab", "--sensor", "23.5x15.6", "--tip", "6x4", "--json", "--map"]
    assert run(monkeypatch, *words, str(tmp_path / "map2.json")) == 0
    found = json.loads(capsys.readouterr().out)
    mapped = json.loads((tmp_path / "map2.json").read_text())
    ids = {s["id"] for s in mapped["spots"] if s["site"] == "sensor"}
    assert {name for dab in found["dabs"] for name in dab["covers"]} == ids
    assert run(monkeypatch, *words, str(tmp_path / "map0.json")) == 0
    unsized = json.loads(capsys.readouterr().out)
    assert [d["covers"] for d in unsized["dabs"]] == [d["covers"] for d in found["dabs"]]


def test_presses_are_given_in_the_pictures_axes_or_facing_the_mount(
    tmp_path: Path, monkeypatch: pytest.MonkeyPatch, capsys: pytest.CaptureFixture[str]
) -> None:
    kept = tmp_path / "map.json"
    high = spot("high", 300, 300)
    kept.write_text(spot_map(high).model_dump_json())
    words = ["plan", "dab", "--sensor", "36x24", "--tip", "4x3", "--json", "--map", str(kept)]
    found = {}
    for axes in ("picture", "mount"):
        assert run(monkeypatch, *words, "--axes", axes) == 0
        found[axes] = json.loads(capsys.readouterr().out)
        assert found[axes]["axes"] == axes
    assert high.y_mm is not None
    for axes, y_mm in (("picture", high.y_mm), ("mount", -high.y_mm)):
        [dab] = found[axes]["dabs"]
        assert dab["covers"] == ["high"]
        assert abs(dab["y_mm"] - y_mm) <= 1.5
    assert run(monkeypatch, "plan", "swab", "--sensor", "36x24", "--swab", "24", "--json") == 0
    assert json.loads(capsys.readouterr().out)["axes"] == "mount"
    assert run(monkeypatch, *words, "--axes", "sky") == 2


def test_a_lift_leaves_out_what_may_lie_elsewhere_and_says_so(
    tmp_path: Path, monkeypatch: pytest.MonkeyPatch, capsys: pytest.CaptureFixture[str]
) -> None:
    kept = tmp_path / "map.json"
    kept.write_text(
        spot_map(spot("a", 300, 300), spot("u", 2500, 300, site="unsure")).model_dump_json()
    )
    words = ["plan", "dab", "--tip", "6x4", "--json", "--map", str(kept), "--sensor"]
    assert run(monkeypatch, *words, "36x24") == 0
    out, err = capsys.readouterr()
    assert [d["covers"] for d in json.loads(out)["dabs"]] == [["a"]]
    assert "1 mark that may not lie on the sensor is left out" in err
    assert run(monkeypatch, *words, "17.3x13") == 2
    assert "lie outside a sensor of 17.3 x 13 mm" in capsys.readouterr().err


@pytest.mark.parametrize(
    ("text", "wrong"),
    [("{", "not JSON"), ("[]", "not a spot map"), ('{"frames": []}', "not a spot map")],
)
def test_a_file_that_is_no_map_is_named(
    text: str,
    wrong: str,
    tmp_path: Path,
    monkeypatch: pytest.MonkeyPatch,
    capsys: pytest.CaptureFixture[str],
) -> None:
    kept = tmp_path / "odd.json"
    kept.write_text(text)
    assert run(monkeypatch, "predict", str(kept), "--f", "8") == 2
    err = capsys.readouterr().err
    assert wrong in err
    assert "odd.json" in err
    assert len(err.strip().splitlines()) == 1


@pytest.mark.parametrize(
    ("words", "wrong"),
    [
        (["swab", "--sensor", "36x24", "--swab", "-3"], "outside 2 to 80 mm"),
        (["swab", "--sensor", "36", "--swab", "24"], "is not a size"),
        (["swab", "--sensor", "36x24", "--swab", "24", "--stroke", "zigzag"], "Use one of"),
        (["dab", "--sensor", "36x24", "--tip", "8x6"], "either --map MAP.json or --whole"),
        (["dab", "--sensor", "36x24", "--tip", "0x6", "--whole"], "--tip"),
        (["dry", "--temperature", "20", "--humidity", "130"], "outside 0 to 100 %"),
        (["dry", "--temperature", "20", "--humidity", "40", "--fluid", "beer"], "Use one of"),
        (["loupe", "--flange", "18", "--loupe-range", "wide"], "is no range"),
        (["shoot", "--focal-mm", "1"], "outside 4 to 2000 mm"),
    ],
)
def test_impossible_plans_are_one_clear_sentence(
    words: list[str],
    wrong: str,
    monkeypatch: pytest.MonkeyPatch,
    capsys: pytest.CaptureFixture[str],
) -> None:
    assert run(monkeypatch, "plan", *words) == 2
    out = capsys.readouterr()
    assert wrong in out.err
    assert out.err.count("\n") == 1


def test_air_and_swab_plans_speak_of_a_map(
    small_jpeg: Path,
    tmp_path: Path,
    monkeypatch: pytest.MonkeyPatch,
    capsys: pytest.CaptureFixture[str],
) -> None:
    run(monkeypatch, "map", str(small_jpeg), "--sensor", "23.5x15.6", "--json")
    found = tmp_path / "map.json"
    found.write_text(capsys.readouterr().out)
    on_map = ["--sensor", "23.5x15.6", "--map", str(found), "--json"]
    assert run(monkeypatch, "plan", "air", *on_map) == 0
    blown = json.loads(capsys.readouterr().out)
    assert blown["aims"][0]["come_from"].startswith("slanting")
    assert "never touching" in blown["cautions"][1]
    assert run(monkeypatch, "plan", "swab", "--swab", "16", "--hand", "left", *on_map) == 0
    swabbed = json.loads(capsys.readouterr().out)
    assert swabbed["strokes"][0]["passes"]
    assert swabbed["strokes"][0]["from"][0] > 0
    assert run(monkeypatch, "plan", "shoot", "--trial", str(found), "--json") == 0
    assert json.loads(capsys.readouterr().out)["exposure_s"] > 0


@pytest.mark.parametrize(
    ("words", "said"),
    [
        (["dry", "--temperature", "20", "--humidity", "130"], "outside 0 to 100 %"),
        (["dry", "--temperature", "20", "--humidity", "40", "--film-um", "thin"], "no range"),
        (["swab", "--sensor", "36x24", "--swab", "-4"], "outside 2 to 80 mm"),
        (["swab", "--sensor", "36x24", "--swab", "24", "--fluid", "soda"], "is not known"),
        (["swab", "--sensor", "36x24", "--swab", "24", "--hand", "third"], "is not known"),
        (["power", "--lockup-minutes", "-1", "--battery", "80"], "outside 0 to 600"),
        (
            ["dab", "--sensor", "36x24", "--tip", "8x6", "--whole", "--patches-per-sheet", "0"],
            "Give 1 or more",
        ),
    ],
)
def test_impossible_numbers_get_one_sentence(
    words: list[str],
    said: str,
    monkeypatch: pytest.MonkeyPatch,
    capsys: pytest.CaptureFixture[str],
) -> None:
    assert run(monkeypatch, "plan", *words) == 2
    told = capsys.readouterr()
    assert told.out == ""
    assert said in told.err
    assert len(told.err.strip().splitlines()) == 1
