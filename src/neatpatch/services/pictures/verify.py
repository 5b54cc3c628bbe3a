"""A patched copy held against its original."""

from __future__ import annotations

from pathlib import Path

from neatpatch.core.common.errors import BadArgumentError, UnusableFrameError
from neatpatch.core.pictures.changes import ToldWindow, Verified, changes
from neatpatch.images.pictures import read_picture
from neatpatch.images.stored import Picture
from neatpatch.images.xmp import read_note

_JPEG_BLOCK_PX = 16


def verify(copy: Path, original: Path) -> Verified:
    """Which places of a copy differ from its original.

    Raises `UnusableFrameError` for files that cannot be read, `BadArgumentError` for two pictures
    that are not of one size and kind.
    """
    new, old = _read(copy), _read(original)
    if new.whole.shape != old.whole.shape or new.whole.dtype != old.whole.dtype:
        raise BadArgumentError(
            f"{copy} is no copy of {original}: they differ in size or depth. Give a copy that "
            "'neatpatch patch' wrote, then its original."
        )
    note = read_note(copy)
    told = [ToldWindow(p.x_px, p.y_px, p.outer_px) for p in note.places] if note else None
    block = _JPEG_BLOCK_PX if new.kind == "jpeg" else 1
    return changes(old.whole, new.whole, told, block)


def _read(path: Path) -> Picture:
    try:
        return read_picture(path)
    except UnusableFrameError as error:
        raise UnusableFrameError(f"{path}: {error}") from error
