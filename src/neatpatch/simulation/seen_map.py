"""What a perfect test frame of a virtual camera would tell: a map without errors of measuring."""

from __future__ import annotations

from collections.abc import Sequence
from functools import lru_cache

from neatpatch.core.common.records import FrameRecord, Kind, Optics, Spot, SpotMap, Summary
from neatpatch.core.common.zones import zone_of
from neatpatch.core.maps.prediction import Stops
from neatpatch.simulation.camera import Camera
from neatpatch.simulation.particles import Particle
from neatpatch.simulation.shadows import View, render

_SHARP_PX = 0.8
_NOISE = 0.01


def seen_map(camera: Camera, particles: Sequence[Particle], f_number: float) -> SpotMap:
    """The map of all particles that such a frame could show; spots carry the particles' names.

    No particles give an empty, fit map.
    """
    frame, optics = _shot(camera, f_number)
    spots = tuple(s for s in (_spot(camera, p, f_number) for p in particles) if s.depth > 0)
    mine = [s for s in spots if s.site == "sensor"]
    by_kind: dict[Kind, int] = {}
    for s in mine:
        by_kind[s.kind] = by_kind.get(s.kind, 0) + 1
    return SpotMap(
        schema_="neatpatch.map/1",
        frames=(frame,),
        fit=True,
        checks=(),
        optics=optics,
        spots=spots,
        summary=Summary(count=len(mine), relevant=len(mine), by_kind=by_kind, covered_ppm=0.0),
    )


def _shot(camera: Camera, f_number: float) -> tuple[FrameRecord, Optics]:
    frame = FrameRecord(
        path="",
        sha256="",
        format="JPEG",
        width_px=camera.width_px,
        height_px=camera.height_px,
        orientation=1,
        f_number=f_number,
        iso=100,
        exposure_s=1.0,
        focal_length_mm=camera.focal_length_mm,
        camera=camera.name,
        taken_at=None,
        pitch_um=camera.pitch_um,
        sensor_mm=camera.sensor_mm,
    )
    blur_um = 1000 * camera.stack_mm / f_number
    optics = Optics(
        height_mm=camera.stack_mm,
        height_source="given",
        blur_um=blur_um,
        blur_px=blur_um / camera.pitch_um,
        softness_px=_SHARP_PX,
    )
    return frame, optics


@lru_cache(maxsize=1024)
def _spot(camera: Camera, particle: Particle, f_number: float) -> Spot:
    """One particle as such a frame shows it; most of a camera's dust lies there again next time."""
    view = View(
        sensor_mm=camera.sensor_mm,
        width_px=camera.width_px,
        f_number=f_number,
        exit_pupil_mm=camera.exit_pupil_mm,
        blades=camera.blades,
    )
    frame, optics = _shot(camera, f_number)
    shadow = render(particle, view)
    long_um = particle.length_um or None
    plain = Spot(
        id=particle.name,
        x_px=shadow.x_px,
        y_px=shadow.y_px,
        x_mm=particle.x_mm,
        y_mm=particle.y_mm,
        zone=zone_of(shadow.x_px, shadow.y_px, camera.width_px, camera.height_px),
        kind=particle.kind,
        site="lens" if particle.kind == "soft" else "sensor",
        snr=shadow.energy / _NOISE,
        depth=max(0.0, min(1.0, shadow.peak)),
        outer_px=shadow.outer_px,
        outer_um=shadow.outer_px * camera.pitch_um,
        length_um=long_um,
        particle_um=shadow.size_um,
        height_mm=particle.height_mm,
        shows_from_f=None,
        width_px=particle.size_um / camera.pitch_um if long_um else None,
        particle_px=shadow.size_um / camera.pitch_um,
        blur_px=shadow.blur_px,
    )
    return plain.model_copy(update={"shows_from_f": Stops(optics, frame).shows_from(plain)})
