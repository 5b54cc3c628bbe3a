"""Backups kept by themselves: one a day into a chosen folder, the last ones kept.

A backup carries the library's name in its own. What has another one, or is named otherwise, is
somebody else's: it counts for nothing and is never removed.
"""

from __future__ import annotations

import logging
import threading
from collections.abc import Callable
from datetime import UTC, datetime, timedelta
from pathlib import Path

from pydantic import BaseModel, Field

from neatpatch.core.common.errors import BadArgumentError, BusyError
from neatpatch.core.common.records import Flag, Given, Whole
from neatpatch.services.common.forever import Backoff, Forever
from neatpatch.services.safety.archive import back_up, clear_partial_archives
from neatpatch.services.safety.leftovers import SetAside, set_aside
from neatpatch.services.safety.ticking import Tick, unseen
from neatpatch.services.watched.folders import named_folder
from neatpatch.store.database import note_backup
from neatpatch.store.datafolder import Library
from neatpatch.store.settings import get_record, get_setting, put_record, put_setting

PLAN = "backup"
_SINCE, LIBRARY_ID = "backup_since", "library_id"
_STAMP = "%Y%m%d-%H%M%S"
_EVERY = timedelta(days=1)
_OLD = timedelta(days=3)
"""A backup older than this is warned about: two days in a row none was taken."""
_LOOK_EVERY_S = 60.0
_log = logging.getLogger("neatpatch.backup")


class BackupPlan(Given):
    """Where backups go, and how many are kept. ``folder``: empty for none."""

    folder: str = Field(default="", max_length=1000)
    keep: Whole = Field(default=7, ge=1, le=365)
    daily: Flag = True


class BackupState(BaseModel):
    """The plan and how it goes. ``overdue``: backups are wanted, and none was made for days.

    ``none_since``: when the last was made, or backups were first wanted; ``error``: why the last
    try failed, empty once one succeeded.
    """

    folder: str
    keep: int
    daily: bool
    running: bool
    last_name: str | None
    last_at: datetime | None
    last_bytes: int | None
    overdue: bool
    none_since: datetime | None
    error: str
    set_aside: SetAside


class BackupKeeper:
    """Takes backups from a thread of its own, from `start` to `stop`."""

    def __init__(
        self, library: Library, clock: Callable[[], datetime] = lambda: datetime.now(UTC)
    ) -> None:
        self._library, self._clock = library, clock
        self._taking = threading.Lock()
        self._loop = Forever(
            "backup",
            self._look,
            backoff=Backoff(first_s=_LOOK_EVERY_S, longest_s=_LOOK_EVERY_S),
        )

    def start(self) -> None:
        """Begin; a backup that is due is taken soon."""
        self._loop.start()

    def stop(self) -> None:
        """End the thread. A backup being written ends with the process and leaves no half one."""
        self._loop.stop()

    @property
    def trouble(self) -> str | None:
        """What keeps a backup from being taken; None while nothing does."""
        return self._loop.trouble

    def _look(self) -> float:
        if self._due():
            self.take()
        return _LOOK_EVERY_S

    def plan(self) -> BackupPlan:
        """What is wanted."""
        with self._library.database.read() as connection:
            return get_record(connection, PLAN, BackupPlan)

    def choose(self, plan: BackupPlan) -> None:
        """Say where backups go. Raises `BadArgumentError` where they cannot."""
        if plan.folder:
            plan = plan.model_copy(
                update={"folder": str(named_folder(plan.folder, self._library.root))}
            )
        with self._library.database.write() as connection:
            before = get_record(connection, PLAN, BackupPlan)
            put_record(connection, PLAN, plan)
            if plan.folder != before.folder or get_setting(connection, _SINCE) is None:
                put_setting(connection, _SINCE, self._clock().isoformat(timespec="seconds"))
        self._loop.trouble = None
        self._loop.nudge()

    def take(self, tick: Tick = unseen) -> BackupState:
        """Take a backup now. Raises where none can be taken, or one is being taken."""
        plan = self.plan()
        if not plan.folder:
            raise BadArgumentError("folder: say first into which folder backups go.")
        if not self._taking.acquire(blocking=False):
            raise BusyError("A backup is being taken already. Wait for it.")
        try:
            self._take(plan, tick)
        finally:
            self._taking.release()
        return self.state()

    def _take(self, plan: BackupPlan, tick: Tick) -> None:
        folder = Path(plan.folder)
        archive = folder / f"{self._prefix()}{self._clock().strftime(_STAMP)}.zip"
        if folder.is_dir():
            clear_partial_archives(folder, self._prefix())
        back_up(self._library.root, archive, tick)
        note_backup(self._library.root, archive)
        self._loop.trouble = None
        for old in self._kept(plan)[plan.keep :]:
            old.unlink(missing_ok=True)

    def _due(self) -> bool:
        plan = self.plan()
        if not plan.folder or not plan.daily:
            return False
        last = self._last_at(plan)
        return last is None or self._clock() - last >= _EVERY

    def _kept(self, plan: BackupPlan) -> list[Path]:
        """Backups of this library in the folder, the newest first, by the names they carry."""
        if not plan.folder or not Path(plan.folder).is_dir():
            return []
        prefix = self._prefix()
        return sorted(
            (p for p in Path(plan.folder).iterdir() if _taken_at(p, prefix) is not None),
            reverse=True,
        )

    def _prefix(self) -> str:
        with self._library.database.read() as connection:
            return f"neatpatch-backup-{get_setting(connection, LIBRARY_ID) or 'unnamed'}-"

    def _last_at(self, plan: BackupPlan) -> datetime | None:
        kept = self._kept(plan)
        return _taken_at(kept[0], self._prefix()) if kept else None

    def _none_since(self, plan: BackupPlan) -> datetime | None:
        """Since when none was made; None where none is wanted."""
        if not plan.folder:
            return None
        with self._library.database.read() as connection:
            since = get_setting(connection, _SINCE)
        return self._last_at(plan) or (datetime.fromisoformat(since) if since else self._clock())

    def state(self) -> BackupState:
        """The plan, the last backup, and what keeps a new one from being taken."""
        plan = self.plan()
        last = next(iter(self._kept(plan)), None)
        since = self._none_since(plan)
        return BackupState(
            folder=plan.folder,
            keep=plan.keep,
            daily=plan.daily,
            running=self._taking.locked(),
            last_name=last.name if last else None,
            last_at=self._last_at(plan),
            last_bytes=last.stat().st_size if last else None,
            overdue=since is not None and self._clock() - since > _OLD,
            none_since=since,
            error=self.trouble or "",
            set_aside=set_aside(self._library.originals),
        )


def _taken_at(path: Path, prefix: str) -> datetime | None:
    """When a backup was taken, by its name; None where it is not one of this library's."""
    stamp = path.name.removeprefix(prefix).removesuffix(".zip")
    if path.name != f"{prefix}{stamp}.zip":
        return None
    try:
        moment = datetime.strptime(stamp, _STAMP)
    except ValueError:
        return None
    return moment.replace(tzinfo=UTC) if moment.strftime(_STAMP) == stamp else None
