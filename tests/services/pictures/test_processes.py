"""Two processes side by side: in order, and gone with the one that began them."""

from __future__ import annotations

import os
import signal
import subprocess
import sys
import time
from collections.abc import Callable
from concurrent.futures.process import BrokenProcessPool
from pathlib import Path

import pytest

from neatpatch.jobs import picture_worker
from neatpatch.jobs.picture_worker import LookTask
from neatpatch.services.pictures.processes import side_by_side

PATIENCE_S = 300.0


def squared(number: int) -> tuple[int, int]:
    return number * number, os.getpid()


def refuses_three(number: int) -> int:
    if number == 3:
        raise ValueError("three")
    return number


def dies_at_three(number: int) -> int:
    if number == 3:
        os.kill(os.getpid(), signal.SIGKILL)
    return number


def says_who_and_waits(folder: str) -> None:
    (Path(folder) / str(os.getpid())).touch()
    time.sleep(PATIENCE_S)


def test_answers_come_in_order_from_two_other_processes() -> None:
    found = list(side_by_side(squared, range(20)))
    assert [value for value, _ in found] == [n * n for n in range(20)]
    assert os.getpid() not in {process for _, process in found}
    assert len({process for _, process in found}) <= 2


def test_a_few_are_done_at_once_here() -> None:
    assert list(side_by_side(squared, [2, 3])) == [(4, os.getpid()), (9, os.getpid())]
    assert list(side_by_side(squared, [])) == []


def test_what_the_work_raises_comes_through() -> None:
    with pytest.raises(ValueError, match="three"):
        list(side_by_side(refuses_three, range(6)))


def test_a_process_that_dies_is_told() -> None:
    with pytest.raises(BrokenProcessPool):
        list(side_by_side(dies_at_three, range(6)))


def test_a_worker_whose_helper_died_ends_so_that_its_work_is_taken_up_again(
    monkeypatch: pytest.MonkeyPatch,
) -> None:
    def broken(*_given: object) -> None:
        raise BrokenProcessPool

    monkeypatch.setattr(picture_worker, "preview_all", broken)
    task = LookTask(run=None, pictures=(), shown=Path(), known=0)  # type: ignore[arg-type]
    with pytest.raises(EOFError):
        picture_worker._run(task, print)


def test_helpers_end_with_the_process_that_began_them(tmp_path: Path) -> None:
    code = (
        "from tests.services.pictures.test_processes import says_who_and_waits, side_by_side\n"
        "if __name__ == '__main__':\n"
        f"    list(side_by_side(says_who_and_waits, [{str(tmp_path)!r}] * 9))\n"
    )
    script = tmp_path.parent / f"{tmp_path.name}.py"
    script.write_text(code)
    above = subprocess.Popen(
        [sys.executable, str(script)], env={**os.environ, "PYTHONPATH": os.pathsep.join(sys.path)}
    )
    helpers = _until(lambda: [int(p.name) for p in tmp_path.iterdir()], lambda v: len(v) == 2)
    above.kill()
    above.wait()
    _until(lambda: [p for p in helpers if _runs(p)], lambda v: not v)


def _until(look: Callable[[], list[int]], enough: Callable[[list[int]], bool]) -> list[int]:
    deadline = time.monotonic() + PATIENCE_S
    while not enough(found := look()):
        assert time.monotonic() < deadline
        time.sleep(0.05)
    return found


def _runs(process: int) -> bool:
    stat = Path(f"/proc/{process}/stat")
    try:
        return stat.read_text().rsplit(")", 1)[1].split()[0] != "Z"
    except FileNotFoundError:
        return False
