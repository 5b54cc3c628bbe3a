"""Fingerprints of bodies' sensors, and what frames said when held against them."""

from __future__ import annotations

import io
import json
import sqlite3
import zipfile
from collections.abc import Sequence
from dataclasses import asdict, dataclass
from typing import Any

import numpy as np

from neatpatch.core.sensor.fingerprint import VERSION, Fingerprint
from neatpatch.core.sensor.lens_correction import Correction
from neatpatch.core.sensor.placement import Placement
from neatpatch.core.sensor.registration import Registration
from neatpatch.store.database import now

_MOST_BYTES = 64_000_000
"""Unpacked: the largest sensors' patterns take a tenth of it; a bomb takes more."""
_MOST_BODIES = 40
"""References held against a frame of an unknown body: a twentieth of a second and 1.3 MB each."""


@dataclass(frozen=True)
class StoredReference:
    """A body's reference as it is kept. ``reference`` names it: it changes when started again."""

    body_id: int
    reference: str
    frames: int
    pattern: bytes


@dataclass(frozen=True)
class StoredMatch:
    """What a frame said of a body's reference."""

    body_id: int
    reference: str
    registration: Registration


def as_bytes(fingerprint: Fingerprint) -> bytes:
    """A compact file: the pattern and what is needed to compare it, with its version."""
    out = io.BytesIO()
    np.savez_compressed(
        out,
        version=VERSION,
        values=fingerprint.values,
        step=fingerprint.step,
        shape=fingerprint.shape,
        noise=fingerprint.noise,
        clear=fingerprint.clear,
        frames=fingerprint.frames,
        start=fingerprint.start,
    )
    return out.getvalue()


def from_bytes(data: bytes) -> Fingerprint | None:
    """What `as_bytes` wrote; None for another version or a damaged file: it is made again."""
    try:
        with zipfile.ZipFile(io.BytesIO(data)) as packed:
            if sum(part.file_size for part in packed.infolist()) > _MOST_BYTES:
                return None
        with np.load(io.BytesIO(data), allow_pickle=False) as parts:
            if int(parts["version"]) != VERSION:
                return None
            height, width = (int(n) for n in parts["shape"])
            left, top = (int(n) for n in parts["start"])
            return Fingerprint(
                values=np.asarray(parts["values"], np.int8),
                step=int(parts["step"]),
                shape=(height, width),
                noise=float(parts["noise"]),
                clear=bool(parts["clear"]),
                frames=int(parts["frames"]),
                start=(left, top),
            )
    except (ValueError, KeyError, OSError, EOFError, zipfile.BadZipFile):
        return None


def reference_of(connection: sqlite3.Connection, body_id: int) -> StoredReference | None:
    """A body's reference; None before its first test frame."""
    row = connection.execute("SELECT * FROM fingerprints WHERE body_id = ?", (body_id,)).fetchone()
    return None if row is None else _reference(row)


def references(connection: sqlite3.Connection) -> list[StoredReference]:
    """References of the bodies measured last, newest first."""
    rows = connection.execute(
        "SELECT * FROM fingerprints ORDER BY made_at DESC, body_id DESC LIMIT ?", (_MOST_BODIES,)
    )
    return [_reference(row) for row in rows]


def _reference(row: sqlite3.Row) -> StoredReference:
    return StoredReference(row["body_id"], row["reference"], row["frames"], row["pattern"])


def put_reference(connection: sqlite3.Connection, kept: StoredReference) -> None:
    """Write a body's reference, replacing an older one."""
    connection.execute(
        "INSERT INTO fingerprints (body_id, reference, frames, pattern, made_at) "
        "VALUES (?, ?, ?, ?, ?) ON CONFLICT (body_id) DO UPDATE SET "
        "reference = excluded.reference, frames = excluded.frames, pattern = excluded.pattern, "
        "made_at = excluded.made_at",
        (kept.body_id, kept.reference, kept.frames, kept.pattern, now()),
    )


def forget_reference(connection: sqlite3.Connection, body_id: int) -> None:
    """Let a body's reference start again with its next frame."""
    connection.execute("DELETE FROM fingerprints WHERE body_id = ?", (body_id,))


def put_match(connection: sqlite3.Connection, frame_id: int, kept: StoredMatch) -> None:
    """Write what a frame said of a body's reference, replacing what it said before."""
    place = kept.registration.placement
    connection.execute(
        "INSERT INTO witnesses (frame_id, body_id, reference, same, strength, chance_limit, "
        "placement_json) VALUES (?, ?, ?, ?, ?, ?, ?) ON CONFLICT (frame_id, body_id) "
        "DO UPDATE SET reference = excluded.reference, same = excluded.same, "
        "strength = excluded.strength, chance_limit = excluded.chance_limit, "
        "placement_json = excluded.placement_json",
        (
            frame_id,
            kept.body_id,
            kept.reference,
            None if kept.registration.same is None else int(kept.registration.same),
            kept.registration.strength,
            kept.registration.limit,
            None if place is None else json.dumps(asdict(place) | _lens_of(kept.registration)),
        ),
    )


def matches_of_frame(connection: sqlite3.Connection, frame_id: int) -> list[StoredMatch]:
    """What a frame said of all bodies it was held against, the strongest first."""
    rows = connection.execute(
        "SELECT * FROM witnesses WHERE frame_id = ? ORDER BY strength DESC", (frame_id,)
    )
    return [_match(row) for row in rows]


def registrations_of_body(
    connection: sqlite3.Connection, body_id: int, frame_ids: Sequence[int]
) -> dict[int, Registration]:
    """What frames said of one body's present reference; those not held against it are left out."""
    rows = connection.execute(
        "SELECT w.* FROM json_each(?) j JOIN witnesses w ON w.frame_id = j.value "
        "JOIN fingerprints f ON f.body_id = w.body_id AND f.reference = w.reference "
        "WHERE w.body_id = ?",
        (json.dumps(list(frame_ids)), body_id),
    )
    return {row["frame_id"]: _match(row).registration for row in rows}


def _match(row: sqlite3.Row) -> StoredMatch:
    same = None if row["same"] is None else bool(row["same"])
    known = json.loads(row["placement_json"] or "null")
    place = None if known is None else _placement(known)
    lens = Correction(**known["lens"]) if known and known.get("lens") else None
    registration = Registration(same, row["strength"], row["chance_limit"], place, lens)
    return StoredMatch(row["body_id"], row["reference"], registration)


def _lens_of(registration: Registration) -> dict[str, Any]:
    """Kept beside the placement; rows of earlier versions have none."""
    return {} if registration.lens is None else {"lens": asdict(registration.lens)}


def _placement(known: dict[str, Any]) -> Placement:
    return Placement(
        here=tuple(known["here"]),
        there=tuple(known["there"]),
        turn=known["turn"],
        zoom=known["zoom"],
        shift_px=tuple(known["shift_px"]),
    )
