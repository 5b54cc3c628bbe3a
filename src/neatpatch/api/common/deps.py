"""What routes ask of the application and of a request."""

from __future__ import annotations

from collections.abc import Iterator
from typing import Annotated, Any

from fastapi import Depends, Header, Path, Request
from pydantic import BaseModel, WithJsonSchema

from neatpatch.api.common.streams import Streams
from neatpatch.core.common.errors import BadArgumentError, ChangedElsewhereError
from neatpatch.jobs.pictures import PictureRunner
from neatpatch.jobs.runner import Runner
from neatpatch.services.safety.chores import Chores
from neatpatch.services.safety.keeping import BackupKeeper
from neatpatch.services.stats.bookkeeping import Bookkeeper
from neatpatch.services.watched.folders import Folders
from neatpatch.store.datafolder import Library
from neatpatch.store.devices import StoredDevice

_MOST = 2**53 - 1
SHARED = "neatpatch.shared"
"""Where a request says that it came through the shared door, and was checked there."""
ROOM_AT = "/trial"
"""Where the room of a practised clean is served; the page knows it as well."""
Id = Annotated[int, Path(ge=1, le=_MOST)]
"""The number of something kept, in a path."""


def library_of(request: Request) -> Library:
    """The open data folder."""
    library: Library = request.app.state.data
    return library


def runner_of(request: Request) -> Runner:
    """The job runner."""
    runner: Runner = request.app.state.runner
    return runner


def folders_of(request: Request) -> Folders:
    """The watched folders."""
    folders: Folders = request.app.state.folders
    return folders


def keeper_of(request: Request) -> BackupKeeper:
    """What takes backups."""
    keeper: BackupKeeper = request.app.state.keeper
    return keeper


def chores_of(request: Request) -> Chores:
    """Backups, checks and merges begun from the page."""
    chores: Chores = request.app.state.chores
    return chores


def bookkeeper_of(request: Request) -> Bookkeeper:
    """What keeps the record."""
    bookkeeper: Bookkeeper = request.app.state.bookkeeper
    return bookkeeper


def trouble_of(request: Request) -> str | None:
    """What keeps work of the background from going on; None while all is well."""
    state = request.app.state
    troubles = (state.runner.trouble, state.pictures.trouble, state.bookkeeper.trouble)
    return next((words for words in troubles if words), None)


def pictures_of(request: Request) -> PictureRunner:
    """What works on sets of pictures."""
    pictures: PictureRunner = request.app.state.pictures
    return pictures


def who_of(request: Request) -> StoredDevice | None:
    """The paired device that asks; None for the machine itself."""
    device: StoredDevice | None = request.scope.get(SHARED)
    return device


def streams_of(request: Request) -> Streams:
    """The event streams now open."""
    streams: Streams = request.app.state.streams
    return streams


def seen_version(
    if_match: Annotated[
        str | None,
        Header(
            max_length=40,
            pattern=r'^ *"? *[0-9]{1,15} *"? *$',
            description="Version the page last saw, like 3.",
        ),
        WithJsonSchema({"type": "string", "pattern": r'^"?[0-9]{1,15}"?$'}),
    ] = None,
) -> int | None:
    """The version that the caller looked at; None takes any."""
    if if_match is None:
        return None
    text = if_match.strip('" ')
    if not (text.isascii() and text.isdigit() and int(text) <= _MOST):
        raise BadArgumentError("If-Match must be the version that was last seen, like 3.")
    return int(text)


BookkeeperDep = Annotated[Bookkeeper, Depends(bookkeeper_of)]
LibraryDep = Annotated[Library, Depends(library_of)]
Jobs = Annotated[Runner, Depends(runner_of)]
ChoresDep = Annotated[Chores, Depends(chores_of)]
KeeperDep = Annotated[BackupKeeper, Depends(keeper_of)]
FoldersDep = Annotated[Folders, Depends(folders_of)]
PicturesDep = Annotated[PictureRunner, Depends(pictures_of)]
TroubleDep = Annotated[str | None, Depends(trouble_of)]
WhoDep = Annotated[StoredDevice | None, Depends(who_of)]
StreamsDep = Annotated[Streams, Depends(streams_of)]
SeenVersion = Annotated[int | None, Depends(seen_version)]
RequestKey = Annotated[
    str | None,
    Header(
        alias="Idempotency-Key",
        min_length=8,
        max_length=64,
        pattern=r"^[A-Za-z0-9_-]+$",
        description="Made by the caller; the same request under the same key is done once.",
    ),
    WithJsonSchema({"type": "string", "pattern": "^[A-Za-z0-9_-]{8,64}$"}),
]


def require_seen(seen: int | None, stored: int, kept: BaseModel, given: BaseModel) -> None:
    """Refuse to overwrite what was changed since the caller looked at it, naming what differs."""
    if seen is None or seen == stored:
        return
    named = ", ".join(_differences(kept.model_dump(mode="json"), given.model_dump(mode="json")))
    raise ChangedElsewhereError(
        "This was changed elsewhere since you opened it. "
        + (f"It now says: {named}. " if named else "")
        + "Nothing was overwritten. Save once more to keep yours."
    )


_UNITS = {"c": "°C", "percent": "%", "mm": "mm", "um": "µm", "minutes": "min", "days": "days"}


def _differences(now: dict[str, Any], given: dict[str, Any]) -> Iterator[str]:
    """Fields that differ, each with what is kept now."""
    for name, value in now.items():
        if name in ("id", "version") or value == given.get(name):
            continue
        if isinstance(value, dict):
            yield from _differences(value, given.get(name) or {})
        else:
            yield _told(name, value)


def _told(name: str, value: object) -> str:
    """A field and its value, with the unit that its name ends with."""
    words = name.split("_")
    unit = f" {_UNITS[words.pop()]}" if words[-1] in _UNITS and len(words) > 1 else ""
    if value in (None, "", []):
        return f"{' '.join(words)} nothing"
    shown = f"{value:g}" if isinstance(value, float) else str(value)
    return f"{' '.join(words)} {shown}{unit}"
