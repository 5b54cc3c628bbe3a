from __future__ import annotations

import json
import subprocess
import sys
from pathlib import Path

import numpy as np
import pytest
from PIL import Image

from neatpatch.cli.main import main
from neatpatch.core.common.records import SpotMap
from neatpatch.simulation import Camera, expose, scatter
from neatpatch.simulation.camera import developed
from neatpatch.simulation.frames import write_picture
from neatpatch.store.datafolder import Library


def run(monkeypatch: pytest.MonkeyPatch, *words: str) -> int:
    monkeypatch.setattr("sys.argv", ["neatpatch", *words])
    try:
        main()
    except SystemExit as stop:
        return int(stop.code or 0)
    return 0


def test_a_series_that_was_not_moved_says_so(
    tmp_path: Path, monkeypatch: pytest.MonkeyPatch, capsys: pytest.CaptureFixture[str]
) -> None:
    camera = Camera(width_px=1200)
    dust = scatter({"speck": 6}, camera.sensor_mm, 1.5, 3)

    def shot(seed: int, place: int) -> str:
        picture = developed(expose(camera, dust, seed=seed, target_seed=place).mosaic)
        return str(write_picture(tmp_path / f"{seed}.jpg", picture))

    first, still, elsewhere = shot(1, 1), shot(2, 1), shot(3, 2)
    run(monkeypatch, "map", first, still, "--sensor", "23.5x15.6")
    assert "was not moved between these frames" in capsys.readouterr().out
    run(monkeypatch, "map", first, elsewhere, "--sensor", "23.5x15.6")
    assert "moved between" not in capsys.readouterr().out


def test_map_prints_one_json_object_of_the_contract(
    small_jpeg: Path, monkeypatch: pytest.MonkeyPatch, capsys: pytest.CaptureFixture[str]
) -> None:
    assert run(monkeypatch, "map", str(small_jpeg), "--sensor", "23.5x15.6", "--json") == 0
    out = capsys.readouterr()
    found = json.loads(out.out)
    assert out.err == ""
    assert found["schema"] == "neatpatch.map/1"
    assert set(found) >= {"schema", "frames", "fit", "checks", "optics", "spots", "summary"}
    frame_keys = "path sha256 format width_px height_px orientation f_number iso exposure_s "
    frame_keys += "focal_length_mm camera taken_at pitch_um"
    assert set(frame_keys.split()) <= set(found["frames"][0])
    spot_keys = "id x_px y_px x_mm y_mm zone kind site snr depth outer_px outer_um length_um "
    spot_keys += "particle_um height_mm shows_from_f seen_in"
    assert set(spot_keys.split()) <= set(found["spots"][0])
    assert set(found["summary"]) == {"count", "relevant", "by_kind", "covered_ppm"}
    assert SpotMap.model_validate(found).summary.count == len(found["spots"])


def test_predict_takes_a_map_and_an_aperture(
    small_jpeg: Path,
    tmp_path: Path,
    monkeypatch: pytest.MonkeyPatch,
    capsys: pytest.CaptureFixture[str],
) -> None:
    run(monkeypatch, "map", str(small_jpeg), "--sensor", "23.5x15.6", "--json")
    kept = tmp_path / "map.json"
    kept.write_text(capsys.readouterr().out)
    assert run(monkeypatch, "predict", str(kept), "--f", "8", "--json") == 0
    told = json.loads(capsys.readouterr().out)
    assert set(told) == {"schema", "f_number", "spots"}
    assert (told["schema"], told["f_number"]) == ("neatpatch.predict/1", 8)
    assert set(told["spots"][0]) == {"id", "depth", "outer_px", "noticed"}
    assert run(monkeypatch, "predict", str(kept), "--f", "8") == 0
    assert "visible" in capsys.readouterr().out
    for words, says in ((["--f", "900"], "outside"), (["--f", "8"], "not a spot map")):
        if says == "not a spot map":
            kept.write_text("{}")
        assert run(monkeypatch, "predict", str(kept), *words) == 2
        assert says in capsys.readouterr().err


def test_map_for_reading(
    small_jpeg: Path, monkeypatch: pytest.MonkeyPatch, capsys: pytest.CaptureFixture[str]
) -> None:
    assert run(monkeypatch, "map", str(small_jpeg)) == 0
    text = capsys.readouterr().out
    assert "1500 x 996 JPEG, f/22" in text
    assert "sensor's size is not known" in text


def broken(tmp_path: Path, content: bytes) -> str:
    path = tmp_path / "broken.jpg"
    path.write_bytes(content)
    return str(path)


@pytest.mark.parametrize(
    ("words", "says"),
    [
        (["map"], "Missing argument"),
        (["map", "--sensr"], "No such option"),
        (["nonsense"], "No such command"),
        (["map", "no-such.jpg"], "no-such.jpg: there is no such file"),
        (["map", "EMPTY"], "the file is empty"),
        (["map", "TEXT"], "not a picture"),
        (["map", "DOT"], "only 1 x 1 pixels"),
        (["map", "DOT", "--sensor", "wide"], "is not a size"),
        (["map", "DOT", "--sensor", "2350x1560"], "outside 3 to 120 mm"),
        (["map", "DOT", "--height-mm", "-1"], "outside 0.05 to 100 mm"),
        (["simulate", "--out", "x", "--seed", "-4"], "seed"),
    ],
)
def test_every_mistake_is_one_plain_line_and_exit_code_2(
    words: list[str],
    says: str,
    tmp_path: Path,
    monkeypatch: pytest.MonkeyPatch,
    capsys: pytest.CaptureFixture[str],
) -> None:
    dot = tmp_path / "dot.png"
    Image.fromarray(np.zeros((1, 1, 3), np.uint8)).save(dot)
    files = {
        "EMPTY": broken(tmp_path, b""),
        "TEXT": str(tmp_path / "t.jpg"),
        "DOT": str(dot),
    }
    (tmp_path / "t.jpg").write_text("words " * 40)
    assert run(monkeypatch, *(files.get(w, w) for w in words)) == 2
    out = capsys.readouterr()
    assert out.out == ""
    assert says in out.err
    assert out.err.count("\n") == 1
    assert "Traceback" not in out.err


def test_simulate_writes_a_frame_and_its_truth(
    tmp_path: Path, monkeypatch: pytest.MonkeyPatch, capsys: pytest.CaptureFixture[str]
) -> None:
    words = ["simulate", "--out", str(tmp_path), "--width-px", "800", "--specks", "4", "--dng"]
    assert run(monkeypatch, *words) == 0
    frame, truth = (Path(line) for line in capsys.readouterr().out.split())
    assert frame.suffix == ".dng"
    told = json.loads(truth.read_text())
    assert told["width_px"] == 800
    assert len(told["spots"]) == 4 + 2 + 3 + 1
    assert len(told["hot_pixels"]) == 12


def test_decoders_do_not_chatter(
    small_jpeg: Path,
    dusty_dng: Path,
    tmp_path: Path,
    capfd: pytest.CaptureFixture[str],
    monkeypatch: pytest.MonkeyPatch,
) -> None:
    for whole in (small_jpeg, dusty_dng):
        cut = tmp_path / f"cut{whole.suffix}"
        cut.write_bytes(whole.read_bytes()[: whole.stat().st_size // 2])
        assert run(monkeypatch, "map", str(cut)) == 2
        out = capfd.readouterr()
        assert out.err.count("\n") == 1
        assert out.err.startswith("neatpatch: ")


@pytest.mark.parametrize("change", [{"width_px": 0}, {"height_px": -3}, {"width_px": 10**12}])
def test_a_map_of_impossible_size_is_refused(
    change: dict[str, int],
    small_jpeg: Path,
    tmp_path: Path,
    monkeypatch: pytest.MonkeyPatch,
    capsys: pytest.CaptureFixture[str],
) -> None:
    run(monkeypatch, "map", str(small_jpeg), "--json")
    found = json.loads(capsys.readouterr().out)
    found["frames"][0].update(change)
    wrong = tmp_path / "wrong.json"
    wrong.write_text(json.dumps(found))
    assert run(monkeypatch, "compare", str(wrong), str(wrong)) == 2
    said = capsys.readouterr().err
    assert said.count("\n") == 1
    assert f"frames.0.{next(iter(change))}" in said


def test_places_that_are_no_numbers_are_refused(
    small_jpeg: Path,
    tmp_path: Path,
    monkeypatch: pytest.MonkeyPatch,
    capsys: pytest.CaptureFixture[str],
) -> None:
    run(monkeypatch, "map", str(small_jpeg), "--json")
    found = json.loads(capsys.readouterr().out)
    found["spots"][0]["x_px"] = float("nan")
    wrong = tmp_path / "wrong.json"
    wrong.write_text(json.dumps(found))
    assert run(monkeypatch, "compare", str(wrong), str(wrong)) == 2
    assert "spots.0.x_px" in capsys.readouterr().err


def test_a_fault_of_the_program_is_one_line_too(
    small_jpeg: Path, monkeypatch: pytest.MonkeyPatch, capsys: pytest.CaptureFixture[str]
) -> None:
    def broken(*_given: object) -> None:
        raise RuntimeError("odd")

    monkeypatch.setattr("neatpatch.core.measure.map_building.build_map", broken)
    assert run(monkeypatch, "map", str(small_jpeg)) == 1
    assert capsys.readouterr().err == (
        "neatpatch: this is a fault of Neat Patch (RuntimeError('odd')).\n"
    )


def test_help_loads_nothing_that_measures() -> None:
    code = (
        "import sys; sys.argv = ['neatpatch', '--help']\n"
        "from neatpatch.cli.main import main\n"
        "try: main()\nexcept SystemExit: pass\n"
        "print([m for m in ('numpy', 'cv2', 'scipy', 'pydantic', 'fastapi') if m in sys.modules])"
    )
    said = subprocess.run([sys.executable, "-c", code], check=True, capture_output=True, text=True)
    assert said.stdout.splitlines()[-1] == "[]"


def test_only_this_machine_may_be_served_on(
    tmp_path: Path, monkeypatch: pytest.MonkeyPatch, capsys: pytest.CaptureFixture[str]
) -> None:
    data = tmp_path / "data"
    assert run(monkeypatch, "serve", "--host", "0.0.0.0", "--data", str(data)) == 2
    assert "others could reach it" in capsys.readouterr().err
    assert not data.exists()


def test_everything_is_backed_up_checked_and_brought_back(
    tmp_path: Path, monkeypatch: pytest.MonkeyPatch, capsys: pytest.CaptureFixture[str]
) -> None:
    data, again = tmp_path / "data", tmp_path / "again"
    Library(data)
    archive = str(tmp_path / "all.zip")
    assert run(monkeypatch, "backup", archive, "--data", str(data)) == 0
    assert "0 originals and the database" in capsys.readouterr().out
    assert run(monkeypatch, "restore", archive, "--data", str(again)) == 0
    assert run(monkeypatch, "check", "--data", str(again)) == 0
    assert "all is well." in capsys.readouterr().out
    assert run(monkeypatch, "check", "--data", str(again), "--json") == 0
    told = json.loads(capsys.readouterr().out)
    assert (told["schema"], told["ok"], told["found"]) == ("neatpatch.check/1", True, [])
    assert run(monkeypatch, "restore", archive, "--data", str(again)) == 2
    assert "not empty" in capsys.readouterr().err
    (again / "neatpatch.sqlite3").write_bytes(b"no database" * 900)
    assert run(monkeypatch, "check", "--data", str(again)) == 1
    assert "Lost: The database is damaged" in capsys.readouterr().out
