"""Which files of a folder are pictures, and where their copies go."""

from __future__ import annotations

from collections.abc import Iterator, Sequence
from pathlib import Path

from neatpatch.core.common.errors import BadArgumentError, UnusableFrameError
from neatpatch.images.sniff import sniff

_SUFFIXES = {".jpg", ".jpeg", ".png", ".tif", ".tiff", ".heic", ".heif", ".webp", ".dng"}


def pictures_in(given: Sequence[Path], leave_out: Path | None = None) -> list[tuple[Path, Path]]:
    """The pictures among files and folders, each with its place below what was given.

    Folders are gone through with all below them, in order of name; hidden files and what lies in
    ``leave_out`` are left out. Raises `BadArgumentError` where nothing is there.
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


def _below(folder: Path, leave_out: Path | None) -> Iterator[Path]:
    for path in sorted(folder.rglob("*")):
        hidden = any(part.startswith(".") for part in path.relative_to(folder).parts)
        inside = leave_out not in (None, folder) and path.is_relative_to(leave_out or folder)
        if not hidden and not inside and path.is_file() and _is_picture(path):
            yield path


def _is_picture(path: Path) -> bool:
    if path.suffix.lower() in _SUFFIXES:
        return True
    try:
        sniff(path)
    except (UnusableFrameError, OSError):
        return False
    return True


def targets_for(pictures: Sequence[tuple[Path, Path]], out: Path) -> list[Path]:
    """Where the copies go, in a folder of their own.

    Raises `BadArgumentError`, before anything is written, where a copy would meet an existing file
    or another copy.
    """
    targets = [out / below for _, below in pictures]
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
