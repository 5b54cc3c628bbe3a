"""What the files of pictures tell; no tones are read."""

from __future__ import annotations

from collections.abc import Callable, Sequence
from pathlib import Path

from neatpatch.core.common.errors import NeatPatchError, sentence
from neatpatch.core.common.frame import FrameFacts
from neatpatch.core.pictures.skipped import SkippedPicture

Told = Callable[[int, int], None]
"""Called with how many of how many are done."""


def read_all_facts(
    pictures: Sequence[Path],
    read: Callable[[Path], FrameFacts],
    told: Told,
    lacking: Callable[[FrameFacts], str] = lambda _: "",
) -> tuple[list[FrameFacts], list[SkippedPicture]]:
    """The facts of every file that can be read, and the others with their reasons.

    ``lacking``: why facts are of no use, empty where they are.
    """
    facts: list[FrameFacts] = []
    skipped: list[SkippedPicture] = []
    for count, path in enumerate(pictures, start=1):
        try:
            found = read(path)
            why = lacking(found)
        except NeatPatchError as error:
            why = str(error)
        except OSError as error:
            why = f"it could not be read: {error.strerror or error}."
        if why:
            skipped.append(SkippedPicture(path=str(path), why=sentence(why)))
        else:
            facts.append(found)
        told(count, len(pictures))
    return facts, skipped
