"""Bodies of the virtual camera: what lies on their sensors, unknown to the judgement."""

from __future__ import annotations

import json
import sqlite3
from dataclasses import asdict, dataclass

from neatpatch.simulation import Camera, Particle
from neatpatch.simulation.rungs import BondedParticle


@dataclass(frozen=True)
class VirtualCamera:
    """A virtual camera, its dust, and how many things have been done to it."""

    camera: Camera
    dust: tuple[BondedParticle, ...]
    turn: int


def virtual_camera_of(connection: sqlite3.Connection, body_id: int) -> VirtualCamera | None:
    """The virtual camera behind a body, or None for a real one."""
    row = connection.execute("SELECT * FROM bench_bodies WHERE body_id = ?", (body_id,)).fetchone()
    if row is None:
        return None
    camera = json.loads(row["camera_json"])
    camera["sensor_mm"] = tuple(camera["sensor_mm"])
    dust = tuple(
        BondedParticle(Particle(**entry["particle"]), entry["bond"])
        for entry in json.loads(row["dust_json"])
    )
    return VirtualCamera(Camera(**camera), dust, row["turn"])


def put_virtual_camera(connection: sqlite3.Connection, body_id: int, bench: VirtualCamera) -> None:
    """Write a virtual camera's state."""
    connection.execute(
        "INSERT INTO bench_bodies (body_id, camera_json, dust_json, turn) VALUES (?, ?, ?, ?) "
        "ON CONFLICT (body_id) DO UPDATE SET camera_json = excluded.camera_json, "
        "dust_json = excluded.dust_json, turn = excluded.turn",
        (
            body_id,
            json.dumps(asdict(bench.camera)),
            json.dumps([asdict(d) for d in bench.dust]),
            bench.turn,
        ),
    )


def virtual_camera_ids(connection: sqlite3.Connection) -> set[int]:
    """Bodies that are virtual cameras."""
    return {int(row["body_id"]) for row in connection.execute("SELECT body_id FROM bench_bodies")}
