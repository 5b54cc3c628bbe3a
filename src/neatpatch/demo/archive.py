"""The Saltmarsh Chart Archive: a made-up reading room that digitises linen-backed tide charts.

One copy-stand body at f/16, its sensor getting dirtier from spring to autumn. All of it comes from
the virtual camera with fixed seeds, so every frame has a known truth.
"""

from __future__ import annotations

from collections.abc import Iterator
from dataclasses import dataclass
from pathlib import Path

from neatpatch.simulation import Camera, Particle, scatter
from neatpatch.simulation.frames import ShotFrame, shoot_frame

BODY = Camera(
    name="Orlo Copystand 12",
    sensor_mm=(35.9, 23.9),
    width_px=4200,
    stack_mm=1.3,
    blades=9,
    exit_pupil_mm=92.0,
    focal_length_mm=100.0,
)
F_NUMBER = 16.0
_SEED = 4107


@dataclass(frozen=True)
class Session:
    """One test frame of the archive's year: how much of each kind had arrived by then."""

    name: str
    taken_at: str
    note: str
    specks: int
    fibres: int
    droplets: int
    residues: int


SESSIONS = (
    Session("copystand-1-march.jpg", "2026-03-09T08:40:00", "After the yearly service", 3, 0, 0, 0),
    Session("copystand-2-june.jpg", "2026-06-15T08:35:00", "Linen charts, first half", 14, 2, 0, 0),
    Session("copystand-3-september.jpg", "2026-09-07T08:50:00", "Paper crumbs", 34, 4, 2, 0),
    Session(
        "copystand-4-november.jpg",
        "2026-11-16T08:30:00",
        "Oil from the shutter, smears of a hurried clean",
        52,
        6,
        5,
        2,
    ),
)


def particles_of(session: Session) -> tuple[Particle, ...]:
    """What lies on the sensor by the time of a session: earlier dirt stays."""
    newest = SESSIONS[-1]
    everything = scatter(
        {
            "speck": newest.specks,
            "fibre": newest.fibres,
            "droplet": newest.droplets,
            "residue": newest.residues,
        },
        BODY.sensor_mm,
        BODY.stack_mm,
        _SEED,
    )
    wanted = {
        "speck": session.specks,
        "fibre": session.fibres,
        "droplet": session.droplets,
        "residue": session.residues,
    }
    kept: list[Particle] = []
    for kind, count in wanted.items():
        kept += [p for p in everything if p.kind == kind][:count]
    return tuple(kept)


def shoot_frames(folder: Path) -> Iterator[tuple[float, ShotFrame | None]]:
    """Shoot every session's frame; gives the share done and each frame as it is ready."""
    for number, session in enumerate(SESSIONS):
        yield (number + 0.1) / len(SESSIONS), None
        path = folder / session.name
        shoot_frame(BODY, particles_of(session), F_NUMBER, _SEED + number, path, session.taken_at)
        frame = ShotFrame(path, session.name, session.note, BODY.sensor_mm)
        yield (number + 1) / len(SESSIONS), frame
