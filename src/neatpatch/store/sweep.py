"""At start: what nothing refers to is set aside, and what is missing or altered is noticed.

An older copy of the database put back in place knows nothing of what came since: those files are
kept, and come back with the rows that name them.
"""

from __future__ import annotations

import os
import shutil
from collections.abc import Iterator
from dataclasses import dataclass, field
from datetime import UTC, datetime
from pathlib import Path

from neatpatch.images.hashing import sha256_of
from neatpatch.store import frames as frame_rows
from neatpatch.store import removed_frames
from neatpatch.store.datafolder import Condition, Library
from neatpatch.store.loss_fields import SUFFIX as LOSS_SUFFIX

_WRITTEN_LATE_S = 60.0
"""A file written so long after its row says may be another's: it is read and hashed."""


@dataclass
class Swept:
    """What a sweep found: files that no row refers to, set aside, and files brought back."""

    orphans: int = 0
    taken_back: int = 0
    damaged_originals: dict[str, Condition] = field(default_factory=dict)


def sweep(library: Library) -> Swept:
    """Bring files and rows together. Only the folder's owner may do this, before it takes work."""
    library.originals.clear_incoming()
    for left in library.root.glob(".merge-*"):
        shutil.rmtree(left, ignore_errors=True)
    oldest = datetime.now(UTC) - removed_frames.KEPT_OUT
    with library.database.write() as connection:
        removed_frames.forget_removed(connection, oldest.isoformat())
    with library.database.read() as connection:
        noted = frame_rows.originals_noted(connection)
    swept = Swept()
    for sha256 in list(library.originals.all_hashes()):
        if sha256 not in noted:
            library.originals.set_aside(sha256)
            swept.orphans += 1
    for folder in list(_derived(library.derived_root)):
        if folder.name.removesuffix(LOSS_SUFFIX) not in noted:
            _remove(folder)
    for sha256 in noted:
        if not library.originals.path(sha256).exists() and library.originals.take_back(sha256):
            swept.taken_back += 1
    for sha256, (size, stored_at) in noted.items():
        condition = _condition(library.originals.path(sha256), sha256, size, stored_at)
        if condition != "whole":
            swept.damaged_originals[sha256] = condition
    library.damaged_originals = dict(swept.damaged_originals)
    return swept


def _derived(root: Path) -> Iterator[Path]:
    for folder in root.iterdir():
        if folder.is_dir():
            yield from folder.iterdir()


def _remove(path: Path) -> None:
    if path.is_dir():
        shutil.rmtree(path, ignore_errors=True)
    else:
        path.unlink(missing_ok=True)


def _condition(path: Path, sha256: str, size: int, stored_at: str) -> Condition:
    try:
        status = path.stat()
    except OSError:
        return "missing"
    if status.st_size != size:
        return "altered"
    stored = datetime.fromisoformat(stored_at).timestamp()
    if status.st_mtime <= stored + _WRITTEN_LATE_S:
        return "whole"
    if sha256_of(path) != sha256:
        return "altered"
    os.utime(path, (stored, stored))
    return "whole"
