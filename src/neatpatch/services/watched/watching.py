"""A watched folder: pictures that appear there are taken in as if dropped on the page.

A file still being written waits until it has kept its size for a moment and looks whole enough to
be told by content. The folder is only read: nothing in it is moved or changed.
"""

from __future__ import annotations

import logging
import os
import shutil
import sqlite3
import threading
import time
from collections.abc import Callable
from datetime import datetime
from pathlib import Path

from watchfiles import watch

from neatpatch.core.common.errors import NeatPatchError, UnusableFrameError
from neatpatch.images.hashing import sha256_of
from neatpatch.images.limits import DEFAULT_LIMITS, Limits, check_bytes
from neatpatch.services.common.forever import Backoff, Forever
from neatpatch.services.frames.intake import ArrivedFile, UploadTarget, accept_file, check_type
from neatpatch.store.database import disk_trouble
from neatpatch.store.datafolder import Library

SETTLED_S = 0.7
_LOOK_EVERY_S = 0.35
_LONGEST_PAUSE_S = 5.0
"""Between two tries to follow a folder that fails each time."""
_log = logging.getLogger("neatpatch.watch")


class Watcher:
    """Looks at one folder from a thread of its own until stopped.

    Frames go to the camera they are recognised as, or to the body ``body_id``. ``taken``: how many
    were taken in, ``last`` the newest of them and when; ``there``: the folder is followed now.
    """

    def __init__(
        self,
        library: Library,
        folder: Path,
        taken: Callable[[], None],
        limits: Limits = DEFAULT_LIMITS,
        body_id: int | None = None,
    ) -> None:
        self._library, self._folder, self._tell, self._limits = library, folder, taken, limits
        self._goal = UploadTarget(find_camera=True, body_id=body_id)
        self.taken = 0
        self.last: tuple[str, datetime] | None = None
        self.there = False
        self.refused = ""
        """The newest file that was left alone, and why."""
        self.ready = threading.Event()
        """Set once the folder is followed; what was there before is left alone."""
        self._sizes: dict[Path, tuple[int, float]] = {}
        self._was_followed = False
        self._loop = Forever(
            f"watched folder {folder}",
            self._step,
            words=lambda error: disk_trouble(error) or str(error),
            backoff=Backoff(first_s=_LOOK_EVERY_S, longest_s=_LONGEST_PAUSE_S),
        )

    def begin(self) -> None:
        """Begin, and wait for the folder where it is not there."""
        self._loop.start()

    def start(self) -> None:
        """Begin; pictures that lie there already are left alone."""
        if not self._folder.is_dir():
            raise UnusableFrameError(
                f"the watched folder {self._folder} is not there. Make it, or name another one."
            )
        self._loop.start()

    @property
    def trouble(self) -> str:
        """Why the folder cannot be followed just now; empty while it is."""
        return self._loop.trouble or ""

    @property
    def is_alive(self) -> bool:
        """Whether its thread is at work."""
        return self._loop.is_alive

    def sizes(self) -> dict[Path, int]:
        """Files that are waited for until they keep their size, with the size last seen."""
        return {path: size for path, (size, _) in self._sizes.copy().items()}

    def stop(self) -> None:
        """End the thread, if it was begun."""
        self._loop.stop()

    def _step(self) -> float:
        """Follow the folder for as long as it is there.

        Once it is back after it was removed, all in it counts as new.
        """
        try:
            if self._was_followed:
                for path in self._folder.iterdir():
                    self._notice(path)
            self._was_followed = True
            self._watch()
        finally:
            self.there = False
        return _LOOK_EVERY_S

    def _notice(self, path: Path) -> None:
        if path.is_file() and not path.name.startswith("."):
            self._sizes[path] = (-1, time.monotonic())

    def _watch(self) -> None:
        """Follow the folder until it goes away or the end comes.

        It is held open meanwhile, so that a new folder of its name cannot pass for it.
        """
        held = os.open(self._folder, os.O_RDONLY | os.O_DIRECTORY)
        try:
            self._follow(os.fstat(held).st_ino)
        finally:
            os.close(held)

    def _follow(self, held: int) -> None:
        for changes in watch(
            self._folder,
            recursive=False,
            stop_event=self._loop.stopping,
            rust_timeout=int(_LOOK_EVERY_S * 1000),
            yield_on_timeout=True,
            step=50,
            debounce=200,
        ):
            self.there, self._loop.trouble = True, None
            self.ready.set()
            for _, name in changes:
                self._notice(Path(name))
            self._take_settled()
            if self._folder.stat().st_ino != held:
                return

    def _take_settled(self) -> None:
        for path, (size, since) in list(self._sizes.items()):
            try:
                now = path.stat().st_size
            except OSError:
                del self._sizes[path]
                continue
            if now != size:
                self._sizes[path] = (now, time.monotonic())
            elif now > 0 and time.monotonic() - since >= SETTLED_S:
                del self._sizes[path]
                self._take(path)

    def _take(self, path: Path) -> None:
        arrived = self._library.originals.arriving()
        try:
            check_bytes(path.stat().st_size, self._limits)
            shutil.copyfile(path, arrived)
            check_type(arrived)
            with arrived.open("rb+") as stream:
                os.fsync(stream.fileno())
            whole = ArrivedFile(arrived, sha256_of(arrived), arrived.stat().st_size)
            accept_file(self._library, whole, path.name, self._goal)
            self.taken += 1
            self.last = path.name, datetime.now()
            self._tell()
        except NeatPatchError as error:
            self.refused = f"{path.name} was left alone: {error}"
            _log.warning("%s", self.refused)
        except (OSError, sqlite3.Error) as error:
            _log.warning("%s could not be taken in and is tried again: %s", path.name, error)
            self._sizes[path] = (-1, time.monotonic())
        finally:
            arrived.unlink(missing_ok=True)
