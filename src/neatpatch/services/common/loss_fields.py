"""The losses of two stored frames, to measure each at what was found in the other."""

from __future__ import annotations

import sqlite3
from dataclasses import dataclass
from pathlib import Path

from neatpatch.core.compare.field_pairs import Fields
from neatpatch.store import frames as frame_rows
from neatpatch.store.datafolder import Library
from neatpatch.store.loss_fields import read_field


@dataclass(frozen=True)
class FieldPair:
    """Where the losses of two frames are kept."""

    before: Path
    after: Path

    def read(self) -> Fields | None:
        """Both; None where one is not there, as for frames measured long ago."""
        before, after = read_field(self.before), read_field(self.after)
        return None if before is None or after is None else (before, after)


def field_pair(
    library: Library, connection: sqlite3.Connection, before_id: int, after_id: int
) -> FieldPair | None:
    """Where the losses of two frames are kept; None where a frame is not there."""
    rows = [frame_rows.frame_by_id(connection, i) for i in (before_id, after_id)]
    paths = [library.loss_path(row.sha256) for row in rows if row is not None]
    return FieldPair(*paths) if len(paths) == 2 else None


def fields_between(
    library: Library, connection: sqlite3.Connection, before_id: int, after_id: int
) -> Fields | None:
    """The losses of two frames; None where one is not kept."""
    pair = field_pair(library, connection, before_id, after_id)
    return None if pair is None else pair.read()
