"""Routes of backup, check and merging."""

from __future__ import annotations

from pathlib import Path
from typing import Literal

from fastapi import APIRouter
from pydantic import BaseModel, Field

from neatpatch.api.common.deps import ChoresDep, KeeperDep, LibraryDep
from neatpatch.core.common.records import Given
from neatpatch.services.safety.chores import Chore
from neatpatch.services.safety.keeping import BackupPlan, BackupState
from neatpatch.services.safety.leftovers import delete_old

router = APIRouter(prefix="/api")


class WantedChore(Given):
    """What to do now; ``archive``: the backup to merge, by its whole path on this machine."""

    kind: Literal["backup", "check", "merge"]
    archive: str = Field(default="", max_length=1000)


class LastChore(BaseModel):
    """The chore that runs, or the last one; null before the first."""

    chore: Chore | None


@router.get("/backup")
def backup(keeper: KeeperDep) -> BackupState:
    """Where backups go, and the last one."""
    return keeper.state()


@router.put("/backup")
def choose_backup(plan: BackupPlan, keeper: KeeperDep) -> BackupState:
    """Say where backups go and how many are kept; a due one is taken soon."""
    keeper.choose(plan)
    return keeper.state()


@router.delete("/backup/aside")
def delete_aside(library: LibraryDep, keeper: KeeperDep) -> BackupState:
    """Delete the files that were set aside more than thirty days ago."""
    delete_old(library.originals)
    return keeper.state()


@router.get("/backup/chore")
def chore(chores: ChoresDep) -> LastChore:
    """How far a backup, check or merge is, and what came of it."""
    return LastChore(chore=chores.last())


@router.post("/backup/chore", status_code=202)
def begin(wanted: WantedChore, chores: ChoresDep) -> LastChore:
    """Begin one: a backup, read back before it is called done; a check; or a merge."""
    if wanted.kind == "backup":
        return LastChore(chore=chores.back_up())
    if wanted.kind == "check":
        return LastChore(chore=chores.check())
    return LastChore(chore=chores.merge(Path(wanted.archive)))


@router.delete("/backup/chore")
def stop(chores: ChoresDep) -> LastChore:
    """Stop the one that runs; nothing of it is left."""
    return LastChore(chore=chores.stop())
