"""``make licences``: THIRD-PARTY.md, each package that ships with the product and its licence.

Python packages are those the product needs to run, with all that these need, as installed; those of
the page are the ones in the lock file that are not for its making alone.
"""

from __future__ import annotations

import json
import re
import sys
from collections.abc import Iterator
from importlib import metadata
from pathlib import Path

from packaging.requirements import Requirement

ROOT = Path(__file__).parents[1]
TARGET = ROOT / "THIRD-PARTY.md"
Row = tuple[str, str, str]
_LONGEST = 60
_IN_ITS_FILE = {"ExifRead": "BSD-3-Clause"}
"""Stated in the package's licence file alone."""
_HEAD = """# Third-party packages

Every package that ships with Neat Patch, unmodified, with its licence. Made by `make licences`; a
test holds it.
Permissive licences, and weak copyleft (LGPL, MPL) of unmodified packages, are taken; GPL is not.
"""
_STRONG = re.compile(r"(?<![L])A?GPL(?!.*(exception|OR))", re.IGNORECASE)


def python_packages(name: str = "neatpatch") -> list[Row]:
    """Name, version and licence of everything that a package needs to run."""
    found: dict[str, Row] = {}
    waiting = list(_needs(name))
    while waiting:
        key = waiting.pop().lower().replace("_", "-")
        if key in found:
            continue
        of = metadata.distribution(key)
        found[key] = (of.metadata["Name"], of.version, _licence(of.metadata))
        waiting += _needs(key)
    return [found[key] for key in sorted(found)]


def _needs(name: str) -> Iterator[str]:
    for text in metadata.requires(name) or ():
        requirement = Requirement(text)
        if requirement.marker is None or requirement.marker.evaluate({"extra": ""}):
            yield requirement.name


def _licence(of: metadata.PackageMetadata) -> str:
    """As the package states it: an expression, a short text, or its classifiers."""
    stated = _IN_ITS_FILE.get(of["Name"]) or _field(of, "License-Expression")
    if stated:
        return stated
    names = [c.rpartition(" :: ")[2] for c in of.get_all("Classifier") or () if "License ::" in c]
    short = _field(of, "License").strip().split("\n")[0]
    return ", ".join(names) or (short if len(short) <= _LONGEST else "") or "see the package"


def _field(of: metadata.PackageMetadata, name: str) -> str:
    return of[name] if name in set(of) else ""


def page_packages() -> list[Row]:
    """The same of the page's packages, by the lock file."""
    lock = json.loads((ROOT / "frontend" / "package-lock.json").read_text("utf-8"))
    rows = {
        (path.rpartition("node_modules/")[2], of["version"], of.get("license", "see the package"))
        for path, of in lock["packages"].items()
        if path and not of.get("dev") and not of.get("optional") and not of.get("link")
    }
    return sorted(rows)


def document() -> str:
    """The whole page."""
    parts = [_HEAD]
    for title, rows in (("Python", python_packages()), ("The page", page_packages())):
        parts.append(f"## {title}\n\n| package | version | licence |\n|---|---|---|")
        parts += [f"| {name} | {version} | {licence} |" for name, version, licence in rows]
        parts.append("")
    return "\n".join(parts)


def strong_copyleft() -> list[Row]:
    """Packages that must not ship."""
    return [row for row in (*python_packages(), *page_packages()) if _STRONG.search(row[2])]


if __name__ == "__main__":
    TARGET.write_text(document(), encoding="utf-8")
    sys.exit(1 if strong_copyleft() else 0)
