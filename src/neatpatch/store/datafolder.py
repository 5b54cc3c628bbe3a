"""The data folder as a whole: database, originals, and what is derived from them."""

from __future__ import annotations

import shutil
from pathlib import Path

from neatpatch.store.database import Database, StoreError
from neatpatch.store.originals import Originals


class Library:
    """Opens a data folder, making and migrating it as needed."""

    def __init__(self, root: Path) -> None:
        self.root = root
        try:
            root.mkdir(parents=True, exist_ok=True)
            self.originals = Originals(root / "originals")
            self.derived_root = root / "derived"
            self.derived_root.mkdir(exist_ok=True)
        except OSError as error:
            raise StoreError(
                f"the data folder {root} cannot be used ({error.strerror}). "
                "Choose another with --data."
            ) from error
        self.database = Database(root / "neatpatch.sqlite3")
        self.database.migrate()
        self.originals.clear_incoming()

    def derived(self, sha256: str) -> Path:
        """Folder of everything that can be made again from one original."""
        return self.derived_root / sha256[:2] / sha256

    def drop_derived(self, sha256: str) -> None:
        """Forget what was made from one original."""
        shutil.rmtree(self.derived(sha256), ignore_errors=True)
