"""Work that goes on by itself, in a thread that no trouble ends."""

from __future__ import annotations

import logging
import threading
from collections.abc import Callable
from dataclasses import dataclass

from neatpatch.core.common.errors import NeatPatchError
from neatpatch.store.database import disk_trouble

_log = logging.getLogger("neatpatch.background")
_JOIN_S = 5.0
"""A thread that does not end within it ends with the process."""


@dataclass(frozen=True, kw_only=True)
class Backoff:
    """How long to wait after a step that failed: twice as long each time, up to a limit."""

    first_s: float = 0.25
    longest_s: float = 5.0


def trouble_words(error: Exception) -> str:
    """What keeps a step from being done, in a sentence for the page."""
    known = isinstance(error, NeatPatchError | OSError)
    return disk_trouble(error) or (
        str(error) if known else "An unexpected fault was met; it is tried again by itself."
    )


class Forever:
    """Calls a step again and again from a thread of its own, from `start` to `stop`.

    ``step`` gives the seconds to rest until the next one; 0 goes on at once. One that raises is
    logged and tried again after a pause; ``trouble`` says meanwhile what is wrong, None while all
    is well. ``words`` puts an error into a sentence. ``at_start`` and ``at_end`` are called in the
    thread as it begins and ends.
    """

    def __init__(
        self,
        name: str,
        step: Callable[[], float],
        *,
        words: Callable[[Exception], str] = trouble_words,
        backoff: Backoff | None = None,
        at_start: Callable[[], None] = lambda: None,
        at_end: Callable[[], None] = lambda: None,
    ) -> None:
        self._name, self._step, self._words = name, step, words
        self._at_start, self._at_end = at_start, at_end
        self._backoff = backoff or Backoff()
        self._wake = threading.Event()
        self.stopping = threading.Event()
        self.trouble: str | None = None
        self._thread = threading.Thread(target=self._run, name=name, daemon=True)

    def start(self) -> None:
        """Begin with the first step."""
        self._thread.start()

    def nudge(self) -> None:
        """End the rest, or the pause after trouble: there may be something to do."""
        self._wake.set()

    def end(self) -> None:
        """Announce the end without waiting for it."""
        self.stopping.set()
        self._wake.set()

    def stop(self) -> None:
        """End the thread, if it was begun."""
        self.end()
        if self._thread.is_alive():
            self._thread.join(timeout=_JOIN_S)

    @property
    def is_alive(self) -> bool:
        """Whether the thread is at work."""
        return self._thread.is_alive()

    def _run(self) -> None:
        self._at_start()
        pause_s = self._backoff.first_s
        while not self.stopping.is_set():
            self._wake.clear()
            try:
                rest_s = self._step()
            except Exception as error:  # noqa: BLE001 - this thread must outlive any trouble
                self._report(error)
                self._rest(pause_s)
                pause_s = min(2 * pause_s, self._backoff.longest_s)
                continue
            pause_s, self.trouble = self._backoff.first_s, None
            self._rest(rest_s)
        self._at_end()

    def _rest(self, seconds: float) -> None:
        """Until a nudge or the end, which may have come while the step was done."""
        if seconds and not self.stopping.is_set():
            self._wake.wait(seconds)

    def _report(self, error: Exception) -> None:
        """Log trouble once for each kind of it, not at each try."""
        trouble = self._words(error)
        if trouble != self.trouble:
            _log.warning("%s: %s (%r)", self._name, trouble, error)
        self.trouble = trouble
