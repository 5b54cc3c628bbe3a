"""Imports point one way: cli, web, demo → store, images → core."""

from __future__ import annotations

import ast
from pathlib import Path

import pytest

ROOT = Path(__file__).parents[1] / "src" / "neatpatch"
ALLOWED = {
    "core": {"core"},
    "images": {"images", "core"},
    "store": {"store", "core"},
    "demo": {"demo", "images", "store", "core"},
    "web": {"web", "demo", "images", "store", "core"},
    "cli": {"cli", "web", "demo", "images", "store", "core"},
}
FORBIDDEN_IN_CORE = {
    "sqlite3",
    "fastapi",
    "starlette",
    "pathlib",
    "os",
    "io",
    "time",
    "PIL",
}


CLOCK = {"today", "now", "utcnow"}


def imported(path: Path) -> set[str]:
    names = set()
    for node in ast.walk(ast.parse(path.read_text("utf-8"))):
        if isinstance(node, ast.Import):
            names |= {alias.name for alias in node.names}
        elif isinstance(node, ast.ImportFrom) and node.module:
            names.add(node.module)
    return names


@pytest.mark.parametrize("room", ALLOWED)
def test_rooms_import_only_what_they_may(room: str) -> None:
    for path in (ROOT / room).rglob("*.py"):
        for name in imported(path):
            parts = name.split(".")
            if parts[0] == "neatpatch" and len(parts) > 1:
                assert parts[1] in ALLOWED[room], f"{path.name} imports {name}"


def test_the_core_touches_no_files_database_web_or_clock() -> None:
    for path in (ROOT / "core").rglob("*.py"):
        roots = {name.split(".")[0] for name in imported(path)}
        assert not roots & FORBIDDEN_IN_CORE, path.name
        asked = {
            n.attr
            for n in ast.walk(ast.parse(path.read_text("utf-8")))
            if isinstance(n, ast.Attribute)
        }
        assert not asked & CLOCK, f"{path.name} asks the clock; hand the day in"
