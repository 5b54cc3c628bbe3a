"""What routes ask of the application."""

from __future__ import annotations

from typing import Annotated

from fastapi import Depends, Request

from neatpatch.store.datafolder import Library
from neatpatch.web.jobs import Runner


def library_of(request: Request) -> Library:
    """The open data folder."""
    found: Library = request.app.state.data
    return found


def runner_of(request: Request) -> Runner:
    """The job runner."""
    found: Runner = request.app.state.runner
    return found


Shelf = Annotated[Library, Depends(library_of)]
Jobs = Annotated[Runner, Depends(runner_of)]
