"""Imports point one way, folder by folder, and no folder is in a circle with another."""

from __future__ import annotations

import ast
import os
import re
import subprocess
import sys
from collections.abc import Iterator
from functools import cache
from graphlib import CycleError, TopologicalSorter
from pathlib import Path

import pytest

THREADS = "OPENBLAS_NUM_THREADS"
ROOT = Path(__file__).parents[1] / "src" / "neatpatch"
INSIDE_CORE = {
    "core.common": set[str](),
    "core.plans": {"core.common"},
    "core.sensor": {"core.common"},
    "core.maps": {"core.common"},
    "core.compare": {"core.maps", "core.sensor", "core.common"},
    "core.pictures": {"core.compare", "core.maps", "core.sensor", "core.common"},
    "core.patching": {
        "core.pictures",
        "core.compare",
        "core.maps",
        "core.sensor",
        "core.common",
    },
    "core.arrivals": {"core.pictures", "core.compare", "core.sensor", "core.common"},
    "core.measure": {"core.compare", "core.maps", "core.sensor", "core.common"},
    "core.advice": {"core.plans", "core.common"},
    "core.visit": {"core.compare", "core.maps", "core.sensor", "core.common"},
    "core.kit": {"core.visit", "core.plans", "core.common"},
    "core.stats": {"core.visit", "core.compare", "core.common"},
    "core.reports": {
        "core.stats",
        "core.kit",
        "core.visit",
        "core.compare",
        "core.maps",
        "core.common",
    },
    "core.practice": {"core.reports", "core.maps", "core.common"},
    "core.tray": {"core.common"},
    "core.guide": {
        "core.kit",
        "core.advice",
        "core.visit",
        "core.measure",
        "core.plans",
        "core.maps",
        "core.common",
    },
}
CORE = {"core", *INSIDE_CORE}
BELOW_SERVICES = {"store", "images", "simulation", *CORE}
BASE = {"services.common", *BELOW_SERVICES}
VISITS = {"services.visits", "services.kit", *BASE}
SERVICES = {
    "services.common": BELOW_SERVICES,
    "services.kit": BASE,
    "services.visits": {"services.kit", *BASE},
    "services.frames": VISITS,
    "services.watched": {"services.frames", *BASE},
    "services.safety": {"services.watched", *VISITS},
    "services.pictures": {"services.watched", "services.frames", *BASE},
    "services.stats": VISITS,
    "services.reports": VISITS,
    "services.sharing": BASE,
    "services.practice": {"services.frames", *VISITS},
    "services.tray": VISITS,
}
ALLOWED = {
    **INSIDE_CORE,
    "images": CORE,
    "simulation": {"images", *CORE},
    "store": {"simulation", "images", *CORE},
    **SERVICES,
    "jobs": {"services.pictures", "services.frames", *VISITS},
    "demo": {"jobs", "services.frames", *VISITS},
    "api.common": {"jobs", "services.stats", "services.safety", "services.watched", *VISITS},
    "api.sharing": {"api.common", "services.sharing", "services.reports", *VISITS},
    "api.routes": {"api.sharing", "api.common", "jobs", *SERVICES, *BELOW_SERVICES},
    "api": {"demo", "api.sharing", "api.common", "api.routes", "jobs", *SERVICES, *BELOW_SERVICES},
    "cli": {"api", "jobs", "demo", *SERVICES, *BELOW_SERVICES},
}
"""What each folder may import beside itself."""
FORBIDDEN_IN_CORE = {"sqlite3", "fastapi", "starlette", "pathlib", "os", "io", "time", "PIL"}
HTTP = {"fastapi", "starlette", "uvicorn"}
CLOCK = {"today", "now", "utcnow"}


@cache
def imported(path: Path) -> set[str]:
    names = set()
    for node in ast.walk(ast.parse(path.read_text("utf-8"))):
        if isinstance(node, ast.Import):
            names |= {alias.name for alias in node.names}
        elif isinstance(node, ast.ImportFrom) and node.module:
            names |= {node.module, *(f"{node.module}.{alias.name}" for alias in node.names)}
    return names


@cache
def rooms() -> dict[str, Path]:
    """Every folder with code in it, by its name below the package."""
    folders = {p.parent for p in ROOT.rglob("*.py")} - {ROOT}
    return {".".join(f.relative_to(ROOT).parts): f for f in folders}


def room_of(name: str) -> str | None:
    """The folder a module of ours lies in; None for other people's, and for the package itself."""
    parts = name.split(".")
    if parts[0] != "neatpatch":
        return None
    inside = [".".join(parts[1 : 1 + depth]) for depth in (2, 1)]
    return next((room for room in inside if room in rooms()), None)


def files_of(room: str) -> Iterator[Path]:
    yield from rooms()[room].glob("*.py")


def test_every_room_is_planned() -> None:
    with_code = {room for room in rooms() if any(p.name != "__init__.py" for p in files_of(room))}
    assert with_code - {"store.migrations"} == set(ALLOWED)


@pytest.mark.parametrize("room", ALLOWED)
def test_rooms_import_only_what_they_may(room: str) -> None:
    for path in files_of(room):
        found = {room_of(name) for name in imported(path)} - {None, room, "store.migrations"}
        assert found <= ALLOWED[room], f"{path.name} imports {found - ALLOWED[room]}"


def test_no_room_is_in_a_circle() -> None:
    try:
        TopologicalSorter(ALLOWED).prepare()
    except CycleError as error:
        pytest.fail(f"a circle: {error.args[1]}")


def test_only_the_api_knows_http() -> None:
    for room in {r for r in ALLOWED if not r.startswith("api")}:
        for path in files_of(room):
            roots = {name.split(".")[0] for name in imported(path)}
            assert not roots & HTTP, f"{path.name} imports {roots & HTTP}"


def test_tests_mirror_the_rooms() -> None:
    tests = Path(__file__).parent
    for path in tests.rglob("test_*.py"):
        folder = ".".join(path.parent.relative_to(tests).parts)
        assert folder in {"", "bench", "browser", *rooms()}, path


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


PAGE = ROOT.parents[1] / "frontend" / "src"
FEATURES_BESIDE = {"hands": {"visit"}}
"""A step by hand is a part of its visit; else no feature knows another."""


def test_the_page_imports_one_way() -> None:
    for path in [*PAGE.rglob("*.vue"), *PAGE.rglob("*.ts")]:
        place = path.relative_to(PAGE).parts
        if place[0] == "app" or path.name.endswith(".test.ts"):
            continue
        for found in re.findall(r"""from '@/([^']+)'""", path.read_text("utf-8")):
            target = found.split("/")
            may = {"api", "shared"} if place[0] != "api" else {"api"}
            if place[0] == "features" and target[0] == "features":
                assert target[1] in {place[1], *FEATURES_BESIDE.get(place[1], ())}, path
            else:
                assert target[0] in may, f"{path.name} imports {found}"


def test_the_package_settles_numpys_threads_before_numpy_is_loaded() -> None:
    says = "import os, sys, neatpatch; print('numpy' in sys.modules, os.environ[sys.argv[1]])"
    without = {k: v for k, v in os.environ.items() if k != THREADS}
    told = subprocess.run(
        [sys.executable, "-c", says, THREADS],
        env=without,
        capture_output=True,
        text=True,
        check=True,
    )
    assert told.stdout.split() == ["False", "1"]
