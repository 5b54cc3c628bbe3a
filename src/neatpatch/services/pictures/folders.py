"""Which files of a folder are pictures, and where their copies go."""

from __future__ import annotations

import os
import shutil
import time
from collections.abc import Iterable, Sequence
from pathlib import Path

from neatpatch.core.common.errors import BadArgumentError, UnusableFrameError
from neatpatch.images.sniff import sniff
from neatpatch.services.watched.folders import refuse_systems_own

_SUFFIXES = {".jpg", ".jpeg", ".png", ".tif", ".tiff", ".heic", ".heif", ".webp", ".dng"}


MOST_PICTURES = 20_000
_MOST_ENTRIES = 200_000
"""Files and folders looked at; a card holds some thousands, a home folder without end."""
_LONGEST_S = 15.0
_ROOM = 1.1


def pictures_in(given: Sequence[Path], leave_out: Path | None = None) -> list[tuple[Path, Path]]:
    """The pictures among files and folders, each with its place below what was given.

    Folders are gone through with all below them, in order of name; hidden files, links to folders
    and what lies in ``leave_out`` are left out. Raises `BadArgumentError` where nothing is there,
    and where there is more than can be gone through in a moment.
    """
    found: list[tuple[Path, Path]] = []
    for path in given:
        if path.is_dir():
            found += [(p, p.relative_to(path)) for p in _below(path, leave_out)]
        elif path.exists():
            found.append((path, Path(path.name)))
        else:
            raise BadArgumentError(f"{path}: there is no such file or folder. Check the name.")
    if not found:
        raise BadArgumentError(f"{given[0]}: there are no pictures in it. Choose another folder.")
    return found


def _below(folder: Path, leave_out: Path | None) -> list[Path]:
    refuse_systems_own(folder)
    ends = time.monotonic() + _LONGEST_S
    found: list[Path] = []
    looked_at = 0
    for place, folders, files in os.walk(folder):
        here = Path(place)
        folders[:] = [f for f in folders if not f.startswith(".") and here / f != leave_out]
        looked_at += len(folders) + len(files)
        for name in files:
            path = here / name
            if not name.startswith(".") and _is_picture(path):
                found.append(path)
            if time.monotonic() > ends or looked_at > _MOST_ENTRIES:
                raise BadArgumentError(
                    f"{folder}: there is too much in it to be looked through at once. Choose the "
                    "folder that holds the pictures."
                )
            if len(found) > MOST_PICTURES:
                raise BadArgumentError(
                    f"{folder}: it holds more than {MOST_PICTURES:,} pictures. Give its parts one "
                    "by one."
                )
    return sorted(found)


def _is_picture(path: Path) -> bool:
    if path.suffix.lower() in _SUFFIXES:
        return path.is_file()
    try:
        sniff(path)
    except (UnusableFrameError, OSError):
        return False
    return True


def require_room(sources: Iterable[Path], out: Path) -> None:
    """Raises `BadArgumentError` where the disk of a folder has too little room for the copies.

    A copy takes about as much as its original; ``out`` may not be there yet.
    """
    wanted = _ROOM * sum(_bytes_of(source) for source in sources)
    there = next(folder for folder in (out, *out.absolute().parents) if folder.exists())
    free = shutil.disk_usage(there).free
    if wanted > free:
        raise BadArgumentError(
            f"{out}: the copies need about {wanted / 1e6:,.0f} MB, and {free / 1e6:,.0f} MB are "
            "free. Free some space, or choose a folder on another disk."
        )


def _bytes_of(source: Path) -> int:
    try:
        return source.stat().st_size
    except OSError:
        return 0


def copy_name(source: Path, name: Path) -> Path:
    """How the copy of a picture is called: a maker's RAW becomes a DNG."""
    if name.suffix.lower() in _SUFFIXES or sniff(source) != "raw":
        return name
    return name.with_suffix(".dng")


def targets_for(pictures: Sequence[tuple[Path, Path]], out: Path) -> list[Path]:
    """Where the copies go, in a folder of their own.

    Raises `BadArgumentError`, before anything is written, where a copy would meet an existing file
    or another copy.
    """
    targets = [out / copy_name(source, below) for source, below in pictures]
    seen: set[Path] = set()
    for target in targets:
        if target.exists():
            raise BadArgumentError(
                f"{target} exists already, and nothing is ever overwritten. Choose an empty folder."
            )
        if target in seen:
            raise BadArgumentError(
                f"Two pictures would both become {target}. Patch their folders one by one."
            )
        seen.add(target)
    return targets
