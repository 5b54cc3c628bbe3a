"""The coarse light of frames, by which a move of the camera between two of them is told."""

from __future__ import annotations

import sqlite3
from collections.abc import Sequence

import numpy as np

from neatpatch.core.common.records import FrameRecord
from neatpatch.core.sensor.backdrop import COLUMNS, ROWS, Backdrop

_TYPE = np.dtype("<f4")


def put_backdrop(connection: sqlite3.Connection, frame_id: int, backdrop: Backdrop) -> None:
    """Keep a frame's coarse light, replacing an older one."""
    connection.execute(
        "INSERT INTO backdrops (frame_id, cells) VALUES (?, ?) "
        "ON CONFLICT (frame_id) DO UPDATE SET cells = excluded.cells",
        (frame_id, backdrop.cells.astype(_TYPE).tobytes()),
    )


def cells_of(connection: sqlite3.Connection, frame_ids: Sequence[int]) -> dict[int, bytes]:
    """Kept cells by frame; frames measured before they were kept have none."""
    marks = ", ".join("?" * len(frame_ids))
    rows = connection.execute(
        f"SELECT frame_id, cells FROM backdrops WHERE frame_id IN ({marks})", tuple(frame_ids)
    )
    return {row["frame_id"]: row["cells"] for row in rows}


def backdrop_from(cells: bytes | None, record: FrameRecord) -> Backdrop | None:
    """The coarse light with what its frame tells of itself; None for cells of another grid."""
    if cells is None or len(cells) != ROWS * COLUMNS * _TYPE.itemsize:
        return None
    return Backdrop(
        np.frombuffer(cells, _TYPE).reshape(ROWS, COLUMNS).astype(np.float32),
        (record.height_px, record.width_px),
        record.f_number,
        record.focal_length_mm,
        record.orientation,
    )
