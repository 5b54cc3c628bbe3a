"""The data folder as a whole: database, originals, and what is derived from them."""

from __future__ import annotations

import shutil
import sqlite3
from pathlib import Path
from typing import Literal

from neatpatch.store import frames as frame_rows
from neatpatch.store import removed_frames
from neatpatch.store.database import Database, StoreError, disk_trouble
from neatpatch.store.loss_fields import SUFFIX as LOSS_SUFFIX
from neatpatch.store.maps import MapReader
from neatpatch.store.originals import Originals, require_sha256

Condition = Literal["whole", "missing", "altered"]


class Library:
    """Opens a data folder, making and migrating it as needed; private to its owner."""

    def __init__(self, root: Path) -> None:
        self.root = root
        try:
            root.mkdir(parents=True, exist_ok=True, mode=0o700)
            root.chmod(0o700)
            self.originals = Originals(root / "originals")
            self.derived_root = root / "derived"
            self.derived_root.mkdir(exist_ok=True)
        except OSError as error:
            raise StoreError(
                f"the data folder {root} cannot be used: {disk_trouble(error)} "
                "Free some space or mend its rights, or choose another folder with --data."
            ) from error
        self.database = Database(root / "neatpatch.sqlite3")
        self.database.migrate()
        self.database.path.chmod(0o600)
        self.maps = MapReader()
        self.damaged_originals: dict[str, Condition] = {}
        """Originals found missing or altered, by hash."""

    def derived(self, sha256: str) -> Path:
        """Folder of everything that can be made again from one original. Raises `NoHashError`."""
        require_sha256(sha256)
        return self.derived_root / sha256[:2] / sha256

    def loss_path(self, sha256: str) -> Path:
        """File of a measured frame's loss, which can be made again, too. Raises `NoHashError`."""
        folder = self.derived(sha256)
        return folder.with_name(folder.name + LOSS_SUFFIX)

    def condition(self, sha256: str) -> Condition:
        """How an original was last found."""
        return self.damaged_originals.get(sha256, "whole")

    def add_frame(
        self, connection: sqlite3.Connection, arrived: Path, frame: frame_rows.NewFrame
    ) -> tuple[int, bool]:
        """Keep an arrived file and add its row, in the caller's transaction.

        Gives the frame's id and whether it is new. An original that was found missing or altered is
        put right by the same bytes coming in again.
        """
        if self.condition(frame.sha256) != "whole":
            self.originals.drop(frame.sha256)
        self.originals.keep(arrived, frame.sha256)
        self.damaged_originals.pop(frame.sha256, None)
        return frame_rows.add_frame(connection, frame)

    def take_frame_out(self, frame_id: int) -> bool:
        """Remove a frame so that it can be put back: its file is set aside. False when not there.

        What was made from the file stays till the next start.
        """
        with self.database.exclusive():
            with self.database.write() as connection:
                removed_frames.keep_rows(connection, frame_id)
                unused = frame_rows.remove_frame(connection, frame_id)
            if unused is None:
                return False
            if self.originals.path(unused).exists():
                self.originals.set_aside(unused)
        self.damaged_originals.pop(unused, None)
        return True

    def put_frame_back(self, frame_id: int) -> None:
        """Undo `take_frame_out`. Raises `NotThereError` or `ConflictError` where it cannot be."""
        with self.database.exclusive(), self.database.write() as connection:
            sha256 = removed_frames.put_rows_back(connection, frame_id)
            if not self.originals.take_back(sha256):
                self.damaged_originals[sha256] = "missing"

    def remove_frame(self, frame_id: int) -> bool:
        """Remove a frame, its map, its original and what was made from it. False when not there."""
        with self.database.exclusive():
            with self.database.write() as connection:
                unused = frame_rows.remove_frame(connection, frame_id)
            if unused is None:
                return False
            self.originals.drop(unused)
            shutil.rmtree(self.derived(unused), ignore_errors=True)
            self.loss_path(unused).unlink(missing_ok=True)
        self.damaged_originals.pop(unused, None)
        return True
