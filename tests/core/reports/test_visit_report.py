"""What a report says, against maps made by hand."""

from __future__ import annotations

from xml.etree import ElementTree

import pytest
from hypothesis import given
from hypothesis import strategies as st

from neatpatch.core.compare.comparing_maps import compare
from neatpatch.core.reports.map_drawing import map_drawing, upright
from neatpatch.core.reports.step_words import amount_words, counts_words, result_words, use_words
from neatpatch.core.reports.visit_report import (
    Counted,
    cautions_for,
    figures_of,
    frame_shown,
    limits_of,
    same_sensor_words,
    step_lines,
    summary_words,
    visible_words,
    worst_spots_of,
)
from neatpatch.core.visit.trail import StepUse, TrailStep
from tests.core.made_maps import HEIGHT, WIDTH, spot, spot_map

SVG = "{http://www.w3.org/2000/svg}"
OLD = [spot(f"s{i}", 300 + 400 * i, 300 + 150 * i, depth=0.1 + 0.1 * i) for i in range(6)]


def counted(*spots: object, **more: object) -> Counted:
    return Counted(spot_map=spot_map(*spots), **more)  # type: ignore[arg-type]


def test_a_count_tells_how_far_its_limit_may_be_off() -> None:
    frame = counted(
        *(spot(n, 100, 100, shows_from_f=f) for n, f in (("a", 8), ("b", 15), ("c", 17)))
    )
    assert visible_words(frame, 16.0) == "2 (1 to 3)"
    assert visible_words(frame, 22.0) == "3"
    assert visible_words(counted(), 16.0) == "none"


def test_a_frame_without_aperture_is_unknown_and_never_none() -> None:
    dark = Counted(spot_map=spot_map(spot("a", 10, 10, shows_from_f=None), f_number=None))
    told = [
        visible_words(dark, 16.0),
        summary_words(dark, None, None, 16.0),
        summary_words(counted(OLD[0]), dark, None, 16.0),
        *frame_shown("Before", dark, "23 Nov", 16.0).words[:1],
        frame_shown("Before", dark, "23 Nov", 16.0).drawing_words,
    ]
    for words in told:
        assert "unknown" in words
        assert not any(w in words for w in ("none", "no spots", "0 spots"))


def test_marks_of_the_target_and_the_lens_do_not_count() -> None:
    frame = counted(
        spot("a", 10, 10), spot("b", 20, 20), spot("l", 30, 30, site="lens"), wall=frozenset({"b"})
    )
    assert [s.id for s in frame.visible(16.0)] == ["a"]


def test_the_summary_counts_what_went_between_first_and_last() -> None:
    before, after = counted(*OLD), counted(*OLD[2:], spot("n", 1500, 1800))
    found = compare(before.spot_map, after.spot_map)
    words = summary_words(before, after, found, 16.0)
    assert words.startswith("6 spots visible at f/16 before, 5 after.")
    assert "2 of 6 spots removed, 4 stayed, 1 new" in words
    assert summary_words(before, None, None, 16.0).startswith("One frame was judged: 6 spots")
    assert "No frame" in summary_words(None, None, None, 16.0)


def test_a_spotless_end_reads_as_such() -> None:
    before, after = counted(OLD[0]), counted()
    words = summary_words(before, after, compare(before.spot_map, after.spot_map), 16.0)
    assert words.startswith("1 spot visible at f/16 before, none after.")
    names = {f.name: (f.before, f.after) for f in figures_of(before, after, 16.0)}
    assert names["Largest shadow"] == ("144 ± 7 µm", "none")
    assert names["All spots on the sensor"] == ("1", "none")


def test_what_lies_inside_the_filter_is_named() -> None:
    frame = counted(OLD[0], spot("in", 40, 40, inside_filter=True))
    names = {f.name: f.before for f in figures_of(frame, None, 16.0)}
    assert names["Of them inside the filter"] == "1"


def test_faint_spots_are_known_less_well() -> None:
    [largest] = [
        f.before
        for f in figures_of(counted(spot("a", 9, 9, snr=12.0)), None, 16.0)
        if f.name == "Largest shadow"
    ]
    assert largest == "144 ± 29 µm"


def test_the_worst_come_first_and_say_what_became_of_them() -> None:
    before, after = counted(*OLD), counted(*OLD[:5], spot("n", 1500, 1800, depth=0.9))
    worst = worst_spots_of(before, after, compare(before.spot_map, after.spot_map), 16.0)
    assert len(worst) == 4
    assert "new" in worst[0].words
    assert worst[0].there is None
    assert "removed" in worst[1].words
    assert worst[1].there == (OLD[5].x_px, OLD[5].y_px)
    assert worst[1].here == pytest.approx((OLD[5].x_px, OLD[5].y_px), abs=3)


def test_one_sensor_is_told_only_where_it_is_proved() -> None:
    before = counted(*OLD)
    found = compare(before.spot_map, before.spot_map)
    assert same_sensor_words(None) == ""
    for said, words in (
        (True, "are the same sensor"),
        (False, "may not be the same"),
        (None, "cannot be told"),
    ):
        assert words in same_sensor_words(found.model_copy(update={"same_sensor": said}))


def test_a_step_says_what_it_did_and_how() -> None:
    use = StepUse(opening="down", puffs=15, open_s=130, note="by the window")
    [line] = step_lines([(TrailStep(id=4, step="air", use=use), "today", "by the window")], {})
    assert (line.step, line.did, line.counts) == ("Air", "not retested", "")
    assert line.used == "opening down, 15 puffs, open 2 min; by the window"
    assert use_words(StepUse(drops=1.5, fluid="oil_dissolving", dabs=2)) == (
        "2 presses, 1.5 drops, oil-dissolving fluid"
    )
    assert result_words("streaks", True) == "left streaks"
    assert counts_words(None) == ""


def test_amounts_carry_their_units() -> None:
    assert amount_words(6, "gel stick", "patch") == "6 patches of gel stick"
    assert amount_words(1, "gel stick", "patch") == "1 patch of gel stick"
    assert amount_words(0.1, "mild fluid", "ml") == "0.1 ml of mild fluid"
    assert amount_words(2, "wet swab, 24 mm", "piece") == "2 × wet swab, 24 mm"


def test_contact_and_an_assumed_height_are_said() -> None:
    touched = cautions_for([TrailStep(id=1, step="wet_swab")])
    assert len(touched) == len(cautions_for([TrailStep(id=1, step="air")])) + 1
    assert any("licensed repairer" in c for c in touched)
    plain = spot_map()
    assumed = plain.model_copy(
        update={"optics": plain.optics.model_copy(update={"height_source": "assumed"})}
    )
    assert any("assumed" in line for line in limits_of([assumed]))


@given(st.integers(1, 8), st.floats(0, WIDTH), st.floats(0, HEIGHT))
def test_every_place_stays_in_the_upright_picture(orientation: int, x: float, y: float) -> None:
    wide, high = (HEIGHT, WIDTH) if orientation >= 5 else (WIDTH, HEIGHT)
    u, v = upright(x, y, WIDTH, HEIGHT, orientation)
    assert 0 <= u <= wide
    assert 0 <= v <= high


def test_upright_follows_the_tag() -> None:
    corner = {o: upright(0, 0, 3, 2, o) for o in range(1, 9)}
    assert corner == {
        1: (0, 0), 2: (3, 0), 3: (3, 2), 4: (0, 2), 5: (0, 0), 6: (2, 0), 7: (2, 3), 8: (0, 3)
    }  # fmt: skip


def test_a_drawing_tells_kinds_by_shape_and_what_is_visible_by_filling() -> None:
    bent = ((-40.0, 5.0), (0.0, -5.0), (40.0, 5.0))
    drawn = spot_map(
        spot("a", 500, 500),
        spot("b", 900, 900, shows_from_f=30.0),
        spot("f", 1500, 600, kind="fibre", course_px=bent, width_px=9.0),
        spot("d", 2000, 800, kind="droplet"),
        spot("r", 2500, 300, kind="residue", angle_deg=20.0, width_px=40.0),
        spot("l", 100, 100, site="lens"),
    )
    root = ElementTree.fromstring(map_drawing(drawn, {"a", "f"}))
    rings = root.findall(f".//{SVG}circle")
    assert len(rings) == 4
    assert [c.get("fill") for c in rings].count("#000") == 1
    fibre, smear = root.findall(f"{SVG}path")
    assert {fibre.get("stroke-dasharray"), smear.get("stroke-dasharray")} != {None}
    assert "1460.0 605.0 L 1500.0 595.0 L 1540.0 605.0" in ElementTree.tostring(root).decode()
    assert root.findtext(f"{SVG}title") == "Map with 5 marks, 2 of them visible in the work"
