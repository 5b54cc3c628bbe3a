"""Kinds of job that others bring: what the runner and its workers must know of them."""

from __future__ import annotations

import sqlite3
from abc import ABC, abstractmethod
from collections.abc import Callable
from dataclasses import dataclass

from neatpatch.store.datafolder import Library
from neatpatch.store.jobs import StoredJob

Emit = Callable[[object], None]


class BroughtTask(ABC):
    """A task that brings its own work; it is sent to a worker process whole."""

    @abstractmethod
    def run(self, emit: Emit, answer: Callable[[], object]) -> None:
        """Do the work there. After each `BroughtResult` wait for ``answer``: it was taken in."""


class BroughtResult(ABC):
    """What such a task made, to be taken in by the process that owns the library."""

    @abstractmethod
    def take_in(self, library: Library, job: StoredJob) -> None:
        """Take it in. Done twice it does no harm."""


@dataclass(frozen=True, kw_only=True)
class JobKind:
    """``task`` makes a job's task, ``done`` is called with the transaction that ends the job."""

    task: Callable[[Library, StoredJob], BroughtTask]
    limit_s: float
    done: Callable[[sqlite3.Connection], None]
