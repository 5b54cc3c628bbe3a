"""Workers: there at once with their libraries, ended and begun again, whoever is told to end."""

from __future__ import annotations

import os
import signal
import sys
from collections.abc import Iterator
from multiprocessing.connection import Connection
from pathlib import Path

import pytest

from neatpatch.jobs.processes import WorkerProcess

SOURCE = Path(__file__).parents[2] / "src" / "neatpatch"
PATIENCE_S = 600


def tells_of_itself(pipe: Connection) -> None:
    """What is loaded, which signals are blocked, and whose child it is, for each word it gets."""
    blocked = signal.pthread_sigmask(signal.SIG_BLOCK, ())
    while True:
        try:
            pipe.recv()
        except EOFError:
            return
        pipe.send((set(sys.modules), {int(s) for s in blocked}, os.getpid(), os.getppid()))


Told = tuple[set[str], set[int], int, int]


def told_by(worker: WorkerProcess) -> Told:
    pipe = worker.pipe()
    pipe.send("tell")
    assert pipe.poll(PATIENCE_S)
    answer: Told = pipe.recv()
    return answer


@pytest.fixture
def worker() -> Iterator[WorkerProcess]:
    found = WorkerProcess(tells_of_itself)
    yield found
    found.end()


def test_a_worker_is_born_with_its_libraries_and_deaf_to_what_ends_the_server(
    worker: WorkerProcess,
) -> None:
    before = signal.pthread_sigmask(signal.SIG_BLOCK, ())
    loaded, blocked, pid, _ = told_by(worker)
    assert {"scipy.optimize", "cv2", "neatpatch.core.measure.map_building"} <= loaded
    assert {int(signal.SIGINT), int(signal.SIGTERM)} <= blocked
    assert signal.pthread_sigmask(signal.SIG_BLOCK, ()) == before
    assert told_by(worker)[2] == pid


def test_what_workers_are_forked_from_outlives_a_polite_kill_and_each_of_them(
    worker: WorkerProcess,
) -> None:
    _, _, first, parent = told_by(worker)
    for number in (signal.SIGTERM, signal.SIGINT):
        os.kill(parent, number)
    worker.end()
    _, _, second, same = told_by(worker)
    assert second != first
    assert same == parent


def test_after_the_end_the_next_word_starts_another(worker: WorkerProcess) -> None:
    first = told_by(worker)[2]
    worker.end()
    worker.end()
    assert told_by(worker)[2] != first


def test_it_comes_back_where_all_were_killed(worker: WorkerProcess) -> None:
    _, _, first, parent = told_by(worker)
    os.kill(parent, signal.SIGKILL)
    os.waitid(os.P_PID, parent, os.WEXITED | os.WNOWAIT)
    worker.end()
    _, _, second, other = told_by(worker)
    assert second != first
    assert other != parent


def test_what_is_loaded_for_workers_is_imported_nowhere_else() -> None:
    naming = [p.name for p in SOURCE.rglob("*.py") if "jobs.loaded" in p.read_text("utf-8")]
    assert naming == ["processes.py"]
