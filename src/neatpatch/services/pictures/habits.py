"""What the files of a folder tell of how they were shot; no tones are read."""

from __future__ import annotations

from pathlib import Path

from neatpatch.core.pictures.habits import Habits, PictureHabits, by_stop, count_habits
from neatpatch.images.pictures import read_notes
from neatpatch.services.pictures.file_facts import Told, read_all_facts
from neatpatch.services.pictures.folders import pictures_in
from neatpatch.services.pictures.sets import chosen_folder
from neatpatch.store.datafolder import Library


def habits_in(folder: Path, told: Told) -> Habits:
    """Read the metadata of every picture of a folder; ``told`` hears how far it is.

    A RAW file beside a picture of its own name is the same picture. Raises `BadArgumentError` where
    there is no such folder, or no picture in it.
    """
    paths = _one_a_picture([path for path, _ in pictures_in([folder])])
    return count_habits(*read_all_facts(paths, read_notes, told))


def habits_by_stop(library: Library, folder: str) -> PictureHabits:
    """At which stops a folder's pictures were taken. Raises as `habits_in`."""
    return by_stop(habits_in(chosen_folder(library, folder), lambda _done, _total: None))


def _one_a_picture(paths: list[Path]) -> list[Path]:
    by_name: dict[Path, list[Path]] = {}
    for path in paths:
        by_name.setdefault(path.with_suffix(""), []).append(path)
    kept = []
    for twins in by_name.values():
        seen = [p for p in twins if p.suffix.lower() in _DEVELOPED]
        kept += seen or twins
    return kept


_DEVELOPED = {".jpg", ".jpeg", ".heic", ".heif", ".png", ".tif", ".tiff", ".webp"}
