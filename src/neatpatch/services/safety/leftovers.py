"""What lies in a data folder that nothing refers to: set aside, named, deleted only on a word."""

from __future__ import annotations

from collections.abc import Iterator
from datetime import UTC, datetime, timedelta
from pathlib import Path

from neatpatch.core.common.records import Record
from neatpatch.store.originals import Originals, is_sha256

KEPT_ASIDE = timedelta(days=30)
"""What was set aside may be deleted after that; nobody misses it by then."""
_PARTIAL = (".merge-*", "originals/incoming/*", "derived/*/*.tmp", ".foreign.sqlite3")


class SetAside(Record):
    """Files set aside. ``old``: how many of them long enough to be deleted; ``folder``: where."""

    count: int
    old: int
    bytes: int
    folder: str


def set_aside(originals: Originals, now: datetime | None = None) -> SetAside:
    """What was set aside."""
    files = list(_aside(originals))
    before = ((now or datetime.now(UTC)) - KEPT_ASIDE).timestamp()
    return SetAside(
        count=len(files),
        old=sum(path.stat().st_mtime <= before for path in files),
        bytes=sum(path.stat().st_size for path in files),
        folder=str(originals.aside),
    )


def delete_old(originals: Originals, now: datetime | None = None) -> int:
    """Delete what was set aside long enough ago; gives how many."""
    before = ((now or datetime.now(UTC)) - KEPT_ASIDE).timestamp()
    old = [path for path in _aside(originals) if path.stat().st_mtime <= before]
    for path in old:
        path.unlink(missing_ok=True)
    return len(old)


def _aside(originals: Originals) -> Iterator[Path]:
    if originals.aside.is_dir():
        yield from sorted(p for p in originals.aside.iterdir() if is_sha256(p.name))


def partial_files(root: Path) -> list[str]:
    """What work that was stopped has left; it is cleared when the folder is next served."""
    return [str(p.relative_to(root)) for part in _PARTIAL for p in sorted(root.glob(part))]
