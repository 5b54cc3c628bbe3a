"""The sensor's own pattern: whose frame it is, and where it lies on others of its body."""

from __future__ import annotations

import sqlite3
import uuid
from collections.abc import Sequence
from dataclasses import dataclass, field, replace

from neatpatch.core.common.frame import Frame
from neatpatch.core.common.records import SpotMap
from neatpatch.core.sensor.backdrop import Backdrop, backdrop_of
from neatpatch.core.sensor.fingerprint import Fingerprint, added, fingerprint_of
from neatpatch.core.sensor.lens_correction import NO_CORRECTION
from neatpatch.core.sensor.placement import as_they_are
from neatpatch.core.sensor.registration import Registration, register
from neatpatch.core.visit.body import mismatches
from neatpatch.core.visit.camera_recognition import Clues, same_shape
from neatpatch.store import bodies as body_rows
from neatpatch.store import fingerprints as print_rows
from neatpatch.store import frames as frame_rows
from neatpatch.store import jobs as job_rows
from neatpatch.store import visits as visit_rows
from neatpatch.store.backdrops import put_backdrop
from neatpatch.store.fingerprints import StoredMatch, StoredReference, as_bytes, from_bytes
from neatpatch.store.frames import stop_searching
from neatpatch.store.jobs import NewJob
from neatpatch.store.maps import clues_in, map_version, put_clues, record_in_map, sensor_in_map

_SAME_SIZE_MM = 0.02
_MOST_SOUGHT = 4
"""Bodies in whose frames a lens correction is searched for: half a second each."""
_MOST_HELD_AGAIN = 24
"""The newest frames of a body that are held against a reference started again: each is measured
again, which takes a second, and older ones are laid by their marks."""


@dataclass(frozen=True)
class SensorMatch:
    """A frame's own pattern, and what it said of the references it was held against.

    ``improved``: references that this frame adds to, by body; ``outgrown``: bodies whose reference
    is but a part of this frame. ``backdrop``: its coarse light.
    ``clues``: what the file says of its camera beside the name.
    """

    own: bytes | None
    shape: tuple[int, int]
    backdrop: Backdrop | None = None
    matches: tuple[StoredMatch, ...] = ()
    improved: tuple[StoredReference, ...] = ()
    outgrown: tuple[int, ...] = ()
    clues: Clues = field(default_factory=Clues)


def clues_of(frame: Frame) -> Clues:
    """What a frame's file says of its camera beside the name."""
    facts = frame.facts
    return Clues(serial=facts.serial, equivalent_mm=facts.focal_length_35mm)


def match_sensor(frame: Frame, references: Sequence[StoredReference]) -> SensorMatch:
    """Hold a frame against references. Runs where frames are decoded, beside the measuring."""
    own = fingerprint_of(frame)
    matches: list[StoredMatch] = []
    improved: list[StoredReference] = []
    outgrown: list[int] = []
    for kept, pattern, found in _told(frame, references):
        matches.append(StoredMatch(kept.body_id, kept.reference, found))
        plain = found.placement is not None and found.placement.plain and found.lens is None
        if own is not None and found.same and plain:
            more = _improved(kept, pattern, own)
            improved += [more] if more is not None else []
        if found.same and _is_part(pattern, frame):
            outgrown.append(kept.body_id)
    return SensorMatch(
        None if own is None else as_bytes(own),
        frame.shape,
        backdrop_of(frame),
        tuple(matches),
        tuple(improved),
        tuple(outgrown),
        clues_of(frame),
    )


def _told(
    frame: Frame, references: Sequence[StoredReference]
) -> list[tuple[StoredReference, Fingerprint, Registration]]:
    """What a frame says of each reference that can be read.

    Lens corrections are searched for only where nothing agrees without one, and only in a few: of
    others it cannot be told whether they are another sensor's.
    """
    patterns = [(kept, from_bytes(kept.pattern)) for kept in references]
    read = [(kept, pattern) for kept, pattern in patterns if pattern is not None]
    if len(read) == 1:
        return [(*read[0], register(read[0][1], frame))]
    matches = [(*pair, register(pair[1], frame, corrected=False)) for pair in read]
    if any(found.same for *_, found in matches):
        return [(k, p, register(p, frame) if found.same else found) for k, p, found in matches]
    alike = [i for i, (_, p) in enumerate(read) if sorted(p.shape) == sorted(frame.shape)]
    return [
        (k, p, register(p, frame) if i in alike[:_MOST_SOUGHT] else replace(found, same=None))
        for i, (k, p, found) in enumerate(matches)
    ]


def _is_part(pattern: Fingerprint, frame: Frame) -> bool:
    return frame.light.size > pattern.shape[0] * pattern.shape[1]


def _improved(
    kept: StoredReference, pattern: Fingerprint, own: Fingerprint
) -> StoredReference | None:
    more = added(pattern, own)
    if more.frames == pattern.frames:
        return None
    return replace(kept, frames=more.frames, pattern=as_bytes(more))


def references_for(connection: sqlite3.Connection, frame_id: int) -> tuple[StoredReference, ...]:
    """References that a frame is held against: its own body's, or all where it has none."""
    bodies = bodies_of(connection, frame_id)
    if not bodies:
        return tuple(print_rows.references(connection))
    kept = (print_rows.reference_of(connection, body_id) for body_id in bodies)
    return tuple(k for k in kept if k is not None)


def bodies_of(connection: sqlite3.Connection, frame_id: int) -> list[int]:
    """Bodies on whose visits a frame lies."""
    visits = (
        visit_rows.visit_by_id(connection, v)
        for v in visit_rows.visits_with_frame(connection, frame_id)
    )
    return sorted({v.body_id for v in visits if v is not None})


def keep_match(
    connection: sqlite3.Connection, frame_id: int, seen: SensorMatch, spot_map: SpotMap
) -> None:
    """Store what a frame said; the first fit, undoubted frame of a body begins its reference.

    One that shows more of the sensor than the reference begins it again, and the body's newest
    frames are held against that.
    """
    fit = spot_map.fit
    put_clues(connection, frame_id, seen.clues)
    if seen.backdrop is not None:
        put_backdrop(connection, frame_id, seen.backdrop)
    for match in seen.matches:
        print_rows.put_match(connection, frame_id, match)
    held = {match.body_id for match in seen.matches}
    for more in seen.improved:
        now = print_rows.reference_of(connection, more.body_id)
        before = more.frames - 1
        if fit and now and (now.reference, now.frames) == (more.reference, before):
            print_rows.put_reference(connection, more)
    for body_id in bodies_of(connection, frame_id):
        anew = body_id in seen.outgrown
        undoubted = anew or not _doubted(connection, frame_id, body_id, spot_map)
        if fit and undoubted and (anew or body_id not in held):
            _begin(connection, frame_id, body_id, seen)


def _doubted(
    connection: sqlite3.Connection, frame_id: int, body_id: int, spot_map: SpotMap
) -> bool:
    """Whether a frame's own notes speak against the body, and the owner has not accepted it."""
    body = body_rows.body_by_id(connection, body_id)
    if body is None or not mismatches(body.body, spot_map):
        return False
    return not any(
        entry.accepted
        for visit_id in visit_rows.visits_with_frame(connection, frame_id)
        for entry in visit_rows.trail_of(connection, visit_id)
        if entry.frame_id == frame_id
    )


def _begin(connection: sqlite3.Connection, frame_id: int, body_id: int, seen: SensorMatch) -> None:
    now = print_rows.reference_of(connection, body_id)
    matches = {match.reference for match in seen.matches if match.body_id in seen.outgrown}
    if seen.own is None or (now is not None and now.reference not in matches):
        return
    name = uuid.uuid4().hex
    print_rows.put_reference(connection, StoredReference(body_id, name, 1, seen.own))
    itself = Registration(True, 0.0, 0.0, as_they_are(seen.shape, seen.shape))
    print_rows.put_match(connection, frame_id, StoredMatch(body_id, name, itself))
    if now is not None:
        for other in visit_rows.frames_of_body(connection, body_id)[:_MOST_HELD_AGAIN]:
            request_match(connection, other)


def request_match(connection: sqlite3.Connection, frame_id: int) -> None:
    """Measure a frame again that joined a body whose sensor it was not held against yet, or was
    measured with another size than the body's.
    """
    waiting = job_rows.latest_job_of(connection, frame_id)
    if waiting is None or not waiting.finished or map_version(connection, frame_id) is None:
        return
    on = bodies_of(connection, frame_id)
    asked = all(match_of(connection, frame_id, b) is not None for b in on)
    if asked and all(_sized_as(connection, frame_id, b) for b in on):
        return
    frame = frame_rows.frame_by_id(connection, frame_id)
    if frame is not None:
        job_rows.add_job(connection, NewJob(kind="map", label=frame.name, frame_id=frame_id))


def _sized_as(connection: sqlite3.Connection, frame_id: int, body_id: int) -> bool:
    """Whether a frame was measured with a body's sensor size, whichever way it was held."""
    body = body_rows.body_by_id(connection, body_id)
    used = sensor_in_map(connection, frame_id)
    if body is None or used is None:
        return body is None
    pairs = zip(sorted(used), sorted(body.body.sensor_mm), strict=True)
    return all(abs(a - b) < _SAME_SIZE_MM for a, b in pairs)


def join_body(connection: sqlite3.Connection, visit_id: int, frame_id: int) -> None:
    """Put a frame onto a visit's trail: its size is the body's from now on."""
    visit_rows.add_frame_entry(connection, visit_id, frame_id)
    stop_searching(connection, frame_id)
    _learn_name(connection, visit_id, frame_id)
    frame_rows.set_sensor(connection, frame_id, None)
    request_match(connection, frame_id)


def _learn_name(connection: sqlite3.Connection, visit_id: int, frame_id: int) -> None:
    """What a measured frame's file calls its camera is known at once: the next may come soon."""
    record = record_in_map(connection, frame_id)
    visit = visit_rows.visit_by_id(connection, visit_id)
    stored = visit and body_rows.body_by_id(connection, visit.body_id)
    if record and stored and same_shape(stored.body, record):
        body_rows.learn(
            connection,
            stored.id,
            camera_name=record.camera,
            serial=clues_in(connection, frame_id).serial,
            pitch_um=None,
            stack_mm=None,
        )


def resize_frames(connection: sqlite3.Connection, body_id: int) -> None:
    """Measure the frames of a body again whose size was entered again."""
    for frame_id in visit_rows.frames_of_body(connection, body_id):
        frame_rows.set_sensor(connection, frame_id, None)
        request_match(connection, frame_id)


def match_of(connection: sqlite3.Connection, frame_id: int, body_id: int) -> Registration | None:
    """What a frame said of one body's present reference; None when it was not held against it."""
    return print_rows.registrations_of_body(connection, body_id, [frame_id]).get(frame_id)


def registration_between(
    connection: sqlite3.Connection, before_id: int, after_id: int
) -> Registration | None:
    """Where one frame lies on another, by the reference both were held against; else None."""
    earlier = {
        s.reference: s.registration for s in print_rows.matches_of_frame(connection, before_id)
    }
    for match in print_rows.matches_of_frame(connection, after_id):
        old, new = earlier.get(match.reference), match.registration
        if old is None:
            continue
        weaker = min((r for r in (old, new) if r.limit > 0), key=lambda r: r.strength, default=new)
        if old.placement is not None and new.placement is not None:
            place = old.placement.inverse().then(new.placement)
            lens = (old.lens or NO_CORRECTION).inverse().then(new.lens or NO_CORRECTION)
            bent = lens if lens != NO_CORRECTION else None
            return Registration(True, weaker.strength, weaker.limit, place, bent)
        if {old.same, new.same} == {True, False}:
            return Registration(False, weaker.strength, weaker.limit)
    return None
