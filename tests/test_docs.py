"""docs/architecture.md names functions and modules that are there, docs/security.md tests."""

from __future__ import annotations

import re
from pathlib import Path

import pytest

ROOT = Path(__file__).parents[1]
TEXT = (ROOT / "docs" / "architecture.md").read_text("utf-8")
ROWS = re.findall(r"^\|[^|\n]+\|([^|\n]+)\|([^|\n]+)\|$", TEXT, re.MULTILINE)
ROOMS = {p.name for p in (ROOT / "src" / "neatpatch").iterdir() if p.is_dir()}


def modules(cell: str) -> list[Path]:
    """Python modules named in a cell; a name that begins with a dot lies beside the one before."""
    paths: list[Path] = []
    for name in re.findall(r"`([\w.]+)`", cell):
        full = name
        if name.startswith(".") and paths:
            full = ".".join(paths[-1].relative_to(ROOT / "src/neatpatch").parent.parts) + name
        if full.split(".")[0] in ROOMS:
            path = ROOT / "src" / "neatpatch" / Path(*full.split("."))
            paths.append(path / "__init__.py" if path.is_dir() else path.with_suffix(".py"))
    return paths


TABLE = [(functions, cell) for functions, cell in ROWS if modules(cell)]


@pytest.mark.parametrize(("functions", "cell"), TABLE)
def test_each_row_names_what_is_there(functions: str, cell: str) -> None:
    known = [p for p in modules(cell) if p.exists()]
    assert known, f"there is no module {cell.strip()}"
    text = "".join(p.read_text("utf-8") for p in known)
    for name in re.findall(r"`([\w.]+)`", functions):
        last = name.split(".")[-1]
        assert re.search(rf"\b{last}\b", text), f"{cell.strip()} has no {name}"


SECURITY = (ROOT / "docs" / "security.md").read_text("utf-8")
NAMED = sorted(set(re.findall(r"`(test_\w+\.py)::(test_\w+)`", SECURITY)))


@pytest.mark.parametrize(("file", "name"), NAMED)
def test_each_requirement_names_a_test_that_is_there(file: str, name: str) -> None:
    found = [p for p in (ROOT / "tests").rglob(file) if f"def {name}(" in p.read_text("utf-8")]
    assert found, f"no {name} in {file}"


def test_there_are_requirements_to_check() -> None:
    assert len(NAMED) > 30


def test_there_are_rows_to_check() -> None:
    assert len(TABLE) > 35
