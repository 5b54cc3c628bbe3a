"""Routes of backup and check."""

from __future__ import annotations

from fastapi import APIRouter

from neatpatch.api.common.deps import KeeperDep, LibraryDep
from neatpatch.services.safety.checking import CheckReport, check
from neatpatch.services.safety.keeping import BackupPlan, BackupState

router = APIRouter(prefix="/api")


@router.get("/backup")
def backup(keeper: KeeperDep) -> BackupState:
    """Where backups go, and the last one."""
    return keeper.state()


@router.put("/backup")
def choose_backup(plan: BackupPlan, keeper: KeeperDep) -> BackupState:
    """Say where backups go and how many are kept; a due one is taken soon."""
    keeper.choose(plan)
    return keeper.state()


@router.post("/backup", status_code=201)
def back_up_now(keeper: KeeperDep) -> BackupState:
    """Take a backup now; it is read back before this answers."""
    return keeper.take()


@router.get("/check")
def checked(library: LibraryDep) -> CheckReport:
    """Hold every original against its hash and the database against its rules."""
    return check(library.root)
