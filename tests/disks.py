"""Disks as cards and travel disks are formatted: no hard links, no owners."""

from __future__ import annotations

import os
import subprocess
from collections.abc import Iterator
from contextlib import contextmanager
from pathlib import Path


def _as_root(*words: str) -> str:
    asked = subprocess.run(
        [*(["sudo"] if os.geteuid() else []), *words], check=True, capture_output=True, text=True
    )
    return asked.stdout.strip()


@contextmanager
def exfat_disk(folder: Path, megabytes: int = 48) -> Iterator[Path]:
    """A mounted disk of so many megabytes with exFAT on it. Mounting needs root's rights."""
    image = folder / "exfat.img"
    with image.open("wb") as stream:
        stream.truncate(megabytes * 1_000_000)
    _as_root("mkfs.exfat", str(image))
    disk = folder / "card"
    disk.mkdir()
    device = _as_root("losetup", "--find", "--show", str(image))
    try:
        _as_root("mount.exfat-fuse", "-o", f"uid={os.geteuid()}", device, str(disk))
        try:
            yield disk
        finally:
            _as_root("umount", "-l", str(disk))
    finally:
        _as_root("losetup", "--detach", device)
