"""`patch` and `arrivals` at the command line: the contract, refusals, nothing overwritten."""

from __future__ import annotations

import json
import os
import signal
import subprocess
import sys
from pathlib import Path
from typing import Any

import pytest
from PIL import Image

from neatpatch.simulation.frames import Recipe, write_simulated
from tests import dusty_pictures as dusty
from tests.cli.test_cli import run


@pytest.fixture(scope="module")
def map_file(tmp_path_factory: pytest.TempPathFactory) -> Path:
    folder = tmp_path_factory.mktemp("map")
    path = folder / "map.json"
    path.write_text(dusty.map_of(folder).model_dump_json())
    return path


def test_patch_prints_one_json_object_and_never_overwrites(
    tmp_path: Path,
    map_file: Path,
    monkeypatch: pytest.MonkeyPatch,
    capsys: pytest.CaptureFixture[str],
) -> None:
    folder = dusty.folder_of_pictures(tmp_path / "in", 2)
    (folder / "torn.jpg").write_bytes(b"\xff\xd8\xff torn")
    words = ["patch", str(folder), "--map", str(map_file), "--out", str(tmp_path / "out")]
    assert run(monkeypatch, *words, "--json") == 0
    out = capsys.readouterr()
    found = json.loads(out.out)
    assert found["schema"] == "neatpatch.patch/1"
    assert [Path(p["path"]).name for p in found["photos"]] == ["p0.jpg", "p1.jpg", "torn.jpg"]
    first, _, torn = found["photos"]
    keys = "path out f_number patched restored filled left alignment why_not"
    assert set(first) == set(keys.split())
    assert {"scale", "shift_px", "radial", "residual_px"} <= set(first["alignment"])
    assert first["patched"] == first["restored"] + first["filled"] > 0
    assert torn["out"] is None
    assert "damaged" in torn["why_not"]
    assert sorted(p.name for p in (tmp_path / "out").iterdir()) == ["p0.jpg", "p1.jpg"]
    written = (tmp_path / "out" / "p0.jpg").read_bytes()
    assert run(monkeypatch, *words) == 2
    assert "nothing is ever overwritten" in capsys.readouterr().err
    assert (tmp_path / "out" / "p0.jpg").read_bytes() == written


@pytest.mark.parametrize(
    ("words", "said"),
    [
        (["{pictures}", "--map", "none.json", "--out", "{out}"], "no such file"),
        (["{none}", "--map", "{map}", "--out", "{out}"], "no such file or folder"),
        (["{pictures}", "--map", "{map}", "--out", "{pictures}"], "nothing is ever overwritten"),
        (["{pictures}", "--map", "{map}", "--out", "{map}"], "is a file"),
        (["{pictures}", "--map", "{map}", "--out", "{out}", "--sensor", "big"], "not a size"),
        (["{pictures}", "--out", "{out}"], "--map"),
    ],
)
def test_patch_refuses_in_one_line(
    tmp_path: Path,
    map_file: Path,
    monkeypatch: pytest.MonkeyPatch,
    capsys: pytest.CaptureFixture[str],
    words: list[str],
    said: str,
) -> None:
    folder = dusty.folder_of_pictures(tmp_path / "in", 1)
    places = {
        "{pictures}": str(folder),
        "{map}": str(map_file),
        "{out}": str(tmp_path / "out"),
        "{none}": str(tmp_path / "none"),
    }
    assert run(monkeypatch, "patch", *(places.get(w, w) for w in words)) == 2
    line = capsys.readouterr().err
    assert said in line
    assert line.count("\n") == 1
    assert not (tmp_path / "out").exists()


def test_arrivals_prints_its_contract_and_serves_as_a_map(
    tmp_path: Path, year: Path, monkeypatch: pytest.MonkeyPatch, capsys: pytest.CaptureFixture[str]
) -> None:
    words = ["arrivals", str(year), "--sensor", "23.5x15.6"]
    assert run(monkeypatch, *words, "--json") == 0
    out = capsys.readouterr()
    found = json.loads(out.out)
    assert found["schema"] == "neatpatch.arrivals/1"
    assert {"spots", "frames_used", "frames_skipped"} <= set(found)
    keys = "id x_px y_px depth outer_px seen_in could_see confidence last_without first_with "
    keys += "last_with first_without_again"
    assert found["spots"]
    assert set(keys.split()) <= set(found["spots"][0])
    marks = tmp_path / "marks.json"
    marks.write_text(out.out)
    late = str(year / "d15.jpg")
    out_folder = str(tmp_path / "out")
    assert run(monkeypatch, "patch", late, "--map", str(marks), "--out", out_folder, "--json") == 0
    [photo] = json.loads(capsys.readouterr().out)["photos"]
    assert photo["patched"] >= 1
    assert run(monkeypatch, "arrivals", late) == 2
    assert "One picture has no history" in capsys.readouterr().err


def hears_ctrl_c() -> None:
    """A suite in the background ignores the signal, and so would all that it begins."""
    signal.signal(signal.SIGINT, signal.default_int_handler)


def test_ctrl_c_ends_a_long_run_at_once_and_keeps_what_was_done(
    tmp_path: Path, map_file: Path
) -> None:
    folder = dusty.folder_of_pictures(tmp_path / "in", 1)
    for n in range(40):
        (folder / f"again-{n}.jpg").write_bytes((folder / "p0.jpg").read_bytes())
    out = tmp_path / "out"
    words = ["patch", str(folder), "--map", str(map_file), "--out", str(out)]
    process = subprocess.Popen(
        [sys.executable, "-m", "neatpatch.cli.main", *words],
        stderr=subprocess.PIPE,
        text=True,
        start_new_session=True,
        preexec_fn=hears_ctrl_c,
    )
    assert process.stderr is not None
    assert "1 of 41" in process.stderr.readline()
    os.killpg(process.pid, signal.SIGINT)
    rest = process.communicate()[1]
    assert process.returncode == 130
    assert rest.splitlines()[-1] == "neatpatch: stopped. What was finished stays."
    written = list(out.iterdir())
    assert 1 <= len(written) < 41
    assert all(dusty.pixels(path).any() for path in written)
    assert [path for path in written if path.name.startswith(".")] == []


def test_habits_are_read_from_a_folder_and_nothing_in_it_is_touched(
    tmp_path: Path, monkeypatch: pytest.MonkeyPatch, capsys: pytest.CaptureFixture[str]
) -> None:
    for name, f_number in (("a.jpg", 8.0), ("b.jpg", 8.0), ("c.jpg", 5.6)):
        exif = Image.Exif()
        exif[0x8769] = {33437: f_number, 37386: 50.0}
        Image.new("RGB", (600, 400)).save(tmp_path / name, exif=exif)
    Image.new("RGB", (600, 400)).save(tmp_path / "none.png")
    (tmp_path / "torn.jpg").write_bytes(b"\xff\xd8\xff torn")
    (tmp_path / "notes.txt").write_text("no picture")
    write_simulated(Recipe(name="d", width_px=240, f_number=11.0, dng=True), tmp_path / "raw")
    (tmp_path / "a.dng").write_bytes(next((tmp_path / "raw").glob("*.dng")).read_bytes())
    before = {p: p.stat().st_mtime_ns for p in tmp_path.rglob("*")}
    assert run(monkeypatch, "habits", str(tmp_path), "--json") == 0
    found = json.loads(capsys.readouterr().out)
    assert found["schema"] == "neatpatch.habits/1"
    assert found["f_numbers"] == {"5.6": 1, "8": 2, "11": 1}
    assert found["focal_mm"] == {"50": 3, "85": 1}
    assert found["pictures"] == 5
    assert [Path(s["path"]).name for s in found["skipped"]] == ["torn.jpg"]
    assert {p: p.stat().st_mtime_ns for p in tmp_path.rglob("*")} == before
    assert run(monkeypatch, "habits", str(tmp_path)) == 0
    assert "f/8" in capsys.readouterr().out
    assert run(monkeypatch, "habits", str(tmp_path / "none")) == 2
    assert "no such file or folder" in capsys.readouterr().err


def test_verify_shows_what_a_copy_changed_and_finds_out_what_it_should_not(
    tmp_path: Path,
    map_file: Path,
    monkeypatch: pytest.MonkeyPatch,
    capsys: pytest.CaptureFixture[str],
) -> None:
    def verified(copy: Path, original: Path) -> dict[str, Any]:
        assert run(monkeypatch, "verify", str(copy), str(original), "--json") == 0
        found: dict[str, Any] = json.loads(capsys.readouterr().out)
        return found

    folder, out = dusty.folder_of_pictures(tmp_path / "in", 1), tmp_path / "out"
    original, copy = folder / "p0.jpg", out / "p0.jpg"
    assert run(monkeypatch, "patch", str(folder), "--map", str(map_file), "--out", str(out)) == 0
    capsys.readouterr()
    found = verified(copy, original)
    assert found["schema"] == "neatpatch.verify/1"
    assert found["same_outside"]
    assert len(found["places"]) >= 6
    assert set(found["places"][0]) == {"x_px", "y_px", "outer_px", "changed_px"}
    assert verified(original, original)["places"] == []
    tones = dusty.pixels(copy).copy()
    tones[:8, :8] = 0
    Image.fromarray(tones).save(tmp_path / "again.jpg", quality=95)
    assert not verified(tmp_path / "again.jpg", original)["same_outside"]
    assert run(monkeypatch, "verify", str(copy), str(original)) == 0
    assert "Nothing else differs." in capsys.readouterr().out
    Image.new("RGB", (200, 200)).save(tmp_path / "small.jpg")
    assert run(monkeypatch, "verify", str(tmp_path / "small.jpg"), str(original)) == 2
    assert "differ in size or depth" in capsys.readouterr().err
