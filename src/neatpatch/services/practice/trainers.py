"""The cameras of a whole clean, by seed: what they are, what lies on them, what cleans them."""

from __future__ import annotations

from dataclasses import dataclass
from datetime import date
from typing import Any

import numpy as np

from neatpatch.core.common.facts import KitItem, Schools
from neatpatch.core.kit.stock import KitEntry, for_body
from neatpatch.core.visit.body import Body, VisitConditions
from neatpatch.services.practice.advised import CleanStart
from neatpatch.simulation.camera import Camera
from neatpatch.simulation.rungs import BondedParticle, scatter_dust


@dataclass(frozen=True)
class _Model:
    name: str
    sensor_mm: tuple[float, float]
    stack_mm: float
    facts: dict[str, Any]


_MODELS = (
    _Model("Fennick Trainer M", (35.9, 23.9), 1.4, {"self_clean": True, "flange_mm": 20.0}),
    _Model(
        "Orlo Trainer D",
        (23.5, 15.6),
        1.6,
        {"access": "mirror", "self_clean": False, "flange_mm": 45.5},
    ),
    _Model("Halden Trainer C", (23.5, 15.6), 1.3, {"self_clean": True, "flange_mm": 18.0}),
)


def clean_before(seed: int) -> CleanStart:
    """How the clean of a seed begins; the same seed gives the same."""
    model = _MODELS[seed % len(_MODELS)]
    camera = _camera(model, seed)
    return CleanStart(
        body=_body(model),
        conditions=_conditions(model),
        kit=tuple(for_body(list(trainer_kit()), 1, date.today())),
        camera=camera,
        dust=_dust(camera, seed),
    )


def _camera(model: _Model, seed: int) -> Camera:
    return Camera(
        name=model.name,
        sensor_mm=model.sensor_mm,
        width_px=2400,
        stack_mm=model.stack_mm,
        blades=5 + seed % 4,
        exit_pupil_mm=70.0,
        hot_pixels=6,
    )


def _dust(camera: Camera, seed: int) -> tuple[BondedParticle, ...]:
    rng = np.random.default_rng(seed + 7)
    counts = {
        "speck": int(rng.integers(6, 24)),
        "fibre": int(rng.integers(0, 3)),
        "droplet": int(rng.integers(0, 3)),
    }
    return scatter_dust(counts, camera.sensor_mm, camera.stack_mm, seed)


def _body(model: _Model) -> Body:
    return Body.model_validate(
        {
            "name": model.name,
            "camera_name": model.name,
            "sensor_mm": model.sensor_mm,
            "works_at": (11.0, 16.0),
            "no_guarantee": True,
            "stabilised": False,
            "closes_when_off": False,
            "lens_focal_mm": 85.0,
            "lens_smallest_f": 22.0,
            **model.facts,
        }
    )


def _conditions(model: _Model) -> VisitConditions:
    return VisitConditions(
        why_now="Practice",
        temperature_c=21,
        humidity_percent=45,
        moving_air=False,
        surface="bare",
        room_clean=True,
        power="off",
        battery_percent=100,
        mains=False,
        mirror_up=True if model.facts.get("access") == "mirror" else None,
        experience="practised",
        schools=Schools(contact_by="self"),
    )


def trainer_kit() -> tuple[KitEntry, ...]:
    """Enough of everything for one clean, whatever is done."""

    def own(item: str, **about: Any) -> KitEntry:
        return KitEntry(item=KitItem.model_validate({"item": item, **about}))

    return (
        own("bulb_blower"),
        own(
            "gel_stick", fresh_patches=60, tip_mm=(8, 6), patches_per_sheet=12, matched_coating=True
        ),
        *(
            own(item, width_mm=w, quantity=12)
            for item in ("dry_swab", "wet_swab")
            for w in (24, 16)
        ),
        own("corner_swab", width_mm=4, quantity=8),
        own("fluid", kind="mild", kit_own=True, quantity=15),
        own("fluid", kind="oil_dissolving", kit_own=True, quantity=15),
        own("loupe", focus_mm=(38, 46)),
    )
