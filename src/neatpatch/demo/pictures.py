"""Pictures of the made-up archive's charts, taken in the weeks before its open visit.

They are there to try patching on. They lie in a folder of their own beside the database, and
carry the dust that the visit's first frame found.
"""

from __future__ import annotations

from datetime import datetime, timedelta
from pathlib import Path

import numpy as np
from numpy.typing import NDArray

from neatpatch.demo.visits import DemoVisit
from neatpatch.images.write import ExposureNotes, write_jpeg
from neatpatch.simulation.pictures import chart_light, exposed, through_dust, toned

FOLDER = "demo-pictures"
_COUNT = 18
_SEED = 8600
_APERTURES = (8.0, 11.0, 16.0)
_DAYS_APART = 2
_CAME_BEFORE = 7
"""Pictures that only the older half of the dust is on."""


def write_demo_pictures(folder: Path, visit: DemoVisit) -> None:
    """Write the pictures, once; a folder that is there stays as it is."""
    if folder.exists():
        return
    beside = folder.with_name(f".{folder.name}.part")
    beside.mkdir(parents=True, exist_ok=True)
    camera = visit.body.camera
    dust = [d.particle for d in visit.dust_found]
    shape = camera.height_px, camera.width_px
    planes: dict[tuple[bool, float], NDArray[np.float32]] = {}
    opened = datetime.fromisoformat(visit.opened_at)
    for number in range(_COUNT):
        f_number = _APERTURES[number % len(_APERTURES)]
        light = chart_light(shape, _SEED + number)
        key = number < _CAME_BEFORE, f_number
        if key not in planes:
            planes[key] = through_dust(camera, dust[::2] if key[0] else dust, shape, f_number)
        shot = exposed(camera, light, planes[key], _SEED + number)
        at = opened - timedelta(days=_DAYS_APART * (_COUNT - number))
        notes = ExposureNotes(
            camera=camera.name,
            f_number=f_number,
            iso=200,
            exposure_s=0.02,
            focal_length_mm=camera.focal_length_mm,
            taken_at=at.isoformat(timespec="seconds"),
        )
        path = beside / f"chart-{number + 1:02}.jpg"
        write_jpeg(path, np.asarray(toned(shot), np.uint8), notes, quality=90)
    beside.rename(folder)
