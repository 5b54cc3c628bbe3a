"""Each frame check at, below and above its limit."""

from __future__ import annotations

from dataclasses import replace

import numpy as np
import pytest

from neatpatch.core.common.records import Check
from neatpatch.core.measure import checks
from neatpatch.core.measure.background import estimate_background
from neatpatch.core.measure.checks import Evidence, frame_checks
from neatpatch.core.measure.detection import Detection, detect, loss_map
from neatpatch.core.measure.filters import binned
from neatpatch.core.measure.frame import Frame, FrameFacts

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
    level: float = 0.35,
    clipped: float = 0.0,
    white_noise: float | None = None,
    texture: float | None = None,
) -> Evidence:
    rng = np.random.default_rng(2)
    shape = (1800, 2600)
    light = (level * (1 + 0.008 * rng.standard_normal(shape))).astype(np.float32)
    frame = Frame(light=light, facts=facts, clipped=clipped)
    background = estimate_background(light)
    found: Detection = detect(loss_map(binned(light, 2), background, 2), background.cells, 2)
    if white_noise is not None:
        found = replace(found, white_noise=white_noise)
    if texture is not None:
        found = replace(found, texture=texture)
    return Evidence(frame, background, found, (23.5, 15.6))


def levels(given: Evidence) -> dict[str, str]:
    return {c.code: c.level for c in frame_checks(given)}


def one(given: Evidence, code: str) -> Check:
    return next(c for c in frame_checks(given) if c.code == code)


def test_a_good_frame_passes_everything() -> None:
    assert set(levels(evidence()).values()) == {"ok"}


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


@pytest.mark.parametrize(
    ("clipped", "level"),
    [(0.0, "ok"), (checks.CLIPPED_NOTE, "ok"), (0.005, "note"), (0.02, "retake")],
)
def test_clipping(clipped: float, level: str) -> None:
    assert levels(evidence(clipped=clipped))["too_bright"] == level


@pytest.mark.parametrize(("light", "level"), [(0.2, "ok"), (0.03, "note"), (0.005, "retake")])
def test_darkness(light: float, level: str) -> None:
    assert levels(evidence(level=light))["too_dark"] == level


@pytest.mark.parametrize(("noise", "level"), [(0.02, "ok"), (0.04, "note"), (0.07, "retake")])
def test_grain(noise: float, level: str) -> None:
    assert levels(evidence(white_noise=noise))["grainy"] == level


@pytest.mark.parametrize(("texture", "level"), [(0.001, "ok"), (0.006, "note"), (0.03, "retake")])
def test_texture(texture: float, level: str) -> None:
    assert levels(evidence(texture=texture))["target_in_focus"] == level


@pytest.mark.parametrize(("ratio", "level"), [(1.5, "ok"), (3.0, "note"), (6.0, "retake")])
def test_evenness(ratio: float, level: str) -> None:
    given = evidence()
    uneven = replace(given, background=replace(given.background, unevenness=ratio))
    assert levels(uneven)["uneven"] == level


def test_compression_software_and_wide_lenses_are_noted() -> None:
    assert levels(evidence(replace(GOOD, jpeg_quality=70)))["compressed"] == "note"
    assert levels(evidence(replace(GOOD, jpeg_quality=40)))["compressed"] == "retake"
    assert levels(evidence(replace(GOOD, software="Tone Mill 3")))["processed"] == "note"
    assert "processed" not in levels(evidence(replace(GOOD, software="Tone Mill 3", format="DNG")))
    assert levels(evidence(replace(GOOD, focal_length_mm=15.0)))["wide_lens"] == "note"
    assert levels(evidence(replace(GOOD, focal_length_35mm=20.0)))["wide_lens"] == "note"


def test_unknown_sensor_size_is_noted() -> None:
    assert levels(replace(evidence(), sensor_mm=None))["sensor_size_unknown"] == "note"


def test_the_gravest_come_first() -> None:
    order = [c.level for c in frame_checks(evidence(replace(GOOD, f_number=4.0, jpeg_quality=70)))]
    assert order == sorted(order, key=["retake", "note", "ok"].index)
