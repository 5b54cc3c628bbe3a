"""Backups kept by themselves: one a day into a chosen folder, the last ones kept."""

from __future__ import annotations

import logging
import threading
from collections.abc import Callable
from datetime import UTC, datetime, timedelta
from pathlib import Path

from pydantic import BaseModel, Field

from neatpatch.core.common.errors import BadArgumentError, BusyError, NeatPatchError
from neatpatch.core.common.records import Flag, Given, Whole
from neatpatch.services.safety.archive import back_up
from neatpatch.services.safety.ticking import Tick, unseen
from neatpatch.services.watched.folders import named_folder
from neatpatch.store.database import note_backup
from neatpatch.store.datafolder import Library
from neatpatch.store.settings import get_record, put_record

PLAN = "backup"
_PREFIX = "neatpatch-backup-"
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
    """The plan and how it goes. ``overdue``: backups are wanted, and the last is days old.

    ``error``: why the last try failed; empty once one succeeded.
    """

    folder: str
    keep: int
    daily: bool
    running: bool
    last_name: str | None
    last_at: datetime | None
    last_bytes: int | None
    overdue: bool
    error: str


class Keeper:
    """Takes backups from a thread of its own, from `start` to `stop`."""

    def __init__(
        self, library: Library, clock: Callable[[], datetime] = lambda: datetime.now(UTC)
    ) -> None:
        self._library, self._clock = library, clock
        self._stop, self._wake = threading.Event(), threading.Event()
        self._taking = threading.Lock()
        self._error = ""
        self._thread = threading.Thread(target=self._run, name="backup", daemon=True)

    def start(self) -> None:
        """Begin; a backup that is due is taken soon."""
        self._thread.start()

    def stop(self) -> None:
        """End the thread. A backup being written ends with the process and leaves no half one."""
        self._stop.set()
        self._wake.set()
        self._thread.join(timeout=5)

    def _run(self) -> None:
        while not self._stop.is_set():
            if self._due():
                self._try()
            self._wake.wait(_LOOK_EVERY_S)
            self._wake.clear()

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
            put_record(connection, PLAN, plan)
        self._error = ""
        self._wake.set()

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
        stamp = self._clock().strftime("%Y%m%d-%H%M%S")
        archive = Path(plan.folder) / f"{_PREFIX}{stamp}.zip"
        back_up(self._library.root, archive, tick)
        note_backup(self._library.root, archive)
        self._error = ""
        for old in self._kept(plan)[plan.keep :]:
            old.unlink(missing_ok=True)

    def _try(self) -> None:
        try:
            self.take()
        except (NeatPatchError, OSError) as error:
            self._error = str(error)
            _log.warning("no backup could be taken: %s", error)

    def _due(self) -> bool:
        plan = self.plan()
        return bool(plan.folder) and plan.daily and self._age(plan) >= _EVERY

    def _kept(self, plan: BackupPlan) -> list[Path]:
        """Backups in the folder, the newest first; their names tell when they were taken."""
        if not plan.folder or not Path(plan.folder).is_dir():
            return []
        return sorted(Path(plan.folder).glob(f"{_PREFIX}*.zip"), reverse=True)

    def _age(self, plan: BackupPlan) -> timedelta:
        kept = self._kept(plan)
        return timedelta.max if not kept else self._clock() - _taken_at(kept[0])

    def state(self) -> BackupState:
        """The plan, the last backup, and what keeps a new one from being taken."""
        plan = self.plan()
        last = next(iter(self._kept(plan)), None)
        return BackupState(
            folder=plan.folder,
            keep=plan.keep,
            daily=plan.daily,
            running=self._taking.locked(),
            last_name=last.name if last else None,
            last_at=_taken_at(last) if last else None,
            last_bytes=last.stat().st_size if last else None,
            overdue=bool(plan.folder) and self._age(plan) > _OLD,
            error=self._error,
        )


def _taken_at(path: Path) -> datetime:
    try:
        moment = datetime.strptime(path.stem.removeprefix(_PREFIX), "%Y%m%d-%H%M%S")
    except ValueError:
        return datetime.fromtimestamp(path.stat().st_mtime, UTC)
    return moment.replace(tzinfo=UTC)
