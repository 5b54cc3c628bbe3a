"""What a file is known by."""

from __future__ import annotations

import hashlib
from pathlib import Path


def sha256_of(path: Path) -> str:
    """SHA-256 of a file's bytes, in hexadecimal."""
    with path.open("rb") as stream:
        return hashlib.file_digest(stream, "sha256").hexdigest()
