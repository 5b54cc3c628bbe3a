"""Routes of the watched folders."""

from __future__ import annotations

from datetime import datetime

from fastapi import APIRouter
from pydantic import BaseModel, Field

from neatpatch.api.common.deps import FoldersDep, Id, LibraryDep
from neatpatch.core.common.records import Given, RowId
from neatpatch.services.watched.folders import Folders
from neatpatch.store.bodies import name_of
from neatpatch.store.datafolder import Library

router = APIRouter(prefix="/api/watched")


class NewFolder(Given):
    """A folder to watch. ``body_id``: whose frames come there; None to recognise each."""

    path: str = Field(min_length=1, max_length=1000)
    body_id: RowId | None = None


class Watched(BaseModel):
    """A watched folder and how it goes.

    ``id``: None for the folder named when the server was started, which is removed there.
    ``there``: it is followed now. ``refused``: the newest file left alone, and why.
    """

    id: int | None
    path: str
    body_id: int | None
    body_name: str | None
    there: bool
    taken: int
    last_name: str | None
    last_at: datetime | None
    refused: str


@router.get("")
def watched(folders: FoldersDep, library: LibraryDep) -> list[Watched]:
    """All watched folders."""
    return _all(folders, library)


def _all(folders: Folders, library: Library) -> list[Watched]:
    with library.database.read() as connection:
        names = name_of(connection)
    return [
        Watched(
            id=f.id,
            path=f.path,
            body_id=f.body_id,
            body_name=names.get(f.body_id) if f.body_id is not None else None,
            there=f.there,
            taken=f.taken,
            last_name=f.last_name,
            last_at=f.last_at,
            refused=f.refused,
        )
        for f in folders.states()
    ]


@router.post("", status_code=201)
def watch(wanted: NewFolder, folders: FoldersDep, library: LibraryDep) -> list[Watched]:
    """Watch a folder from now on: pictures that come there are taken in by themselves."""
    folders.add(wanted.path, wanted.body_id)
    return _all(folders, library)


@router.delete("/{folder_id}")
def unwatch(folder_id: Id, folders: FoldersDep, library: LibraryDep) -> list[Watched]:
    """Watch a folder no more; what was taken in stays."""
    folders.remove(folder_id)
    return _all(folders, library)
