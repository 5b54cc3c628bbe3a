"""Each frame check at, below and above its limit."""

from __future__ import annotations

from dataclasses import replace

import numpy as np
import pytest

from neatpatch.core.common.filters import binned
from neatpatch.core.common.frame import Frame, FrameFacts
from neatpatch.core.common.records import Check
from neatpatch.core.measure.background import estimate_background
from neatpatch.core.measure.check_evidence import CLIPPED_NOTE, CheckEvidence
from neatpatch.core.measure.checks import frame_checks
from neatpatch.core.measure.detection import Detection, detect, faintest_seen, loss_map
from neatpatch.core.measure.loss_levelling import Bands, LevelledLoss
from neatpatch.core.measure.spectrum import Grain

GOOD = FrameFacts(
    width_px=3000,
    height_px=2000,
    f_number=22.0,
    format="JPEG",
    jpeg_quality=94,
    focal_length_mm=85.0,
    camera="Fennick Optical Judge 24",
)


def evidence(
    facts: FrameFacts = GOOD,
    tone: float = 0.35,
    clipped: float = 0.0,
    white_noise: float | None = None,
    texture: float | None = None,
    bands: Bands | None = None,
    grain: Grain | None = None,
    blur_px: float = 18.0,
) -> CheckEvidence:
    rng = np.random.default_rng(2)
    shape = (1800, 2600)
    light = (tone * (1 + 0.008 * rng.standard_normal(shape))).astype(np.float32)
    frame = Frame(light=light, facts=facts, clipped=clipped)
    background = estimate_background(light)
    found: Detection = detect(loss_map(binned(light, 2), background, 2), background.cells, 2)
    if white_noise is not None:
        found = replace(found, white_noise=white_noise)
    if texture is not None:
        found = replace(found, texture=texture)
    level = LevelledLoss(frame, background, found.loss, 2, bands or Bands(), grain=grain or Grain())
    return CheckEvidence(level, found, (23.5, 15.6), blur_px)


def levels(given: CheckEvidence) -> dict[str, str]:
    return {c.code: c.level for c in frame_checks(given)}


def one(given: CheckEvidence, code: str) -> Check:
    return next(c for c in frame_checks(given) if c.code == code)


def test_a_good_frame_passes_everything() -> None:
    assert set(levels(evidence()).values()) == {"ok"}


@pytest.mark.long
@pytest.mark.parametrize(
    ("f_number", "level"),
    [(22.0, "ok"), (16.0, "ok"), (11.0, "note"), (10.0, "note"), (8.0, "retake")],
)
def test_aperture(f_number: float, level: str) -> None:
    found = one(evidence(replace(GOOD, f_number=f_number)), "aperture_too_wide")
    assert found.level == level
    assert found.measured == f_number
    assert ("f/16" in found.remedy) is (level != "ok")


def test_unknown_aperture_is_a_note() -> None:
    assert levels(evidence(replace(GOOD, f_number=None)))["aperture_unknown"] == "note"


@pytest.mark.long
@pytest.mark.parametrize(
    ("clipped", "level"),
    [(0.0, "ok"), (CLIPPED_NOTE, "ok"), (0.005, "note"), (0.02, "retake")],
)
def test_clipping(clipped: float, level: str) -> None:
    assert levels(evidence(clipped=clipped))["too_bright"] == level


@pytest.mark.long
@pytest.mark.parametrize(("light", "level"), [(0.2, "ok"), (0.03, "note"), (0.005, "retake")])
def test_darkness(light: float, level: str) -> None:
    assert levels(evidence(tone=light))["too_dark"] == level


@pytest.mark.long
@pytest.mark.parametrize(("noise", "level"), [(0.02, "ok"), (0.04, "note"), (0.07, "retake")])
def test_grain(noise: float, level: str) -> None:
    assert levels(evidence(white_noise=noise))["grainy"] == level


@pytest.mark.long
@pytest.mark.parametrize(("texture", "level"), [(0.001, "ok"), (0.006, "note"), (0.03, "retake")])
def test_texture(texture: float, level: str) -> None:
    assert levels(evidence(texture=texture))["target_in_focus"] == level


@pytest.mark.parametrize(("ratio", "level"), [(1.5, "ok"), (6.0, "note"), (15.0, "retake")])
def test_evenness(ratio: float, level: str) -> None:
    given = evidence()
    background = replace(given.background, unevenness=ratio)
    uneven = replace(given, level=replace(given.level, background=background))
    assert levels(uneven)["uneven"] == level


def test_a_texture_at_low_iso_is_no_noise() -> None:
    grain = Grain(noise=0.016, texture=0.012, fine=0.011, quietest=0.009)
    checks = frame_checks(evidence(white_noise=0.1, grain=grain))
    assert [c.code for c in checks if c.level == "retake"] == ["target_in_focus"]
    assert "no noise" in checks[0].message
    assert "far from the target" in checks[0].remedy


def test_edges_of_clouds_are_no_texture_and_no_noise() -> None:
    grain = Grain(noise=0.016, texture=0.004, fine=0.001, quietest=0.0)
    given = evidence(white_noise=0.1, grain=grain)
    checks = frame_checks(replace(given, level=replace(given.level, uneven=True)))
    assert [c.code for c in checks if c.level == "retake"] == ["uneven"]
    assert "edges" in checks[0].message


def test_noise_of_a_high_iso_is_noise() -> None:
    grain = Grain(noise=0.08, texture=0.002, fine=0.002, quietest=0.0)
    facts = replace(GOOD, iso=6400)
    checks = frame_checks(evidence(facts, white_noise=0.07, grain=grain))
    assert [c.code for c in checks if c.level == "retake"] == ["grainy"]


def test_a_clipped_frame_is_too_bright_and_nothing_else() -> None:
    grain = Grain(noise=0.004, texture=0.002, fine=0.002, quietest=0.001)
    checks = frame_checks(evidence(clipped=0.3, white_noise=0.03, grain=grain))
    assert [c.code for c in checks if c.level == "retake"] == ["too_bright"]


@pytest.mark.parametrize(
    ("bands", "level", "word"),
    [
        (Bands(rows=0.06, repeating=True), "note", "lamp flickers"),
        (Bands(columns=0.03), "note", "bars or stripes"),
        (Bands(rows=0.3), "retake", "bars or stripes"),
        (Bands(rows=0.3, repeating=True), "retake", "lamp flickers"),
    ],
)
def test_bands_are_named_by_their_cause(bands: Bands, level: str, word: str) -> None:
    check = one(evidence(bands=bands), "uneven")
    assert check.level == level
    assert word in check.message
    assert ("taken out" in check.message) == (level == "note")
    assert check.remedy


@pytest.mark.parametrize(("amplitude", "level"), [(0.0, "ok"), (0.03, "note"), (0.2, "retake")])
def test_a_screens_dots_are_named(amplitude: float, level: str) -> None:
    given = evidence()
    check = one(replace(given, level=replace(given.level, screen=amplitude)), "target_in_focus")
    assert check.level == level
    assert ("screen's dots" in check.message) == (level != "ok")


@pytest.mark.long
def test_compression_software_and_wide_lenses_are_noted() -> None:
    assert levels(evidence(replace(GOOD, jpeg_quality=70)))["compressed"] == "note"
    assert levels(evidence(replace(GOOD, jpeg_quality=40)))["compressed"] == "retake"


def test_a_jpeg_says_how_faint_a_speck_it_still_shows() -> None:
    narrow = evidence(replace(GOOD, jpeg_quality=85), blur_px=3.0)
    told = one(narrow, "compressed")
    faintest = faintest_seen(narrow.detection, 3.0)
    assert faintest > 0.02
    assert f"shallower than {100 * faintest:.0f} % cannot be seen" in told.message
    assert "RAW" in told.remedy
    assert "compressed" not in levels(evidence(replace(GOOD, jpeg_quality=85), blur_px=18.0))
    assert "compressed" not in levels(evidence(replace(GOOD, jpeg_quality=98), blur_px=3.0))
    assert "compressed" not in levels(evidence(replace(GOOD, jpeg_quality=None), blur_px=3.0))
    assert levels(evidence(replace(GOOD, software="Tone Mill 3")))["processed"] == "note"
    assert "processed" not in levels(evidence(replace(GOOD, software="Tone Mill 3", format="DNG")))
    assert levels(evidence(replace(GOOD, focal_length_mm=15.0)))["wide_lens"] == "note"
    assert levels(evidence(replace(GOOD, focal_length_35mm=20.0)))["wide_lens"] == "note"


def test_unknown_sensor_size_is_noted() -> None:
    assert levels(replace(evidence(), sensor_mm=None))["sensor_size_unknown"] == "note"


def test_the_gravest_come_first() -> None:
    order = [c.level for c in frame_checks(evidence(replace(GOOD, f_number=4.0, jpeg_quality=70)))]
    assert order == sorted(order, key=["retake", "note", "ok"].index)


def test_a_figure_that_is_none_is_left_out() -> None:
    check = one(evidence(white_noise=float("inf")), "grainy")
    assert check.level == "retake"
    assert check.measured is None
