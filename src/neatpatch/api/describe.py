"""Writes the API's OpenAPI description to a file, for the page's generated types."""

from __future__ import annotations

import json
import sys
import tempfile
from pathlib import Path

from neatpatch.api.app import create_app
from neatpatch.store.datafolder import Library


def describe() -> str:
    """The description as JSON text."""
    with tempfile.TemporaryDirectory() as folder:
        app = create_app(Library(Path(folder)))
        return json.dumps(app.openapi(), indent=1) + "\n"


if __name__ == "__main__":
    Path(sys.argv[1]).write_text(describe(), encoding="utf-8")
