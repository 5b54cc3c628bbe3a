"""The sides of the opening, told from shadows whose opening is known."""

from __future__ import annotations

from dataclasses import replace

import numpy as np
import pytest

from neatpatch.core.common.optics import blur_um
from neatpatch.core.patching.aperture import Rim, fitted_blades
from neatpatch.core.patching.fitting import in_window
from neatpatch.core.pictures.pupil import Blades
from neatpatch.simulation import Particle
from neatpatch.simulation.shadows import View, render

PITCH_UM, F_NUMBER, HEIGHT_MM = 5.0, 11.0, 1.5
BLUR_PX = blur_um(HEIGHT_MM, F_NUMBER, 1e6) / PITCH_UM
SIZES_UM = (18, 22, 26, 30, 34, 38, 42, 46, 50, 54)
HALF = 30
POINT = 2_000.0
"""An opening so small spreads nothing; the light bends as far."""


def shadow(number: int, blades: int, f_number: float = F_NUMBER) -> np.ndarray:
    particle = Particle(
        name="p",
        kind="speck",
        x_mm=0,
        y_mm=0,
        size_um=SIZES_UM[number],
        height_mm=HEIGHT_MM,
        shape=number,
    )
    view = View(
        sensor_mm=(24.0, 16.0),
        width_px=4801,
        f_number=f_number,
        exit_pupil_mm=1e6,
        blades=blades,
        turn_rad=0.3,
    )
    return np.asarray(render(particle, view).loss, np.float32)


def around(loss: np.ndarray) -> np.ndarray:
    middle = loss.shape[0] // 2
    reach = min(middle, HALF)
    own = slice(middle - reach, middle + reach + 1)
    return in_window(np.ascontiguousarray(loss[own, own]), HALF)


def rims(blades: int, seed: int, noise: float = 0.004, slope: float = 0.4) -> list[Rim]:
    """Specks of all sizes before a bent sky with grain; their outlines are not round."""
    rng = np.random.default_rng(seed)
    y, x = np.indices((2 * HALF + 1,) * 2) / HALF - 1
    near, out = slice(HALF - 10, HALF + 11), []
    for number in range(len(SIZES_UM)):
        a, b, c = rng.uniform(-slope, slope, 3)
        sky = 0.4 * np.exp(a * x + b * y + c * x * y)
        light = sky * (1 - around(shadow(number, blades)))
        light *= 1 + noise * rng.standard_normal(light.shape)
        out.append(
            Rim(
                light=np.asarray(light, np.float32),
                usable=np.ones(light.shape, np.bool_),
                loss=around(shadow(number, 0)),
                sharp=around(shadow(number, 0, POINT))[near, near],
            )
        )
    return out


def off_turn(found: Blades) -> float:
    side = 360 / found.count
    return float(abs((found.turn_deg - np.degrees(0.3) + side / 2) % side - side / 2))


@pytest.mark.long
@pytest.mark.parametrize("count", [5, 6, 7])
@pytest.mark.parametrize("seed", [1, 2])
def test_sides_are_counted_and_their_turn_is_told(count: int, seed: int) -> None:
    found = fitted_blades(rims(count, seed), BLUR_PX)
    assert found is not None
    assert found.count == count
    assert off_turn(found) < 4
    assert found.straight > 0.5


@pytest.mark.parametrize("seed", range(6))
def test_a_round_opening_is_not_given_sides(seed: int) -> None:
    assert fitted_blades(rims(0, seed, noise=0.002 * (1 + seed)), BLUR_PX) is None


def test_few_specks_or_a_small_opening_tell_nothing() -> None:
    clear = rims(5, 1)
    assert fitted_blades(clear[:3], BLUR_PX) is None
    assert fitted_blades(clear, 8.0) is None
    assert fitted_blades([], BLUR_PX) is None


def test_specks_at_the_border_are_not_asked() -> None:
    clear = rims(5, 1)
    inside = np.broadcast_to(np.arange(2 * HALF + 1) > 20, clear[0].usable.shape)
    cut = [replace(rim, usable=inside) for rim in clear]
    assert fitted_blades(cut, BLUR_PX) is None


def test_a_subject_full_of_things_does_not_pass_for_sides() -> None:
    rng = np.random.default_rng(5)
    busy = []
    for rim in rims(0, 3):
        things = np.kron(rng.uniform(0.5, 1.5, (13, 13)), np.ones((5, 5)))[:61, :61]
        busy.append(
            Rim(np.asarray(rim.light * things, np.float32), rim.usable, rim.loss, rim.sharp)
        )
    assert fitted_blades(busy, BLUR_PX) is None
