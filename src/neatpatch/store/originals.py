"""Originals, stored once by SHA-256 and never changed."""

from __future__ import annotations

import os
import re
import uuid
from collections.abc import Iterator
from pathlib import Path

from neatpatch.store.database import StoreError

_SHA256 = re.compile(r"[0-9a-f]{64}")


class NoHashError(StoreError):
    """What should name a stored file is no SHA-256."""


def is_sha256(text: str) -> bool:
    """Whether a text is 64 lower-case hexadecimal digits and nothing else."""
    return _SHA256.fullmatch(text) is not None


def require_sha256(text: object) -> str:
    """A hash fit to become part of a path: 64 lower-case hexadecimal digits and nothing else.

    Raises `NoHashError` for anything else, so that no row of a database leads out of its folder.
    """
    if isinstance(text, str) and is_sha256(text):
        return text
    raise NoHashError(
        f"{str(text)[:80]!r} is no name of a stored file. Restore the last backup into a new "
        "folder."
    )


class Originals:
    """A folder of files named by their content."""

    def __init__(self, root: Path) -> None:
        self.root = root
        self.incoming = root / "incoming"
        self.incoming.mkdir(parents=True, exist_ok=True)

    def path(self, sha256: str) -> Path:
        """Where the original of this hash lies, or would lie. Raises `NoHashError`."""
        require_sha256(sha256)
        return self.root / sha256[:2] / sha256

    def arriving(self) -> Path:
        """A fresh place for a file that is still coming in."""
        return self.incoming / uuid.uuid4().hex

    def keep(self, arrived: Path, sha256: str) -> Path:
        """Move a complete, synced file into place, durably. The same content is kept once.

        To be called inside the transaction that refers to it, so that no removal comes between.
        """
        target = self.path(sha256)
        if target.exists():
            arrived.unlink()
            return target
        target.parent.mkdir(exist_ok=True)
        arrived.chmod(0o400)
        arrived.replace(target)
        _sync_folder(target.parent)
        return target

    @property
    def aside(self) -> Path:
        """Where files lie that no row refers to; nothing is deleted there by itself."""
        return self.root.parent / "set-aside"

    def set_aside(self, sha256: str) -> None:
        """Move a file that no row refers to out of the way; the time of its last change tells when.

        Whoever put an older copy of the database back may want it again.
        """
        self.aside.mkdir(exist_ok=True, mode=0o700)
        target = self.aside / require_sha256(sha256)
        self.path(sha256).replace(target)
        os.utime(target)

    def take_back(self, sha256: str) -> bool:
        """Bring back a file that was set aside; whether it was."""
        kept = self.aside / require_sha256(sha256)
        if not kept.is_file():
            return False
        target = self.path(sha256)
        target.parent.mkdir(exist_ok=True)
        kept.replace(target)
        _sync_folder(target.parent)
        return True

    def drop(self, sha256: str) -> None:
        """Remove an original that no frame refers to any more."""
        self.path(sha256).unlink(missing_ok=True)

    def clear_incoming(self) -> None:
        """Remove what an interrupted upload left behind."""
        for left in self.incoming.iterdir():
            left.unlink(missing_ok=True)

    def all_hashes(self) -> Iterator[str]:
        """Hashes of every stored file."""
        for folder in sorted(self.root.iterdir()):
            if folder.is_dir() and folder != self.incoming:
                yield from sorted(f.name for f in folder.iterdir() if _SHA256.fullmatch(f.name))


def _sync_folder(folder: Path) -> None:
    handle = os.open(folder, os.O_RDONLY)
    try:
        os.fsync(handle)
    finally:
        os.close(handle)
