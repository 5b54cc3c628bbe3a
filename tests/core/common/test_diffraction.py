"""Light behind an opaque disc, against closed forms and against a field worked out on a plane."""

from __future__ import annotations

import numpy as np
import pytest
from hypothesis import given
from hypothesis import strategies as st
from scipy.special import fresnel, j1

from neatpatch.core.common import diffraction, optics
from neatpatch.core.common.diffraction import disc_spectrum, shadow_spectrum, washed_cosine
from neatpatch.simulation import shadows


@pytest.fixture
def one_wavelength(monkeypatch: pytest.MonkeyPatch) -> None:
    for module in (diffraction, shadows):
        monkeypatch.setattr(module, "BANDS", ((1.0, 1.0),))
    monkeypatch.setattr(diffraction, "BAND_WIDTH", 0.0)


POINT = np.ones((1, 1), np.float32)


@given(st.floats(1, 200), st.floats(0, 5000))
def test_in_all_a_shadow_takes_the_area_of_its_disc(diameter: float, spread_sq: float) -> None:
    """The extinction paradox: twice the area goes, once it comes back."""
    assert shadow_spectrum(diameter, np.zeros(1), spread_sq)[0] == pytest.approx(1.0, abs=1e-9)


def test_in_contact_the_shadow_is_the_disc() -> None:
    k = np.linspace(0, 0.5, 200)
    assert np.array_equal(shadow_spectrum(12.0, k, 0.0), disc_spectrum(12.0, k))
    assert np.allclose(shadow_spectrum(12.0, k, 1e-6), disc_spectrum(12.0, k), atol=1e-3)


def test_unshifted_the_ambiguity_function_is_the_discs_spectrum() -> None:
    waves = np.linspace(0.05, 20, 300)
    expected = 2 * j1(np.pi * waves) / (np.pi * waves)
    assert np.allclose(diffraction._ambiguity(np.zeros_like(waves), waves), expected, atol=2e-3)


@given(st.floats(0.0, 1.0))
def test_at_zero_frequency_it_is_what_two_shifted_discs_share(shift: float) -> None:
    shared = float(optics.disc_overlap(1.0, 1.0, [shift])[0]) / (np.pi / 4)
    found = float(diffraction._ambiguity(np.array([shift]), np.zeros(1))[0])
    assert found == pytest.approx(shared, abs=2e-4)


def test_several_discs_at_once_are_as_each_alone() -> None:
    k = np.linspace(0, 0.2, 50)
    some = np.array([3.0, 9.0, 40.0])
    together = shadow_spectrum(some[:, None], k, 300.0)
    assert np.allclose(together, [shadow_spectrum(float(d), k, 300.0) for d in some])


def test_bands_wash_out_fringes_of_high_order() -> None:
    assert washed_cosine(np.zeros(1))[0] == pytest.approx(1.0)
    assert np.abs(washed_cosine(np.linspace(60, 80, 50))).max() < 0.01


@pytest.mark.usefixtures("one_wavelength")
def test_the_middle_behind_a_disc_is_as_bright_as_without_it() -> None:
    """The bright point that Fresnel's theory gives in the shadow of a disc."""
    y, x = np.mgrid[-200:201, -200:201]
    disc = np.clip(40.5 - np.hypot(x, y), 0, 1).astype(np.float32)
    loss = shadows._diffracted(disc, POINT, 400.0)
    assert loss[200, 200] == pytest.approx(0.0, abs=0.05)
    assert loss[200, 220] > 0.7


@pytest.mark.usefixtures("one_wavelength")
def test_behind_a_straight_edge_light_is_that_of_fresnels_integrals() -> None:
    size, spread_sq = 801, 300.0
    plane = np.zeros((size, size), np.float32)
    plane[:, 200:600] = 1.0
    row = shadows._diffracted(plane, POINT, spread_sq)[400, 150:260]
    w = (199.5 - np.arange(150, 260)) * np.sqrt(2 / spread_sq)
    s, c = fresnel(w)
    expected = 1 - 0.5 * ((c + 0.5) ** 2 + (s + 0.5) ** 2)
    assert np.sqrt(np.mean((row - expected) ** 2)) < 0.03


@pytest.mark.parametrize("diameter", [6.0, 12.0, 24.0, 50.0])
def test_the_profile_is_that_of_a_field_worked_out_on_a_plane(diameter: float) -> None:
    """Two ways that share no line: a radial transform, and a screen drawn and sent on its way."""
    blur, spread_sq, half = 60.0, 700.0, 140
    y, x = np.mgrid[-half : half + 1, -half : half + 1]
    disc = np.clip(diameter / 2 + 0.5 - np.hypot(x, y), 0, 1).astype(np.float32)
    disc *= np.float32(np.pi / 4 * diameter**2 / disc.sum())
    pupil = shadows._pupil(blur, 0, 0.0)
    seen = shadows._diffracted(np.clip(disc, 0, 1), pupil, spread_sq)[half, half:]
    radius = np.arange(half + 1.0)
    model = (
        np.pi / 4 * diameter**2 * optics.unit_profile(radius, diameter, blur, 1.2, spread_sq / blur)
    )
    assert np.abs(seen - model)[: int(blur)].max() < 0.06 * model.max()


@pytest.mark.parametrize(
    ("f_number", "ratios"),
    [
        (22.63, {5: 2.0, 10: 1.9, 20: 1.6, 30: 1.4, 40: 1.3}),
        (8.0, {5: 1.8, 10: 1.7, 20: 1.5, 30: 1.3, 40: 1.2, 60: 1.1}),
    ],
)
def test_small_specks_are_deeper_than_their_geometry(
    f_number: float, ratios: dict[float, float]
) -> None:
    """Against another renderer's peaks at a height of 2.1 mm."""
    blur = optics.blur_um(2.1, f_number, 1e6)
    for diameter, ratio in ratios.items():
        peak = optics.predicted_depth(diameter, blur, 2.0, optics.wave_um(f_number))
        assert peak / optics.central_depth(diameter, blur) == pytest.approx(
            ratio, rel=0.3 if diameter <= 10 else 0.15
        )
