"""How many small faults in a room of the core its own tests notice: ``make mutants``.

A mutant is the source with one comparison, operator, truth value or constant changed. Each is tried
in a copy of the package against ``tests/core/<room>``; one that no test notices is printed. The
seed fixes which are drawn, so that two versions are compared on like faults.
"""

from __future__ import annotations

import argparse
import ast
import copy
import os
import random
import shutil
import subprocess
import sys
import tempfile
from collections.abc import Iterator
from concurrent.futures import ThreadPoolExecutor
from dataclasses import dataclass
from pathlib import Path

ROOT = Path(__file__).parents[1]
CORE = ROOT / "src" / "neatpatch" / "core"
TOO_LONG_S = 900
"""A mutant that never ends was noticed."""
_COMPARISONS: dict[type[ast.cmpop], type[ast.cmpop]] = {
    ast.Lt: ast.GtE,
    ast.GtE: ast.Lt,
    ast.Gt: ast.LtE,
    ast.LtE: ast.Gt,
    ast.Eq: ast.NotEq,
    ast.NotEq: ast.Eq,
    ast.Is: ast.IsNot,
    ast.IsNot: ast.Is,
    ast.In: ast.NotIn,
    ast.NotIn: ast.In,
}
_OPERATORS: dict[type[ast.operator], type[ast.operator]] = {
    ast.Add: ast.Sub,
    ast.Sub: ast.Add,
    ast.Mult: ast.Div,
    ast.Div: ast.Mult,
}


@dataclass(frozen=True)
class Mutant:
    """One changed line of one file."""

    path: Path
    line: int
    before: str
    after: str
    source: str


def changed(node: ast.AST) -> ast.AST | None:
    """The node with one fault in it; None for one that is left alone."""
    twin = copy.deepcopy(node)
    if isinstance(twin, ast.Compare) and type(twin.ops[0]) in _COMPARISONS:
        twin.ops[0] = _COMPARISONS[type(twin.ops[0])]()
    elif isinstance(twin, ast.BoolOp):
        twin.op = ast.Or() if isinstance(twin.op, ast.And) else ast.And()
    elif isinstance(twin, ast.BinOp) and type(twin.op) in _OPERATORS:
        twin.op = _OPERATORS[type(twin.op)]()
    elif isinstance(twin, ast.UnaryOp) and isinstance(twin.op, ast.Not):
        return twin.operand
    elif isinstance(twin, ast.Constant) and isinstance(twin.value, bool):
        twin.value = not twin.value
    elif isinstance(twin, ast.Constant) and isinstance(twin.value, int | float):
        twin.value = twin.value * 1.5 + 1
    else:
        return None
    return twin


def mutants_of(path: Path) -> Iterator[Mutant]:
    """Every mutant of a file. What only serves types and texts has none."""
    text = path.read_text("utf-8")
    for node in ast.walk(ast.parse(text)):
        if not isinstance(node, ast.expr) or node.end_lineno != node.lineno:
            continue
        twin = changed(node)
        if twin is None or "|" in (before := ast.unparse(node)):
            continue
        lines = text.splitlines(keepends=True)
        line = lines[node.lineno - 1].encode()
        after = ast.unparse(twin)
        new = line[: node.col_offset] + f"({after})".encode() + line[node.end_col_offset :]
        lines[node.lineno - 1] = new.decode()
        yield Mutant(path, node.lineno, before, after, "".join(lines))


def is_noticed(mutant: Mutant, tests: Path) -> bool:
    """Whether the tests fail on a copy of the package with the mutant in it."""
    with tempfile.TemporaryDirectory(prefix="neatpatch-mutant-") as folder:
        package = Path(folder) / "neatpatch"
        shutil.copytree(
            ROOT / "src" / "neatpatch", package, ignore=shutil.ignore_patterns("page", "*.pyc")
        )
        (package / mutant.path.relative_to(ROOT / "src" / "neatpatch")).write_text(
            mutant.source, "utf-8"
        )
        command = [
            sys.executable,
            "-m",
            "pytest",
            "-x",
            "-n0",
            "-p",
            "no:cacheprovider",
            str(tests),
        ]
        environment = {**os.environ, "PYTHONPATH": folder, "PYTHONDONTWRITEBYTECODE": "1"}
        try:
            ended = subprocess.run(
                command, cwd=ROOT, env=environment, capture_output=True, timeout=TOO_LONG_S
            )
        except subprocess.TimeoutExpired:
            return True
        return ended.returncode != 0


def try_room(room: str, count: int, seed: int, workers: int) -> tuple[int, list[Mutant]]:
    """How many mutants of a room were tried, and those nobody noticed."""
    every = [m for path in sorted((CORE / room).glob("*.py")) for m in mutants_of(path)]
    drawn = random.Random(f"{seed}-{room}").sample(every, min(count, len(every)))
    with ThreadPoolExecutor(workers) as pool:
        noticed = list(pool.map(lambda m: is_noticed(m, ROOT / "tests" / "core" / room), drawn))
    return len(drawn), [m for m, seen in zip(drawn, noticed, strict=True) if not seen]


def rooms_of_core() -> list[str]:
    """The rooms of the core that have tests of their own."""
    return sorted(p.name for p in (ROOT / "tests" / "core").iterdir() if (CORE / p.name).is_dir())


def main() -> int:
    asked = argparse.ArgumentParser(description=__doc__)
    asked.add_argument("rooms", nargs="*", help="rooms of the core; all of them without any")
    asked.add_argument("--count", type=int, default=10, help="mutants a room")
    asked.add_argument("--seed", type=int, default=1)
    asked.add_argument("--workers", type=int, default=2)
    given = asked.parse_args()
    print("| room | mutants | noticed |\n|---|---|---|", flush=True)
    for room in given.rooms or rooms_of_core():
        tried, survivors = try_room(room, given.count, given.seed, given.workers)
        print(f"| {room} | {tried} | {1 - len(survivors) / max(tried, 1):.0%} |", flush=True)
        for m in survivors:
            where = m.path.relative_to(CORE)
            print(f"  {where}:{m.line}: {m.before}  ->  {m.after}", flush=True)
    return 0


if __name__ == "__main__":
    sys.exit(main())
