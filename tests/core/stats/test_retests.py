from __future__ import annotations

from neatpatch.core.stats.density import density_of
from neatpatch.core.stats.retests import retests_of
from neatpatch.core.visit.outcomes import step_outcomes
from neatpatch.core.visit.trail import TrailEntry, TrailFrame, TrailStep
from tests.core.made_maps import spot, spot_map

OLD = [spot(f"s{i}", 300 + 400 * i, 300 + 150 * i) for i in range(6)]
FIBRE = spot("f1", 1400, 1700, kind="fibre", angle_deg=10.0, width_px=8.0)


def rows(*trail: TrailEntry) -> list[tuple[int, str, tuple[int, int, int, int]]]:
    return [
        (entry, f"{r.step} {r.kind}", (r.removed, r.stayed, r.moved, r.new))
        for entry, r in retests_of(trail, step_outcomes(trail, 16.0), 7)
    ]


def test_each_step_is_counted_by_kind_between_its_frames() -> None:
    found = rows(
        TrailFrame(id=1, spot_map=spot_map(*OLD, FIBRE)),
        TrailStep(id=2, step="air"),
        TrailFrame(id=3, spot_map=spot_map(*OLD[2:], FIBRE)),
        TrailStep(id=4, step="lift"),
        TrailFrame(id=5, spot_map=spot_map(*OLD[2:], spot("n", 2700, 1900))),
    )
    assert found == [
        (2, "air fibre", (0, 1, 0, 0)),
        (2, "air speck", (2, 4, 0, 0)),
        (4, "lift fibre", (1, 0, 0, 0)),
        (4, "lift speck", (0, 4, 0, 1)),
    ]


def test_what_was_not_retested_by_a_fit_frame_is_not_counted() -> None:
    before = TrailFrame(id=1, spot_map=spot_map(*OLD))
    step = TrailStep(id=2, step="air")
    unfit = TrailFrame(id=3, spot_map=spot_map(fit=False))
    assert rows(before, step) == []
    assert rows(before, step, unfit) == []
    assert rows(step, TrailFrame(id=4, spot_map=spot_map(*OLD))) == []
    two = rows(
        before, step, TrailStep(id=3, step="lift"), TrailFrame(id=4, spot_map=spot_map(*OLD[3:]))
    )
    assert [(entry, words) for entry, words, _ in two] == [(3, "lift speck")]


def test_a_frame_without_spots_needs_no_place_to_show_that_all_went() -> None:
    few = [*OLD[:1], FIBRE]
    before, clean = TrailFrame(id=1, spot_map=spot_map(*few)), spot_map()
    step = TrailStep(id=2, step="wet_swab")
    told = step_outcomes([before, step, TrailFrame(id=3, spot_map=clean)], 16.0)[2].comparison
    assert told is not None
    assert not told.comparable
    assert rows(before, step, TrailFrame(id=3, spot_map=clean)) == [
        (2, "wet_swab fibre", (1, 0, 0, 0)),
        (2, "wet_swab speck", (1, 0, 0, 0)),
    ]
    wide = spot_map(f_number=8.0)
    smaller = clean.model_copy(
        update={"frames": (clean.frames[0].model_copy(update={"width_px": 999}),)}
    )
    for other in (wide, smaller, spot_map(fit=False)):
        assert rows(before, step, TrailFrame(id=3, spot_map=other)) == []


def test_places_are_counted_in_the_cells_they_lie_in() -> None:
    found = density_of((36, 24), [(-17.9, -11.9), (-17.0, -11.0), (18.0, 12.0)], [(0.1, 0.1)])
    assert [(c.column, c.row, c.count) for c in found.settled] == [(0, 0, 2), (11, 7, 1)]
    assert [(c.column, c.row, c.count) for c in found.left] == [(6, 4, 1)]
