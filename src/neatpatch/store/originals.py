"""Originals, stored once by SHA-256 and never changed."""

from __future__ import annotations

import os
from pathlib import Path


class Originals:
    """A folder of files named by their content."""

    def __init__(self, root: Path) -> None:
        self.root = root
        self.incoming = root / "incoming"
        self.incoming.mkdir(parents=True, exist_ok=True)

    def path(self, sha256: str) -> Path:
        """Where the original of this hash lies, or would lie."""
        return self.root / sha256[:2] / sha256

    def keep(self, arrived: Path, sha256: str) -> Path:
        """Move a complete file into place, durably. The same content twice is kept once."""
        target = self.path(sha256)
        if target.exists():
            arrived.unlink()
            return target
        target.parent.mkdir(exist_ok=True)
        with arrived.open("rb") as stream:
            os.fsync(stream.fileno())
        arrived.replace(target)
        target.chmod(0o444)
        _sync_folder(target.parent)
        return target

    def drop(self, sha256: str) -> None:
        """Remove an original that no frame refers to any more."""
        self.path(sha256).unlink(missing_ok=True)

    def clear_incoming(self) -> None:
        """Remove what an interrupted upload left behind."""
        for left in self.incoming.iterdir():
            left.unlink(missing_ok=True)


def _sync_folder(folder: Path) -> None:
    handle = os.open(folder, os.O_RDONLY)
    try:
        os.fsync(handle)
    finally:
        os.close(handle)
