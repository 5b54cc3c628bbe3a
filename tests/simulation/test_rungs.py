"""The virtual body on the bench behaves, repeatably."""

from __future__ import annotations

from neatpatch.simulation.rungs import (
    BondedParticle,
    Handling,
    add_settled_dust,
    perform,
    scatter_dust,
)

SENSOR = (36.0, 24.0)
COUNTS = {"speck": 60, "fibre": 4, "droplet": 6, "residue": 3}


def left(step: str, handling: Handling | None = None, seed: int = 1) -> tuple[BondedParticle, ...]:
    return perform(scatter_dust(COUNTS, SENSOR, 1.5, 9), step, handling or Handling(), SENSOR, seed)


def test_the_same_seed_gives_the_same_and_another_step_another() -> None:
    assert left("air") == left("air")
    assert left("air") != left("air", seed=2)


def test_dust_comes_with_the_days_and_nothing_goes() -> None:
    before = scatter_dust(COUNTS, SENSOR, 1.5, 9)
    month, year = (add_settled_dust(before, days, SENSOR, 1.5, 4) for days in (30, 365))
    assert month[: len(before)] == before
    assert len(before) < len(month) < len(year)
    assert add_settled_dust(before, 30, SENSOR, 1.5, 4) == month
    assert add_settled_dust(before, 0, SENSOR, 1.5, 4) == before


def test_stronger_rungs_leave_less() -> None:
    counts = [len(left(step)) for step in ("auto_clean", "air", "lift", "wet_swab", "service")]
    assert counts == sorted(counts, reverse=True)
    assert counts[-1] == 0


def test_air_from_above_only_stirs() -> None:
    before = scatter_dust(COUNTS, SENSOR, 1.5, 9)
    after = left("air", Handling(opening="up"))
    assert len(after) == len(before)
    moved = [d for d, e in zip(before, after, strict=True) if d.particle.x_mm != e.particle.x_mm]
    assert moved
    assert {d.bond for d in moved} == {"loose"}


def test_too_many_drops_leave_drying_marks() -> None:
    assert not any(d.particle.name.startswith("mark") for d in left("wet_swab", Handling(drops=2)))
    marks = [d for d in left("wet_swab", Handling(drops=5)) if d.particle.name.startswith("mark")]
    assert len(marks) == 2


def test_an_unknown_step_and_a_clean_sensor_change_nothing() -> None:
    assert len(left("retouch")) == len(scatter_dust(COUNTS, SENSOR, 1.5, 9))
    assert perform((), "wet_swab", Handling(), SENSOR, 3) == ()
