"""Shadows taken out of pictures: what comes back, what is left alone, what is never touched."""

from __future__ import annotations

from dataclasses import replace

import cv2
import numpy as np
import pytest
from hypothesis import given, settings
from hypothesis import strategies as st
from numpy.typing import NDArray

from neatpatch.core.common.errors import BadArgumentError
from neatpatch.core.common.filters import binned
from neatpatch.core.common.records import SpotMap
from neatpatch.core.patching.fitting import Subject, working_step
from neatpatch.core.patching.plan import (
    NOT_SEEN,
    NOT_THERE,
    VETOED,
    PatchPlan,
    ShadowPatch,
    candidate_placements,
    check_map,
    locate_in_picture,
    plan_patch,
)
from neatpatch.core.patching.restoring import OPAQUE, MosaicLevels, patched_windows
from neatpatch.core.patching.strength import StrengthPrior, misfit, strength_of
from neatpatch.core.pictures.shadow_evidence import window_of
from neatpatch.images.transfer import srgb_curve
from tests import dusty_pictures as dusty

CURVE = srgb_curve(256)


@pytest.fixture(scope="module")
def spot_map(tmp_path_factory: pytest.TempPathFactory) -> SpotMap:
    return dusty.map_of(tmp_path_factory.mktemp("map"))


def planned(
    tones: dusty.Tones,
    spot_map: SpotMap,
    f_number: float = 11.0,
    veto: frozenset[str] = frozenset(),
    *,
    closely: bool = True,
) -> PatchPlan:
    light = CURVE[tones] @ np.array([0.25, 0.5, 0.25], np.float32)
    shape = (tones.shape[0], tones.shape[1])
    step = working_step(spot_map, shape, f_number)

    def close(
        at: tuple[int, int], half: int, step: int
    ) -> tuple[NDArray[np.float32], NDArray[np.bool_]]:
        coarse = binned(light, step)
        return window_of(coarse, at, half), window_of(np.ones(coarse.shape, np.bool_), at, half)

    subject = Subject(
        light=binned(light, step),
        step=step,
        shape=shape,
        f_number=f_number,
        close=close if closely else None,
    )
    laid = locate_in_picture(spot_map, subject, candidate_placements(spot_map, subject))
    return plan_patch(spot_map, subject, laid, veto)


def after(tones: dusty.Tones, plan: PatchPlan) -> dusty.Tones:
    out = tones.copy()
    for w in patched_windows(tones, plan.patches, CURVE)[0]:
        out[w.top : w.top + w.tones.shape[0], w.left : w.left + w.tones.shape[1]] = w.tones
    return out


@pytest.mark.long
@pytest.mark.parametrize(("f_number", "seed"), [(8.0, 20), (11.0, 21), (16.0, 22)])
def test_the_light_comes_back_and_nothing_else_changes(
    spot_map: SpotMap, f_number: float, seed: int
) -> None:
    dusty_tones = dusty.picture(dusty.dust(), seed, f_number)
    clean = dusty.picture((), seed, f_number)
    plan = planned(dusty_tones, spot_map, f_number)
    done = after(dusty_tones, plan)
    touched = np.zeros(clean.shape[:2], bool)
    gains = []
    for mend in plan.patches:
        half = mend.loss.shape[0] // 2
        y, x = mend.top + half, mend.left + half
        where = np.s_[max(0, y - half) : y + half + 1, max(0, x - half) : x + half + 1]
        touched[where] = True
        gains.append(
            dusty.psnr(done[where], clean[where]) - dusty.psnr(dusty_tones[where], clean[where])
        )
    assert len(gains) >= 6
    assert np.median(gains) > 3
    assert np.mean(np.array(gains) < -0.2) <= 0.1
    assert np.array_equal(done[~touched], dusty_tones[~touched])


@pytest.mark.long
def test_a_clean_picture_is_left_as_it_is(spot_map: SpotMap) -> None:
    clean = dusty.picture((), 23, even=0.9)
    plan = planned(clean, spot_map)
    assert plan.patches == ()
    assert NOT_THERE in {n.why for n in plan.left}


def off(tones: dusty.Tones, clean: dusty.Tones, plan: PatchPlan) -> float:
    """Squared error after a plan."""
    return float(np.square(after(tones, plan).astype(float) - clean).sum())


@pytest.mark.long
def test_shadows_of_an_opening_with_five_sides_are_taken_out_as_such(spot_map: SpotMap) -> None:
    camera = replace(dusty.CAMERA, blades=5)
    as_round, as_it_is = [], []
    for seed in (31, 32):
        tones = dusty.picture(dusty.dust(), seed, 5.6, even=0.95, camera=camera)
        clean = dusty.picture((), seed, 5.6, even=0.95, camera=camera)
        as_round.append(off(tones, clean, planned(tones, spot_map, 5.6, closely=False)))
        as_it_is.append(off(tones, clean, planned(tones, spot_map, 5.6)))
        assert as_it_is[-1] < 0.12 * float(np.square(tones.astype(float) - clean).sum())
        assert as_it_is[-1] < as_round[-1]
    assert sum(as_it_is) < 0.95 * sum(as_round)


def night_sky(shape: tuple[int, int], seed: int) -> NDArray[np.float32]:
    """Linear light of a dark field full of stars."""
    rng = np.random.default_rng(seed)
    light = 0.003 * np.exp(0.1 * rng.standard_normal(shape, np.float32))
    for _ in range(12_000):
        at = int(rng.integers(0, shape[1])), int(rng.integers(0, shape[0]))
        wide = min(1 + rng.pareto(2.0), 6)
        cv2.circle(light, at, int(wide), float(min(0.9, 0.009 * rng.uniform(0.5, 1) ** -3)), -1)
    return np.asarray(cv2.GaussianBlur(light, (0, 0), 1.0), np.float32)


@pytest.mark.long
@pytest.mark.parametrize("seed", [1, 2])
def test_the_dark_between_stars_does_not_tell_how_a_map_lies(spot_map: SpotMap, seed: int) -> None:
    frame = spot_map.frames[0]
    shape = frame.height_px, frame.width_px
    subject = Subject(light=night_sky(shape, seed), step=1, shape=shape, f_number=11.0)
    laid = locate_in_picture(spot_map, subject, candidate_placements(spot_map, subject))
    assert (laid.found, laid.alignment.scale, laid.alignment.radial) == (0, 1.0, 0.0)


@pytest.mark.long
def test_what_a_wide_aperture_does_not_show_is_left(spot_map: SpotMap) -> None:
    plan = planned(dusty.picture(dusty.dust(), 24, 2.0), spot_map, 2.0)
    small = {s.id for s in spot_map.spots if s.kind == "speck" and (s.particle_um or 0) < 40}
    assert len(small) >= 4
    assert {n.why for n in plan.left if n.id in small} == {NOT_SEEN}
    assert small & {m.id for m in plan.patches} == set()


@pytest.mark.long
def test_a_veto_holds(spot_map: SpotMap) -> None:
    tones = dusty.picture(dusty.dust(), 25)
    first = planned(tones, spot_map).patches[0].id
    again = planned(tones, spot_map, veto=frozenset({first}))
    assert first not in {m.id for m in again.patches}
    assert (first, VETOED) in {(n.id, n.why) for n in again.left}


@pytest.mark.long
def test_every_spot_is_mended_or_left_with_a_reason(spot_map: SpotMap) -> None:
    plan = planned(dusty.picture(dusty.dust(), 26), spot_map)
    told = [m.id for m in plan.patches] + [n.id for n in plan.left]
    assert sorted(told) == sorted(s.id for s in spot_map.spots if s.site in ("sensor", "unsure"))
    assert all(n.why for n in plan.left)


def test_a_map_without_its_aperture_is_refused(spot_map: SpotMap) -> None:
    frame = spot_map.frames[0].model_copy(update={"f_number": None})
    with pytest.raises(BadArgumentError, match="own aperture is unknown"):
        check_map(spot_map.model_copy(update={"frames": (frame,)}))


def bell(half: int, depth: float, wide: float = 3.0) -> np.ndarray:
    y, x = np.mgrid[-half : half + 1, -half : half + 1].astype(np.float32)
    return np.asarray(depth * np.exp(-(x * x + y * y) / (2 * wide * wide)), np.float32)


@settings(max_examples=25)
@given(st.integers(0, 10_000), st.floats(0.6, 1.3), st.sampled_from([0.0, 0.02]))
def test_a_strength_is_found_within_what_it_says_of_itself(
    seed: int, true: float, grain: float
) -> None:
    rng = np.random.default_rng(seed)
    shape = bell(10, 0.2)
    tone = np.log(0.3 + np.linspace(0, 0.1, 101, dtype=np.float32))[None].repeat(101, 0)
    tone = tone + grain * rng.standard_normal((101, 101)).astype(np.float32)
    tone[40:61, 40:61] += np.log1p(-true * shape)
    fit = strength_of(
        tone,
        np.ones_like(tone, bool),
        (50.0, 50.0),
        shape,
        StrengthPrior(strength=0.5, place_px=0.5),
    )
    assert fit is not None
    assert abs(fit.own - true) < 0.06 + 5 * fit.own_spread
    assert np.hypot(fit.dx, fit.dy) < 1.0


def test_the_right_shape_fits_best() -> None:
    rng = np.random.default_rng(4)
    tone = (0.004 * rng.standard_normal((121, 121))).astype(np.float32)
    tone[45:76, 45:76] += np.log1p(-bell(15, 0.3, 4.0))
    usable = np.ones_like(tone, bool)
    expected = StrengthPrior(strength=0.1, place_px=0.5)
    costs = {w: misfit(tone, usable, (60.0, 60.0), bell(15, 0.3, w), expected) for w in (3, 4, 5)}
    assert min(costs, key=lambda w: costs[w] or 0) == 4
    assert misfit(tone, ~usable, (60.0, 60.0), bell(15, 0.3), expected) is None


@given(st.sampled_from([256, 65536]), st.floats(0.05, 0.7))
def test_dividing_by_the_true_shadow_gives_the_tones_back(levels: int, depth: float) -> None:
    curve = srgb_curve(levels)
    dtype = np.uint8 if levels == 256 else np.uint16
    clean = np.full((61, 61, 3), levels // 2, dtype)
    loss = bell(20, depth)
    light = curve[clean]
    light[20:61, 20:61] *= (1 - loss)[..., None]
    shaded = np.searchsorted(curve, light).astype(dtype)
    windows, restored, filled = patched_windows(
        shaded, [ShadowPatch(id="a", left=20, top=20, loss=loss)], curve
    )
    assert (restored, filled) == ({"a"}, set())
    [w] = windows
    off = np.abs(w.tones.astype(int) - levels // 2)
    assert off.max() <= 1 + levels // 64


def test_an_opaque_core_is_filled_from_around_and_alpha_is_left() -> None:
    picture = np.full((80, 80, 4), 120, np.uint8)
    picture[..., 3] = np.arange(80, dtype=np.uint8)[None]
    loss = bell(20, 1.0, 5.0)
    core = np.s_[20:61, 20:61]
    light = CURVE[picture[..., :3]]
    light[core] *= (1 - loss)[..., None]
    picture[..., :3] = np.searchsorted(CURVE, light)
    mend = ShadowPatch(id="a", left=20, top=20, loss=loss)
    [w], _, filled = patched_windows(picture, [mend], CURVE)
    assert filled == {"a"}
    assert 1 - loss.max() < OPAQUE
    assert np.abs(w.tones[..., :3].astype(int) - 120).max() <= 6
    assert np.array_equal(w.tones[..., 3], picture[core][..., 3])


def test_shadows_that_overlap_are_taken_out_together_and_borders_are_kept() -> None:
    clean = np.full((60, 60), 130, np.uint8)
    light = CURVE[clean]
    patches = [
        ShadowPatch(id="a", left=-8, top=5, loss=bell(10, 0.4)),
        ShadowPatch(id="b", left=4, top=6, loss=bell(10, 0.4)),
    ]
    for m in patches:
        left, top = max(0, m.left), max(0, m.top)
        part = m.loss[top - m.top :, left - m.left :]
        light[top : top + part.shape[0], left : left + part.shape[1]] *= 1 - part
    shaded = np.searchsorted(CURVE, light).astype(np.uint8)
    [w], _, _ = patched_windows(shaded, patches, CURVE)
    assert (w.left, w.top) == (0, 5)
    assert np.abs(w.tones.astype(int) - 130).max() <= 2
    beyond = replace(patches[0], left=200, top=200)
    assert patched_windows(shaded, [beyond], CURVE)[0] == []


def test_a_core_of_a_mosaic_is_filled_colour_by_colour() -> None:
    mosaic = np.full((60, 60), 10_000, np.uint16)
    mosaic[0::2, 1::2], mosaic[1::2, 1::2] = 12_000, 8_000
    curve = np.linspace(0, 1, 65536, dtype=np.float32)
    levels = MosaicLevels(((512, 600), (560, 530)), 16383)
    black = np.tile(np.array(levels.black, np.float32), (30, 30))
    mosaic[0::2, 0::2] = 16383
    loss = bell(14, 1.0, 4.0)
    shaded = mosaic.astype(np.float32) - black
    shaded[15:44, 16:45] *= 1 - loss
    stored = np.rint(shaded + black).astype(np.uint16)
    stored[0::2, 0::2] = 16383
    mend = ShadowPatch(id="a", left=16, top=15, loss=loss)
    [w], _, filled = patched_windows(stored, [mend], curve, levels)
    assert filled == {"a"}
    off = np.abs(w.tones.astype(float) / mosaic[15:44, 16:45] - 1)
    assert off.max() < 0.05
    full = stored[15:44, 16:45] == 16383
    assert np.array_equal(w.tones[full], stored[15:44, 16:45][full])
