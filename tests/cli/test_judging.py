"""compare and advise on the command line."""

from __future__ import annotations

import json
from pathlib import Path

import pytest

from tests.cli.test_cli import run
from tests.core.advice.situations import facts


def test_compare_takes_frames_and_maps(
    small_jpeg: Path, tmp_path: Path, monkeypatch: pytest.MonkeyPatch,
    capsys: pytest.CaptureFixture[str],
) -> None:  # fmt: skip
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
    assert set(found["alignment"]) == {"scale", "shift_px", "residual_px"}
    assert {s["status"] for s in found["spots"]} == {"stayed"}
    assert run(monkeypatch, "compare", str(kept), str(kept)) == 0
    assert "stayed" in capsys.readouterr().out


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
    assert set(found["cautions"][0]) == {"code", "text"}
    assert set(found["barred"][0]) == {"action", "code", "text"}
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
    content: str | None, words: str, tmp_path: Path, monkeypatch: pytest.MonkeyPatch,
    capsys: pytest.CaptureFixture[str],
) -> None:  # fmt: skip
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
