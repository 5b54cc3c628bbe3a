"""A watched folder: pictures that appear there are taken in as if dropped on the page.

A file still being written waits until it has kept its size for a moment and looks whole enough to
be told by content. The folder is only read: nothing in it is moved or changed.
"""

from __future__ import annotations

import hashlib
import logging
import threading
import time
import uuid
from collections.abc import Callable
from pathlib import Path

from watchfiles import watch

from neatpatch.core.errors import NeatPatchError, UnusableFrameError
from neatpatch.images.limits import DEFAULT_LIMITS, Limits, check_bytes
from neatpatch.images.sniff import sniff
from neatpatch.store.datafolder import Library
from neatpatch.web.casework import WATCHED
from neatpatch.web.intake import take_in

SETTLED_S = 0.7
_LOOK_EVERY_S = 0.35
_CHUNK = 1024 * 1024
_log = logging.getLogger("neatpatch.watch")


class Watcher:
    """Looks at one folder from a thread of its own until stopped."""

    def __init__(
        self, library: Library, folder: Path, taken: Callable[[], None],
        limits: Limits = DEFAULT_LIMITS,
    ) -> None:  # fmt: skip
        self._library, self._folder, self._taken, self._limits = library, folder, taken, limits
        self._stop = threading.Event()
        self._sizes: dict[Path, tuple[int, float]] = {}
        self._thread = threading.Thread(target=self._run, name="watch", daemon=True)

    def start(self) -> None:
        """Begin; pictures that lie there already are left alone."""
        if not self._folder.is_dir():
            raise UnusableFrameError(
                f"the watched folder {self._folder} is not there. Make it, or name another one."
            )
        self._thread.start()

    def stop(self) -> None:
        """End the thread."""
        self._stop.set()
        self._thread.join(timeout=5)

    def _run(self) -> None:
        steps_ms = int(_LOOK_EVERY_S * 1000)
        for changes in watch(
            self._folder, recursive=False, stop_event=self._stop, rust_timeout=steps_ms,
            yield_on_timeout=True, step=50, debounce=200,
        ):  # fmt: skip
            for _, name in changes:
                path = Path(name)
                if path.is_file() and not path.name.startswith("."):
                    self._sizes[path] = (-1, time.monotonic())
            self._take_settled()

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
        arrived = self._library.originals.incoming / uuid.uuid4().hex
        try:
            check_bytes(path.stat().st_size, self._limits)
            digest = hashlib.sha256()
            with path.open("rb") as source, arrived.open("wb") as out:
                while chunk := source.read(_CHUNK):
                    digest.update(chunk)
                    out.write(chunk)
            sniff(arrived)
            size = arrived.stat().st_size
            take_in(self._library, arrived, digest.hexdigest(), size, path.name, note=WATCHED)
            self._taken()
        except (NeatPatchError, OSError) as error:
            arrived.unlink(missing_ok=True)
            _log.warning("%s was left alone: %s", path.name, error)
