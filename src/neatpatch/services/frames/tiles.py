"""The pictures of frames are whole or absent; one with a part missing is made again."""

from __future__ import annotations

import shutil
from dataclasses import dataclass

from neatpatch.images.tiles import TILE_PX, levels
from neatpatch.services.frames.queue_measurement import queue_work
from neatpatch.store.datafolder import Library
from neatpatch.store.frames import StoredFrame


@dataclass(frozen=True)
class Tile:
    """A tile of the deep-zoom pyramid by its place."""

    level: int
    column: int
    row: int


def picture_lacks(library: Library, frame: StoredFrame, tile: Tile | None) -> bool:
    """Whether a part that is not there should be: ``tile``, or the small picture for None."""
    if tile is None or not library.derived(frame.sha256).is_dir():
        return True
    with library.database.read() as connection:
        spot_map = library.maps.spot_map(connection, frame.id)
    if spot_map is None:
        return False
    record = spot_map.frames[0]
    most = levels(record.width_px, record.height_px)
    if tile.level > most:
        return False
    shrink = 1 << (most - tile.level)
    wide, high = (-(-side // shrink) for side in (record.width_px, record.height_px))
    return tile.column * TILE_PX < wide and tile.row * TILE_PX < high


def make_picture_again(library: Library, frame: StoredFrame) -> None:
    """Remove what there is of a frame's picture and queue it again."""
    shutil.rmtree(library.derived(frame.sha256), ignore_errors=True)
    queue_work(library, frame.id, "picture")
