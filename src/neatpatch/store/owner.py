"""A data folder has one owner at a time: the server that holds its lock."""

from __future__ import annotations

import json
from collections.abc import Iterator
from contextlib import contextmanager
from pathlib import Path

from filelock import FileLock, Timeout

from neatpatch.store.database import StoreError, disk_trouble

_LOCK = "neatpatch.lock"
_ADDRESS = "neatpatch.address"


class FolderInUseError(StoreError):
    """Another server works on the folder."""


@contextmanager
def owned(root: Path) -> Iterator[None]:
    """Hold a data folder for this process; let go at the end, also when the process dies.

    Raises `FolderInUseError` with the owner's address, touching nothing, when it is held; and
    `StoreError` when the folder cannot be made or written to.
    """
    try:
        root.mkdir(parents=True, exist_ok=True, mode=0o700)
        lock = FileLock(root / _LOCK, mode=0o600)
        lock.acquire(timeout=0)
    except Timeout:
        at = owner_address(root)
        where = f"at {at}. Open that page" if at else "in another process. Stop that one first"
        raise FolderInUseError(
            f"the data folder {root} is in use by Neat Patch {where}, or choose another folder "
            "with --data."
        ) from None
    except (OSError, NotImplementedError) as error:
        raise StoreError(
            f"the data folder {root} cannot be used: {disk_trouble(error) or error} "
            "Free some space or mend its rights, or choose another folder with --data."
        ) from error
    try:
        yield
    finally:
        (root / _ADDRESS).unlink(missing_ok=True)
        lock.release()


def tell_address(root: Path, address: str) -> None:
    """Write the server's address beside the lock."""
    (root / _ADDRESS).write_text(json.dumps({"address": address}), "utf-8")


def owner_address(root: Path) -> str:
    """The owner's address; empty when it left no word yet."""
    try:
        said = json.loads((root / _ADDRESS).read_text("utf-8"))
    except (OSError, ValueError):
        return ""
    return str(said.get("address", "")) if isinstance(said, dict) else ""
