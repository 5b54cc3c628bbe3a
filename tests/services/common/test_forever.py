"""Work that goes on by itself outlives its trouble, tells it, and rests between tries."""

from __future__ import annotations

import logging
import sqlite3
import threading

import pytest

from neatpatch.core.common.errors import NeatPatchError
from neatpatch.services.common.forever import Backoff, Forever


class Steps:
    """Steps that fail as often as wanted; ``done`` is set by the first that does not."""

    def __init__(self, *errors: Exception) -> None:
        self.errors, self.calls, self.done = list(errors), 0, threading.Event()

    def __call__(self) -> float:
        self.calls += 1
        if self.errors:
            raise self.errors.pop(0)
        self.done.set()
        return 60.0


def test_a_step_that_raises_is_tried_again_and_then_all_is_well() -> None:
    steps = Steps(ValueError("odd"), sqlite3.OperationalError("locked"), RuntimeError("odder"))
    loop = Forever("test", steps, backoff=Backoff(first_s=0.001, longest_s=0.001))
    loop.start()
    assert steps.done.wait(60)
    assert loop.is_alive
    loop.stop()
    assert (steps.calls, loop.trouble, loop.is_alive) == (4, None, False)


def test_its_trouble_is_told_in_words_and_logged_once(caplog: pytest.LogCaptureFixture) -> None:
    errors = [NeatPatchError("The folder is away.") for _ in range(50)]
    seen: list[str | None] = []
    steps = Steps(*errors)

    def step() -> float:
        seen.append(loop.trouble)
        return steps()

    loop = Forever("test", step, backoff=Backoff(first_s=0.001, longest_s=0.001))
    with caplog.at_level(logging.WARNING, "neatpatch.background"):
        loop.start()
        assert steps.done.wait(60)
        loop.stop()
    assert seen == [None] + 50 * ["The folder is away."]
    assert len(caplog.records) == 1


def test_pauses_grow_to_the_longest(monkeypatch: pytest.MonkeyPatch) -> None:
    steps, pauses = Steps(*(ValueError() for _ in range(5))), list[float]()
    loop = Forever("test", steps, backoff=Backoff(first_s=1, longest_s=5))
    monkeypatch.setattr(loop._wake, "wait", pauses.append)
    loop.start()
    assert steps.done.wait(60)
    loop.stop()
    assert pauses[:6] == [1, 2, 4, 5, 5, 60]


def test_a_nudge_ends_the_pause_after_trouble() -> None:
    steps = Steps(OSError("folder away"))
    loop = Forever("test", steps, backoff=Backoff(first_s=600, longest_s=600))
    loop.start()
    while loop.trouble is None:
        threading.Event().wait(0.001)
    assert loop.trouble == "folder away"
    loop.nudge()
    assert steps.done.wait(60)
    loop.stop()


def test_a_nudge_ends_the_rest_and_the_end_comes_last() -> None:
    order: list[str] = []
    second = threading.Event()

    def step() -> float:
        order.append("step")
        if len(order) > 2:
            second.set()
        return 600.0

    loop = Forever(
        "test",
        step,
        at_start=lambda: order.append("start"),
        at_end=lambda: order.append("end"),
    )
    loop.start()
    while len(order) < 2:
        threading.Event().wait(0.001)
    loop.nudge()
    assert second.wait(60)
    loop.stop()
    assert order == ["start", "step", "step", "end"]
