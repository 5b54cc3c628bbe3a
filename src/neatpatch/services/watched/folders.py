"""The watched folders: those kept in the data folder, and one named when the server was started."""

from __future__ import annotations

import threading
from collections.abc import Callable
from dataclasses import dataclass
from datetime import datetime
from pathlib import Path

from neatpatch.core.common.errors import BadArgumentError, NotThereError
from neatpatch.images.limits import DEFAULT_LIMITS, Limits
from neatpatch.services.common.lookups import body_or_refuse
from neatpatch.services.watched.watching import Watcher
from neatpatch.store import watched as watched_rows
from neatpatch.store.datafolder import Library
from neatpatch.store.watched import WatchedFolder

_MOST_FOLDERS = 20


@dataclass(frozen=True)
class FolderState:
    """A watched folder and how it goes. ``id``: None for the one named at the start."""

    id: int | None
    path: str
    body_id: int | None
    there: bool
    taken: int
    last_name: str | None
    last_at: datetime | None
    refused: str


class Folders:
    """Keeps a watcher for every folder, from `start` to `stop`."""

    def __init__(
        self,
        library: Library,
        tell: Callable[[], None],
        limits: Limits = DEFAULT_LIMITS,
        named: Path | None = None,
    ) -> None:
        self._library, self._tell, self._limits = library, tell, limits
        self._named = Watcher(library, named, tell, limits) if named else None
        self._named_path = named
        self._watchers: dict[int, tuple[WatchedFolder, Watcher]] = {}
        self._lock = threading.Lock()

    @property
    def named(self) -> Watcher | None:
        """The watcher of the folder named at the start."""
        return self._named

    def start(self) -> None:
        """Follow all of them. A folder that is not there is waited for, but for the one named."""
        if self._named:
            self._named.start()
        with self._library.database.read() as connection:
            kept = watched_rows.folders(connection)
        with self._lock:
            for folder in kept:
                self._follow(folder)

    def _follow(self, folder: WatchedFolder) -> None:
        watcher = Watcher(
            self._library, Path(folder.path), self._tell, self._limits, folder.body_id
        )
        watcher.begin()
        self._watchers[folder.id] = folder, watcher

    def stop(self) -> None:
        """End all of them."""
        with self._lock:
            watchers = [w for _, w in self._watchers.values()]
            self._watchers.clear()
        for watcher in [*watchers, *([self._named] if self._named else [])]:
            watcher.stop()

    def states(self) -> list[FolderState]:
        """All of them, the one named at the start first."""
        with self._lock:
            kept = sorted(self._watchers.values(), key=lambda pair: pair[0].id)
        found = [_state(f.id, f.path, f.body_id, w) for f, w in kept]
        if self._named and self._named_path:
            found.insert(0, _state(None, str(self._named_path), None, self._named))
        return found

    def add(self, path: str, body_id: int | None) -> None:
        """Watch a folder from now on, or say again whose frames come there.

        Raises `BadArgumentError` where it cannot be watched, with what to do.
        """
        folder = self._usable(path)
        with self._library.database.write() as connection:
            if body_id is not None:
                body_or_refuse(connection, body_id)
            others = [f for f in watched_rows.folders(connection) if f.path != str(folder)]
            if len(others) >= _MOST_FOLDERS:
                raise BadArgumentError(
                    f"path: {_MOST_FOLDERS} folders are watched already. Remove one first."
                )
            folder_id = watched_rows.add_folder(connection, str(folder), body_id)
        with self._lock:
            before = self._watchers.pop(folder_id, None)
            self._follow(WatchedFolder(folder_id, str(folder), body_id))
        if before is not None:
            before[1].stop()

    def _usable(self, path: str) -> Path:
        folder = named_folder(path, self._library.root)
        if self._named_path and folder == self._named_path.resolve():
            raise BadArgumentError("path: this folder is watched already.")
        return folder

    def remove(self, folder_id: int) -> None:
        """Watch a folder no more; what was taken in stays."""
        with self._lock:
            known = self._watchers.pop(folder_id, None)
        if known is None:
            raise NotThereError("This folder is not watched. It may have been removed.")
        known[1].stop()
        with self._library.database.write() as connection:
            watched_rows.remove_folder(connection, folder_id)


_SYSTEMS_OWN = ("/proc", "/sys", "/dev", "/run")


def refuse_systems_own(folder: Path) -> None:
    """Refuse the root of the machine and what the system keeps for itself."""
    whole = folder.resolve()
    if whole == Path(whole.anchor) or any(whole.is_relative_to(p) for p in _SYSTEMS_OWN):
        raise BadArgumentError(
            f"{folder}: this belongs to the system. Choose a folder of your own."
        )


def named_folder(path: str, data: Path) -> Path:
    """A folder of this machine that someone named, resolved.

    Raises `BadArgumentError`, with what to do, where it is not its whole path, cannot be read, or
    lies within the ``data`` folder.
    """
    folder = Path(path.strip()).expanduser()
    if not folder.is_absolute():
        raise BadArgumentError("path: give the whole path of the folder, from its beginning.")
    try:
        folder = folder.resolve()
        refuse_systems_own(folder)
        next(folder.iterdir(), None)
    except (OSError, ValueError, RuntimeError):
        raise BadArgumentError(
            f"path: there is no folder {path.strip()} that can be read. Make it, or check its path."
        ) from None
    if folder.is_relative_to(data.resolve()):
        raise BadArgumentError(
            "path: this is where the program keeps its own data. Choose another folder."
        )
    return folder


def _state(folder_id: int | None, path: str, body_id: int | None, watcher: Watcher) -> FolderState:
    name, at = watcher.last or (None, None)
    said = watcher.trouble or watcher.refused
    return FolderState(folder_id, path, body_id, watcher.there, watcher.taken, name, at, said)
