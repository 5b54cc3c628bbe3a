from __future__ import annotations

from pathlib import Path

import pytest

from neatpatch.core.visit.body import Body, VisitConditions
from neatpatch.store import bodies, visits
from neatpatch.store.datafolder import Library
from tests.cli.test_cli import run


@pytest.fixture
def data(tmp_path: Path) -> Path:
    root = tmp_path / "data"
    with Library(root).database.write() as c:
        body = bodies.add_body(c, Body(name="Judge", sensor_mm=(36, 24), works_at=(16,)))
        assert visits.open_visit(c, body, VisitConditions()) == 1
    return root


def test_a_report_is_written_in_the_form_its_name_asks_for(
    data: Path, tmp_path: Path, monkeypatch: pytest.MonkeyPatch
) -> None:
    for name, begins in (("r.pdf", b"%PDF-"), ("r.html", b"<!doctype html>")):
        out = tmp_path / name
        assert run(monkeypatch, "report", "1", "--out", str(out), "--data", str(data)) == 0
        assert out.read_bytes().lstrip().startswith(begins)
    assert sorted(p.name for p in tmp_path.glob("*r.*")) == ["r.html", "r.pdf"]


@pytest.mark.parametrize(
    ("visit", "out", "folder", "words"),
    [
        ("1", "r.doc", "data", "ends in .pdf or .html"),
        ("9", "r.pdf", "data", "no such visit"),
        ("1", "r.pdf", "nothing", "no data here"),
        ("1", "nowhere/r.pdf", "data", "Check the path"),
    ],
)
def test_what_cannot_be_written_is_said_in_one_line(
    data: Path,
    tmp_path: Path,
    monkeypatch: pytest.MonkeyPatch,
    capsys: pytest.CaptureFixture[str],
    visit: str,
    out: str,
    folder: str,
    words: str,
) -> None:
    where = "--out", str(tmp_path / out), "--data", str(data.with_name(folder))
    assert run(monkeypatch, "report", visit, *where) == 2
    said = capsys.readouterr().err
    assert words in said
    assert said.count("\n") == 1
    assert not (tmp_path / out).exists()
    assert not (tmp_path / "nothing").exists()
