"""Decoders written in C print to standard error by themselves; users get one plain line instead."""

from __future__ import annotations

import logging
import os
from collections.abc import Iterator
from contextlib import contextmanager

for _name in ("tifffile", "exifread", "PIL"):
    logging.getLogger(_name).setLevel(logging.CRITICAL + 1)


@contextmanager
def quiet() -> Iterator[None]:
    """Send file descriptor 2 nowhere for a while. For one thread at a time."""
    kept = os.dup(2)
    nowhere = os.open(os.devnull, os.O_WRONLY)
    try:
        os.dup2(nowhere, 2)
        yield
    finally:
        os.dup2(kept, 2)
        os.close(kept)
        os.close(nowhere)
