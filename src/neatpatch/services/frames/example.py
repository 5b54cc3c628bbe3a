"""A frame to try the product with before the first own one: drawn by the virtual camera."""

from __future__ import annotations

import tempfile
from pathlib import Path

from neatpatch.services.frames.virtual_shots import take_in_virtual_frame
from neatpatch.simulation.frames import Recipe, ShotFrame, write_simulated
from neatpatch.store.datafolder import Library

EXAMPLE_NAME = "example.jpg"
_RECIPE = Recipe(
    seed=11, name="example", width_px=3600, counts={"speck": 16, "fibre": 3, "droplet": 1}
)


def take_in_example(library: Library) -> int:
    """Draw the example and queue its map; gives its id. Asked for again it is the same frame."""
    with tempfile.TemporaryDirectory(prefix="example-") as folder:
        path, _ = write_simulated(_RECIPE, Path(folder))
        shot = ShotFrame(path, EXAMPLE_NAME, "Example, by the virtual camera", _RECIPE.sensor_mm)
        return take_in_virtual_frame(library, shot)
