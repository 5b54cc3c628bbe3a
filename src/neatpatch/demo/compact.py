"""The archive's one compact with a fixed lens, and how it comes apart."""

from __future__ import annotations

from neatpatch.core.tray.plan import Ribbon, ScrewGroup, Stage, TrayPlan, TrayPoint
from neatpatch.core.visit.body import Body
from neatpatch.simulation.camera import Camera
from neatpatch.simulation.rungs import BondedParticle, scatter_dust

MODEL = "Fennick Pocket 12"
COMPACT_CAMERA = Camera(
    name=MODEL,
    sensor_mm=(13.2, 8.8),
    width_px=2400,
    stack_mm=0.9,
    blades=7,
    exit_pupil_mm=24.0,
    hot_pixels=6,
)


def compact_body() -> Body:
    """Out of warranty, its lens not to be taken off."""
    return Body.model_validate(
        {
            "name": MODEL,
            "camera_name": MODEL,
            "serial": "64-48321",
            "access": "fixed_lens",
            "sensor_mm": COMPACT_CAMERA.sensor_mm,
            "no_guarantee": True,
            "stabilised": False,
            "closes_when_off": False,
            "works_at": (8.0, 11.0),
            "lens_focal_mm": 24.0,
            "lens_smallest_f": 16.0,
        }
    )


def compact_dust() -> tuple[BondedParticle, ...]:
    """What its zoom drew in over the years."""
    counts = {"speck": 9, "fibre": 1}
    return scatter_dust(counts, COMPACT_CAMERA.sensor_mm, COMPACT_CAMERA.stack_mm, 64)


def _at(*places: tuple[float, float]) -> tuple[TrayPoint, ...]:
    return tuple(TrayPoint(x_mm=x, y_mm=y) for x, y in places)


COMPACT_PLAN = TrayPlan(
    model=MODEL,
    outline=TrayPoint(x_mm=104, y_mm=60),
    stages=(
        Stage(
            name="Back cover",
            screws=(
                ScrewGroup(
                    name="Left side",
                    side="left",
                    count=2,
                    thread="M1.4 × 3",
                    driver="PH00",
                    places=_at((2, 18), (2, 44)),
                ),
                ScrewGroup(
                    name="Right side",
                    side="right",
                    count=2,
                    thread="M1.4 × 3",
                    driver="PH00",
                    places=_at((102, 16), (102, 46)),
                ),
                ScrewGroup(
                    name="Underside",
                    side="bottom",
                    count=3,
                    thread="M1.4 × 4.5",
                    driver="PH00",
                    places=_at((14, 58), (52, 58), (90, 58)),
                ),
            ),
            clips=3,
            note="Open it like a book to the left: a ribbon still joins it.",
        ),
        Stage(
            name="Screen",
            ribbons=(Ribbon(name="of the screen"), Ribbon(name="of the keys", latch="slide_out")),
        ),
        Stage(
            name="Plate",
            screws=(
                ScrewGroup(
                    name="Plate",
                    side="inside",
                    count=4,
                    thread="M1.2 × 2",
                    driver="PH000",
                    places=_at((30, 12), (74, 12), (30, 48), (74, 48)),
                ),
            ),
            note="The flash board lies at its right end: keep off.",
        ),
        Stage(
            name="Sensor block",
            screws=(
                ScrewGroup(
                    name="Sensor block",
                    side="back",
                    count=3,
                    thread="M1.0 × 2.5",
                    driver="T3",
                    places=_at((44, 22), (60, 22), (52, 40)),
                ),
            ),
            ribbons=(Ribbon(name="of the sensor", latch="push_on"),),
            note="Count its turns while loosening; a spacer may lie under each screw.",
        ),
    ),
)
