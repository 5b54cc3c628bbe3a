"""The advised line over hidden dirt, and the perfect map it is taken by."""

from __future__ import annotations

from pathlib import Path

import pytest

from neatpatch.core.common.decisions import CONTACT
from neatpatch.core.measure.map_building import MapOptions, build_map
from neatpatch.core.visit.trail import relevant_spots
from neatpatch.images.read import read_frame
from neatpatch.services.practice.advised import advised_line, visible_of
from neatpatch.services.practice.trainers import clean_before
from neatpatch.simulation.frames import Recipe, write_simulated
from neatpatch.simulation.rungs import BondedParticle
from neatpatch.simulation.seen_map import seen_map


@pytest.mark.parametrize("seed", [1, 4, 7, 10])
def test_the_advised_line_cleans_without_touching_first(seed: int) -> None:
    before = clean_before(seed)
    line = advised_line(before, 101 + seed)
    assert line == advised_line(before, 101 + seed)
    assert line.visible < visible_of(before, before.dust) / 3
    assert line.steps[-1].visible == line.visible
    contact = [n for n, s in enumerate(line.steps) if s.step in CONTACT]
    assert line.touches == len(contact)
    assert all(s.step in ("auto_clean", "air") for s in line.steps[: contact[0]])


def test_without_dirt_the_advice_is_to_stop_at_once() -> None:
    before = clean_before(4)
    clean = type(before)(
        body=before.body,
        conditions=before.conditions,
        kit=before.kit,
        camera=before.camera,
        dust=(),
    )
    assert advised_line(clean, 1).steps == ()


def test_a_perfect_map_sees_what_the_engine_sees(tmp_path: Path) -> None:
    before = clean_before(3)
    particles = [d.particle for d in before.dust]
    camera = before.camera
    seen = seen_map(camera, particles, 22.0)
    assert {s.id for s in seen.spots} == {p.name for p in particles}
    recipe = Recipe(
        seed=3,
        sensor_mm=camera.sensor_mm,
        width_px=camera.width_px,
        stack_mm=camera.stack_mm,
        exit_pupil_mm=camera.exit_pupil_mm,
        blades=camera.blades,
    )
    path, _ = write_simulated(recipe, tmp_path, particles)
    measured = build_map(read_frame(path), MapOptions(sensor_mm=camera.sensor_mm))
    works_at = before.body.smallest_worked
    ours, theirs = (len(relevant_spots(m, works_at)) for m in (seen, measured))
    assert abs(ours - theirs) <= 0.2 * ours


def test_dust_on_the_lens_is_no_spot_of_the_sensor() -> None:
    before = clean_before(4)
    lens = [BondedParticle(d.particle, "lens") for d in before.dust]
    soft = [d.particle.__class__(**{**vars(d.particle), "kind": "soft"}) for d in lens]
    assert all(s.site == "lens" for s in seen_map(before.camera, soft, 22.0).spots)
