"""A first look at a folder of pictures: whose they seem to be, and which test frame fits them."""

from __future__ import annotations

from collections import Counter
from collections.abc import Sequence
from pathlib import Path

from neatpatch.core.common.errors import NeatPatchError
from neatpatch.core.common.frame import FrameFacts
from neatpatch.core.common.records import Record
from neatpatch.core.visit.camera_recognition import plain_name
from neatpatch.images.pictures import read_facts
from neatpatch.services.pictures.folders import pictures_in
from neatpatch.services.pictures.sets import MapChoice, chosen_folder, maps_for
from neatpatch.store import bodies as body_rows
from neatpatch.store.datafolder import Library

_SAMPLED = 12
"""So many files tell whose a folder is; reading all would keep the page waiting."""


class FolderGlance(Record):
    """What a few of a folder's files tell. ``count``: pictures in it.

    ``camera``: as most of them name it; empty where none does. ``body_id`` and ``frame_id``: the
    camera that has this name, and its test frame nearest in time; None where that is not clear.
    """

    count: int
    camera: str
    last_taken: str | None
    body_id: int | None
    frame_id: int | None


def glance_at_folder(library: Library, folder: str) -> FolderGlance:
    """Look at a folder. Raises `BadArgumentError` where it is none or holds no pictures."""
    found = pictures_in([chosen_folder(library, folder)])
    facts = _sampled([path for path, _ in found])
    names = Counter(f.camera for f in facts if f.camera)
    camera = names.most_common(1)[0][0] if names else ""
    times = sorted(f.taken_at for f in facts if f.taken_at)
    body_id = _body_named(library, camera)
    maps = maps_for(library, body_id) if body_id is not None else []
    last = times[-1] if times else None
    return FolderGlance(
        count=len(found),
        camera=camera,
        last_taken=last,
        body_id=body_id,
        frame_id=nearest_map(maps, last),
    )


def nearest_map(maps: Sequence[MapChoice], last_taken: str | None) -> int | None:
    """The first fit map after the pictures, which shows the dust they were taken with; else the
    last before them. None where no time is known.
    """
    dated = sorted((m.taken_at, m.frame_id) for m in maps if m.fit and m.taken_at)
    if last_taken is None or not dated:
        return None
    after = [frame_id for taken_at, frame_id in dated if taken_at >= last_taken]
    return after[0] if after else dated[-1][1]


def _sampled(paths: Sequence[Path]) -> list[FrameFacts]:
    step = max(1, len(paths) // _SAMPLED)
    facts = []
    for path in dict.fromkeys((*paths[::step], paths[-1])):
        try:
            facts.append(read_facts(path))
        except (NeatPatchError, OSError):
            continue
    return facts


def _body_named(library: Library, camera: str) -> int | None:
    with library.database.read() as connection:
        own = [
            b.id
            for b in body_rows.all_bodies(connection)
            if camera and plain_name(b.body.camera_name or "") == plain_name(camera)
        ]
    return own[0] if len(own) == 1 else None
