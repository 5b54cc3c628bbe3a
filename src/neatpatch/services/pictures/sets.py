"""Sets of pictures: begun, chosen from, shown."""

from __future__ import annotations

import json
import shutil
import sqlite3
from pathlib import Path
from typing import Literal

from pydantic import Field

from neatpatch.core.arrivals.marks_as_map import marks_as_map
from neatpatch.core.arrivals.records import Arrivals
from neatpatch.core.arrivals.sentences import arrivals_in_words
from neatpatch.core.common.errors import BadArgumentError, ConflictError, NotThereError
from neatpatch.core.common.moments import day_of
from neatpatch.core.common.records import Given, Record, RowId, SpotMap
from neatpatch.core.common.words import counted
from neatpatch.core.kit.readiness import short_day_words
from neatpatch.core.patching.fitting import patchable
from neatpatch.core.patching.plan import check_map
from neatpatch.core.patching.records import PhotoPatch
from neatpatch.services.common.lookups import body_or_refuse, frame_or_refuse
from neatpatch.services.pictures.folders import pictures_in, require_room
from neatpatch.services.pictures.patching import Patching
from neatpatch.services.pictures.preview import LookedPicture
from neatpatch.services.pictures.uploads import drop_upload, is_upload
from neatpatch.services.watched.folders import named_folder, refuse_systems_own
from neatpatch.store import picture_sets as rows
from neatpatch.store.bodies import name_of
from neatpatch.store.datafolder import Library
from neatpatch.store.fingerprints import from_bytes, reference_of
from neatpatch.store.picture_sets import PictureSet

DEMO_PICTURES, DEMO_BODY = "demo-pictures", "Tarn Meridian S"


class NewSet(Given):
    """A folder of one body's pictures. To patch: by the map of ``frame_id``, or by the marks that
    the search ``arrivals_id`` found. Neither: a search for when dust came.
    """

    body_id: RowId
    folder: str = Field(min_length=1, max_length=1000)
    frame_id: RowId | None = None
    arrivals_id: RowId | None = None


class ChosenWork(Given):
    """Spots to leave in all pictures."""

    veto: tuple[str, ...] = Field(default=(), max_length=5000)


class ChosenPicture(Given):
    """What is wanted of one picture."""

    leave: bool = False
    veto: tuple[str, ...] = Field(default=(), max_length=5000)


class Counts(Record):
    """How many pictures of a set there are, looked at, refused, left alone and written."""

    total: int
    looked: int
    refused: int
    left_alone: int
    written: int


class MapChoice(Record):
    """A measured frame of a body whose map may serve. ``count``: spots on the sensor.

    ``begins_visit``: the first of its visit, before anything was done.
    """

    frame_id: int
    name: str
    taken_at: str | None
    count: int
    fit: bool
    begins_visit: bool


class DemoPictures(Record):
    """Where the demo archive's own pictures lie, and whose they are."""

    folder: str
    body_id: int


class SetView(Record):
    """A set of pictures and how it goes. ``map_words``: the map that serves, in words.

    ``uploaded``: it was dropped on the page. ``result_words``: when dust came, in sentences.
    """

    id: int
    body_id: int
    body_name: str
    kind: Literal["patch", "arrivals"]
    folder: str
    out_folder: str
    frame_id: int | None
    map_words: str
    spots: tuple[str, ...]
    veto: tuple[str, ...]
    work: Literal["look", "write", "search"]
    state: Literal["waiting", "working", "stopped", "done", "failed"]
    step: str
    progress: float
    error: str | None
    counts: Counts
    uploaded: bool
    result_words: tuple[str, ...]
    created_at: str


class PictureView(Record):
    """One picture of a set."""

    number: int
    name: str
    looked: LookedPicture | None
    leave: bool
    veto: tuple[str, ...]
    done: PhotoPatch | None


def existing_set(connection: sqlite3.Connection, set_id: int) -> PictureSet:
    """A set, or a clear refusal."""
    found = rows.set_by_id(connection, set_id)
    if found is None:
        raise NotThereError("There is no such set of pictures. It may have been removed.")
    return found


def begin(library: Library, wanted: NewSet) -> int:
    """Begin a set; raises `BadArgumentError` for a folder or a map that cannot serve."""
    folder = chosen_folder(library, wanted.folder)
    pictures = [below.as_posix() for _, below in pictures_in([folder])]
    with library.database.write() as connection:
        body_or_refuse(connection, wanted.body_id)
        spot_map = _map_for(library, connection, wanted)
        kind: rows.SetKind = "arrivals" if spot_map is None else "patch"
        set_id = rows.add_set(
            connection,
            wanted.body_id,
            kind,
            str(folder),
            frame_id=wanted.frame_id,
            map_json=spot_map.model_dump_json() if spot_map else None,
        )
        rows.put_pictures(connection, set_id, pictures)
    return set_id


def chosen_folder(library: Library, given: str) -> Path:
    """A folder of pictures; of those in the data folder the demo's and dropped ones alone."""
    folder = Path(given.strip()).expanduser()
    if folder.is_absolute() and folder.is_dir():
        whole = folder.resolve()
        if whole == (library.root / DEMO_PICTURES).resolve() or is_upload(library, whole):
            return whole
    return named_folder(given, library.root)


def demo_pictures(library: Library) -> DemoPictures | None:
    """The demo archive's own pictures and their body; None where they are not there."""
    folder = library.root / DEMO_PICTURES
    if not folder.is_dir():
        return None
    with library.database.read() as connection:
        names = {name: number for number, name in name_of(connection).items()}
    body_id = names.get(DEMO_BODY)
    return DemoPictures(folder=str(folder), body_id=body_id) if body_id else None


def _map_for(library: Library, connection: sqlite3.Connection, wanted: NewSet) -> SpotMap | None:
    if wanted.frame_id is not None:
        frame_or_refuse(connection, wanted.frame_id)
        spot_map = library.maps.spot_map(connection, wanted.frame_id)
        if spot_map is None:
            raise ConflictError("This frame is not measured yet. Wait for its map.")
    elif wanted.arrivals_id is not None:
        search = existing_set(connection, wanted.arrivals_id)
        if search.result_json is None:
            raise ConflictError("This search is not done yet. Wait for it.")
        spot_map = marks_as_map(Arrivals.model_validate_json(search.result_json))
    else:
        return None
    check_map(spot_map)
    if not patchable(spot_map):
        raise BadArgumentError("This map holds no spots on the sensor: there is nothing to patch.")
    return spot_map


def maps_for(library: Library, body_id: int) -> list[MapChoice]:
    """Measured frames on a body's trails that hold spots, the newest first."""
    with library.database.read() as connection:
        body_or_refuse(connection, body_id)
        return [MapChoice(**choice) for choice in rows.maps_of_body(connection, body_id)]


def patching_of(connection: sqlite3.Connection, of: PictureSet) -> Patching:
    """What patching a set rests on: its map, the body's fingerprint, the owner's vetoes."""
    if of.map_json is None:
        raise ConflictError("This set of pictures was searched, not patched.")
    kept = reference_of(connection, of.body_id)
    vetoes = {
        str(Path(of.folder) / p.path): frozenset(p.veto)
        for p in rows.all_pictures(connection, of.id)
        if p.veto
    }
    return Patching(
        spot_map=SpotMap.model_validate_json(of.map_json),
        reference=from_bytes(kept.pattern) if kept else None,
        veto=frozenset(of.veto),
        vetoes=vetoes,
    )


def shown_folder(library: Library, set_id: int) -> Path:
    """Where small copies and previews of a set lie; all of it can be made again."""
    return library.root / "pictures" / str(set_id)


def view_of(library: Library, set_id: int) -> SetView:
    """A set as the page shows it."""
    with library.database.read() as connection:
        return _view(library, connection, existing_set(connection, set_id), name_of(connection))


def views(library: Library) -> list[SetView]:
    """All sets, the newest first."""
    with library.database.read() as connection:
        names = name_of(connection)
        return [_view(library, connection, s, names) for s in rows.all_sets(connection)]


def _view(
    library: Library, connection: sqlite3.Connection, of: PictureSet, names: dict[int, str]
) -> SetView:
    spot_map = SpotMap.model_validate_json(of.map_json) if of.map_json else None
    return SetView(
        id=of.id,
        body_id=of.body_id,
        body_name=names.get(of.body_id, ""),
        kind=of.kind,
        folder=of.folder,
        out_folder=of.out_folder,
        frame_id=of.frame_id,
        map_words=_map_words(spot_map, of),
        spots=tuple(s.id for s in patchable(spot_map)) if spot_map else (),
        veto=of.veto,
        work=of.work,
        state=of.state,
        step=of.step,
        progress=of.progress,
        error=of.error,
        counts=Counts(**rows.counts_of(connection, of.id)),
        uploaded=is_upload(library, Path(of.folder)),
        result_words=_result_words(of),
        created_at=of.created_at,
    )


def _map_words(spot_map: SpotMap | None, of: PictureSet) -> str:
    if spot_map is None:
        return ""
    spots = counted(len(patchable(spot_map)), "spot")
    taken = spot_map.frames[0].taken_at
    if of.frame_id is None:
        return f"marks found in everyday pictures, {spots}"
    if not taken:
        return f"test frame, {spots}"
    day = day_of(taken)
    return f"test frame of {short_day_words(day)} {day.year}, {spots}"


def _result_words(of: PictureSet) -> tuple[str, ...]:
    if of.result_json is None:
        return ()
    return arrivals_in_words(Arrivals.model_validate_json(of.result_json))


def picture_view(row: rows.PictureRow) -> PictureView:
    """A picture as the page shows it."""
    return PictureView(
        number=row.number,
        name=row.path,
        looked=LookedPicture.model_validate_json(row.looked_json) if row.looked_json else None,
        leave=row.leave,
        veto=row.veto,
        done=PhotoPatch.model_validate_json(row.done_json) if row.done_json else None,
    )


def choose_out_folder(of: PictureSet, given: str, data: Path) -> Path:
    """Where the copies go, as a whole path.

    Raises `BadArgumentError` where it is the folder of the originals, within the data folder, or
    cannot be made.
    """
    folder = Path(given.strip()).expanduser()
    if not folder.is_absolute():
        raise BadArgumentError("out_folder: give the whole path of the folder.")
    try:
        folder = folder.resolve()
        source = Path(of.folder).resolve()
        refuse_systems_own(folder)
        if folder == source or source.is_relative_to(folder):
            raise BadArgumentError("out_folder: the originals lie there. Choose another folder.")
        if _is_own(folder, data.resolve()):
            raise BadArgumentError(
                "out_folder: this is where the program keeps its own data. Choose another folder."
            )
        folder.mkdir(parents=True, exist_ok=True)
    except (OSError, ValueError, RuntimeError):
        raise BadArgumentError(
            f"out_folder: {given.strip()} cannot be made or written to. Choose another folder."
        ) from None
    return folder


def require_room_for(library: Library, set_id: int, given: str | None) -> None:
    """Raises `BadArgumentError` where the copies that are still to be written have no room.

    ``given``: the folder they go to; None for the one chosen before.
    """
    with library.database.read() as connection:
        of = existing_set(connection, set_id)
        waiting = [p for p in rows.all_pictures(connection, set_id) if not p.leave]
    out = Path((given or of.out_folder or of.folder).strip()).expanduser()
    same = str(out) == of.out_folder
    still = [p for p in waiting if not (same and p.done_json)]
    if out.is_absolute():
        require_room([Path(of.folder) / p.path for p in still], out)


def _is_own(folder: Path, data: Path) -> bool:
    """Whether a folder is of the program's own data, the demo's copies aside."""
    if not folder.is_relative_to(data):
        return False
    return not folder.relative_to(data).as_posix().startswith(f"{DEMO_PICTURES}-")


def forget(library: Library, set_id: int) -> None:
    """Forget a set and what was made to show it; originals and copies stay."""
    with library.database.write() as connection:
        folder = existing_set(connection, set_id).folder
        rows.remove_set(connection, set_id)
        others = any(s.folder == folder for s in rows.all_sets(connection))
    if not others:
        drop_upload(library, Path(folder))
    shutil.rmtree(shown_folder(library, set_id), ignore_errors=True)


def result_of(library: Library, set_id: int) -> Arrivals | None:
    """What a search found; None while it is not done."""
    with library.database.read() as connection:
        of = existing_set(connection, set_id)
    return Arrivals.model_validate_json(of.result_json) if of.result_json else None


def marks_of(library: Library, set_id: int) -> dict[str, object]:
    """A set's marks as open data, for use elsewhere."""
    with library.database.read() as connection:
        existing_set(connection, set_id)
        pictures = rows.all_pictures(connection, set_id)
    return {
        "schema": "neatpatch.marks/1",
        "pictures": [
            {"path": p.path, **json.loads(p.looked_json)} for p in pictures if p.looked_json
        ],
    }
