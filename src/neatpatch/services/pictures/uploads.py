"""Folders of pictures dropped on the page: copied into the data folder until forgotten."""

from __future__ import annotations

import os
import secrets
import shutil
from pathlib import Path, PurePosixPath

from neatpatch.core.common.errors import BadArgumentError, ConflictError, NotThereError
from neatpatch.core.common.records import plain_text
from neatpatch.services.frames.intake import ArrivedFile
from neatpatch.store.datafolder import Library

FOLDER = "picture-uploads"
_LONGEST_PART, _MOST_PARTS = 120, 12
"""Of a name in bytes: letters beyond the alphabet take up to four, and disks take 255 in all."""


def new_upload(library: Library) -> Path:
    """An empty folder for pictures that are about to come."""
    folder = library.root / FOLDER / secrets.token_hex(8)
    folder.mkdir(parents=True, mode=0o700)
    return folder


def upload_folder(library: Library, key: str) -> Path:
    """The folder of an upload that was begun; `NotThereError` where there is none."""
    folder = library.root / FOLDER / key
    if not key.isalnum() or not folder.is_dir():
        raise NotThereError("This upload was not begun, or was forgotten. Begin again.")
    return folder


def keep_upload(folder: Path, name: str, arrived: ArrivedFile) -> Path:
    """Put an arrived picture at its place below an upload's folder; the same name is replaced."""
    target = folder / safe_place(name)
    try:
        target.parent.mkdir(parents=True, exist_ok=True, mode=0o700)
        os.replace(arrived.path, target)
    except (FileExistsError, IsADirectoryError, NotADirectoryError):
        raise ConflictError(
            f"{name[:80]}: a picture and a folder have the same name. Rename one of them."
        ) from None
    finally:
        arrived.path.unlink(missing_ok=True)
    return target


def safe_place(name: str) -> Path:
    """A file's place below a folder, without anything that leads out of it or hides it."""
    parts = [_part(p) for p in PurePosixPath(plain_text(name).replace("\\", "/")).parts]
    kept = [p for p in parts if p and set(p) != {"."}][-_MOST_PARTS:]
    if not kept:
        raise BadArgumentError("name: give the picture's name, like day1/chart.jpg.")
    return Path(*kept)


def _part(text: str) -> str:
    kept = "".join(c for c in text if c.isprintable() and c not in ':/*?"<>|').strip(" ")
    while len(kept.encode()) > _LONGEST_PART:
        kept = kept[1:]
    return kept.lstrip(".")


def is_upload(library: Library, folder: Path) -> bool:
    """Whether a folder is one of those that were dropped on the page."""
    return folder.parent == (library.root / FOLDER).resolve()


def drop_upload(library: Library, folder: Path) -> None:
    """Remove an upload's copies; any other folder is left alone."""
    if is_upload(library, folder):
        shutil.rmtree(folder, ignore_errors=True)
