"""Long work: how far it is, and its end."""

from __future__ import annotations

from fastapi import APIRouter

from neatpatch.api.common.deps import Id, Jobs, LibraryDep
from neatpatch.services.common.lookups import job_of
from neatpatch.services.common.views import Job

router = APIRouter(prefix="/api")


@router.get("/jobs/{job_id}")
def job(job_id: Id, library: LibraryDep) -> Job:
    """How far a job is."""
    return job_of(library, job_id)


@router.delete("/jobs/{job_id}")
def cancel_job(job_id: Id, library: LibraryDep, runner: Jobs) -> Job:
    """Stop a job. The frame it was about stays, and can be measured again."""
    job_of(library, job_id)
    runner.cancel(job_id)
    return job_of(library, job_id)
