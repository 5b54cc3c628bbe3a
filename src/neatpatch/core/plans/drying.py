"""How fast a thin film of cleaning fluid dries, and whether the room suits it.

Vapour pressure by Antoine's equation, mass transfer from a flat plate in slow air by the laminar
Sherwood correlation, ``Sh = 0.664 Re^(1/2) Sc^(1/3)``. A film cools as it dries, and how far the
glass warms it again is not known. So the least time takes it at the room's temperature and the most
at its wet-bulb temperature, where the air alone brings the heat (same correlation, Nusselt for
Sherwood, Prandtl for Schmidt). The rate is taken at the room's temperature. Sources: B. E. Poling,
J. M. Prausnitz & J. P. O'Connell, The Properties of Gases and Liquids, 5th ed., app. A and ch. 11;
F. P. Incropera & D. P. DeWitt, Fundamentals of Heat and Mass Transfer, 6th ed., ch. 6 and 7.

A cold camera warms by Newton's law, ``room - (room - camera) exp(-t / tau)``, as one lump (ibid.,
ch. 5): 0.6 to 1.2 kg at 900 J/(kg K), 0.05 m² of surface, 8 to 10 W/(m² K) in still air give tau
of 18 to 45 minutes. In its closed, padded bag it takes about three times as long.
"""

from __future__ import annotations

import math
from dataclasses import dataclass
from typing import Literal

from neatpatch.core.common.errors import BadArgumentError
from neatpatch.core.common.records import FluidKind, Record
from neatpatch.core.common.words import with_room

Verdict = Literal["good", "slow", "no"]

COLDEST_C, WARMEST_C = -10.0, 50.0
USUAL_C, USUAL_PERCENT = 20.0, 45.0
GOOD_C = (18.0, 28.0)
"""Field guide's 18 to 21 °C and what practice bears; outside fluid dries slowly, or at once. The
gate of the judgement is this verdict, so that both say the same."""
GOOD_PERCENT = 60.0
"""Field guide. Damper air dries slowly."""
POSSIBLE_C = (10.0, 35.0)
"""Beyond these marks are certain; narrower would bar what only needs patience."""
POSSIBLE_PERCENT = 75.0
"""As above, for damp."""
_GAS_CONSTANT = 8.314
"""J/(mol K)."""
_AIR_VISCOSITY_M2_S = 1.5e-5
"""Kinematic, at 20 °C (Incropera, table A.4); 10 % over the range of rooms."""
_MMHG_PA = 133.322
"""By definition."""
_LENGTH_M = 0.024
"""Of the plate in the correlation: a sensor's short side; the time goes with its root."""
_PRANDTL = 0.71
"""Of air (Incropera, table A.4)."""
_AIR_W_M_K = 0.026
"""Conductivity of air at 20 °C (Incropera, table A.4)."""
BARE_MINUTES = (18.0, 45.0)
"""Time constants of a small and of a large camera in still air."""
PADDING = 3.0
"""How much slower a padded bag makes it, estimated from a few centimetres of foam and still air.
A smaller number opens the camera into dew."""
ABOVE_DEW_C = 2.0
"""The camera should be so much warmer than the dew point before it is opened."""


@dataclass(frozen=True)
class Vapour:
    """Antoine's A, B, C (mmHg, °C); molar mass; density; diffusion in air at 25 °C; latent heat at
    20 °C. ``in_air``: the air holds some already, as it does of water.
    """

    a: float
    b: float
    c: float
    molar_kg: float
    density_kg_m3: float
    diffusion_m2_s: float
    latent_j_kg: float
    in_air: bool = False


WATER = Vapour(8.07131, 1730.63, 233.426, 0.018015, 998.0, 2.5e-5, 2.45e6, in_air=True)
ETHANOL = Vapour(8.20417, 1642.89, 230.300, 0.04607, 789.0, 1.2e-5, 0.92e6)
PROPANOL = Vapour(8.87829, 2010.33, 252.636, 0.0601, 785.0, 1.0e-5, 0.76e6)
VAPOURS: dict[FluidKind, Vapour] = {
    "mild": WATER,
    "alcohol_free": WATER,
    "pure_water": WATER,
    "fast_drying": ETHANOL,
    "oil_dissolving": PROPANOL,
}
"""Each kind of fluid taken as its main part."""


@dataclass(frozen=True, kw_only=True)
class Film:
    """What is assumed of the film and the air: thickness in micrometres, air speed in m/s."""

    thickness_um: tuple[float, float] = (3.0, 15.0)
    air_m_s: tuple[float, float] = (0.05, 0.2)


class Minutes(Record):
    """A range of minutes."""

    least: float
    most: float


class Warming(Record):
    """A camera brought in from the cold. ``minutes``: until no dew can settle; None when never."""

    dew: bool
    minutes: Minutes | None
    why: str


class DryPlan(Record):
    """``relative_rate``: against 20 °C and 45 % with the same fluid. ``camera``: how it warms up,
    None while its temperature is not known.
    """

    relative_rate: float
    minutes: Minutes
    dew_point_c: float
    verdict: Verdict
    why: str
    assumed: str
    camera: Warming | None = None


def plan_drying(
    temperature_c: float,
    humidity_percent: float,
    fluid: FluidKind = "mild",
    film: Film | None = None,
    camera_c: float | None = None,
) -> DryPlan:
    """How a film dries in this air. Raises `BadArgumentError` for impossible air or films."""
    if not COLDEST_C <= temperature_c <= WARMEST_C:
        raise BadArgumentError(
            f"a temperature of {temperature_c:g} °C is outside {COLDEST_C:g} to {WARMEST_C:g} °C. "
            "Check the number."
        )
    if not 0 <= humidity_percent <= 100:
        raise BadArgumentError(
            f"a humidity of {humidity_percent:g} % is outside 0 to 100 %. Check the number."
        )
    film = film or Film()
    _check_film(film)
    vapour = VAPOURS[fluid]
    here = flux_kg_m2_s(vapour, temperature_c, humidity_percent, 0.1)
    usual = flux_kg_m2_s(vapour, USUAL_C, USUAL_PERCENT, 0.1)
    quick = flux_kg_m2_s(vapour, temperature_c, humidity_percent, film.air_m_s[1])
    cooled = wet_bulb_c(vapour, temperature_c, humidity_percent)
    slow = flux_kg_m2_s(vapour, temperature_c, humidity_percent, film.air_m_s[0], cooled)
    verdict, why = _verdict(temperature_c, humidity_percent)
    thin, thick = film.thickness_um
    return DryPlan(
        relative_rate=round(here / usual, 3),
        minutes=Minutes(least=_minutes(vapour, thin, quick), most=_minutes(vapour, thick, slow)),
        dew_point_c=round(dew_point_c(temperature_c, humidity_percent), 1),
        verdict=verdict,
        why=with_room(why),
        assumed=f"A film {thin:g} to {thick:g} µm thick, air at {film.air_m_s[0]:g} to "
        f"{film.air_m_s[1]:g} m/s.",
        camera=None if camera_c is None else warming(temperature_c, humidity_percent, camera_c),
    )


def _check_film(film: Film) -> None:
    if not 0.1 <= film.thickness_um[0] <= film.thickness_um[1] <= 500:
        low, high = film.thickness_um
        raise BadArgumentError(
            f"a film of {low:g} to {high:g} µm is no range. Give two growing thicknesses "
            "within 0.1 to 500 µm, like 3-15."
        )
    if not 0.01 <= film.air_m_s[0] <= film.air_m_s[1] <= 10:
        low, high = film.air_m_s
        raise BadArgumentError(
            f"air at {low:g} to {high:g} m/s is no range. Give two growing speeds within 0.01 to "
            "10 m/s, like 0.05-0.2."
        )


def warming(room_c: float, humidity_percent: float, camera_c: float) -> Warming:
    """Whether dew settles on a camera in this room, and how long it must warm up, closed.

    Raises `BadArgumentError` for a camera outside -40 to 60 °C.
    """
    if not -40 <= camera_c <= 60:
        raise BadArgumentError(
            f"a camera at {camera_c:g} °C is outside -40 to 60 °C. Check the number."
        )
    dew = dew_point_c(room_c, humidity_percent)
    wanted = dew + ABOVE_DEW_C
    if camera_c >= wanted:
        return Warming(
            dew=False,
            minutes=Minutes(least=0, most=0),
            why="No dew settles on this camera. Let it reach the room's temperature before fluid.",
        )
    if wanted >= room_c:
        return Warming(
            dew=True,
            minutes=None,
            why="The air is so damp that dew may settle on any camera. Dry the room first.",
        )
    share = math.log((room_c - camera_c) / (room_c - wanted))
    least, most = (float(f"{PADDING * tau * share:.2g}") for tau in BARE_MINUTES)
    return Warming(
        dew=True,
        minutes=Minutes(least=least, most=most),
        why=f"Dew would settle on it. Leave it closed, in its bag, for {least:g} to {most:g} min.",
    )


def vapour_pressure_pa(vapour: Vapour, temperature_c: float) -> float:
    """Antoine: ``log10 p = A - B / (C + T)``."""
    return float(10 ** (vapour.a - vapour.b / (vapour.c + temperature_c))) * _MMHG_PA


def dew_point_c(temperature_c: float, humidity_percent: float) -> float:
    """Temperature at which this air's water condenses; Antoine's equation turned round.

    Perfectly dry air has none; -90 °C stands for it.
    """
    pressure = vapour_pressure_pa(WATER, temperature_c) / _MMHG_PA * humidity_percent / 100
    if pressure <= 1e-5:
        return -90.0
    return float(WATER.b / (WATER.a - math.log10(pressure)) - WATER.c)


def wet_bulb_c(vapour: Vapour, temperature_c: float, humidity_percent: float) -> float:
    """Temperature at which the air brings a film as much heat as its drying takes, by bisection."""
    low, high = temperature_c - 60, temperature_c
    for _ in range(40):
        middle = (low + high) / 2
        taken = vapour.latent_j_kg * flux_kg_m2_s(
            vapour, temperature_c, humidity_percent, 0.1, middle
        )
        brought = _heat_w_m2_k(0.1) * (temperature_c - middle)
        low, high = (middle, high) if brought > taken else (low, middle)
    return high


def _heat_w_m2_k(air_m_s: float) -> float:
    reynolds = air_m_s * _LENGTH_M / _AIR_VISCOSITY_M2_S
    return float(0.664 * math.sqrt(reynolds) * _PRANDTL ** (1 / 3) * _AIR_W_M_K / _LENGTH_M)


def flux_kg_m2_s(
    vapour: Vapour,
    temperature_c: float,
    humidity_percent: float,
    air_m_s: float,
    surface_c: float | None = None,
) -> float:
    """Mass that leaves a square metre in a second; never below a thousandth of a gram.

    ``surface_c``: of the film itself, the air's where it is None.
    """
    film_c = temperature_c if surface_c is None else surface_c
    share = humidity_percent / 100 if vapour.in_air else 0.0
    pressure = vapour_pressure_pa(vapour, film_c) - share * vapour_pressure_pa(
        vapour, temperature_c
    )
    kelvin = temperature_c + 273.15
    diffusion = vapour.diffusion_m2_s * (kelvin / 298.15) ** 1.75
    reynolds = air_m_s * _LENGTH_M / _AIR_VISCOSITY_M2_S
    schmidt = _AIR_VISCOSITY_M2_S / diffusion
    transfer = 0.664 * math.sqrt(reynolds) * schmidt ** (1 / 3) * diffusion / _LENGTH_M
    return float(max(transfer * pressure * vapour.molar_kg / (_GAS_CONSTANT * kelvin), 1e-6))


def _minutes(vapour: Vapour, thickness_um: float, flux: float) -> float:
    seconds = thickness_um * 1e-6 * vapour.density_kg_m3 / flux
    return float(f"{seconds / 60:.2g}")


def _verdict(temperature_c: float, humidity_percent: float) -> tuple[Verdict, str]:
    if humidity_percent > POSSIBLE_PERCENT:
        return "no", "So damp, fluid dries to marks. Wait, or dry the room to below 60 %."
    if not POSSIBLE_C[0] <= temperature_c <= POSSIBLE_C[1]:
        return "no", "So cold or hot, fluid leaves marks. Bring room and camera to {room}."
    if temperature_c < GOOD_C[0]:
        return (
            "slow",
            "Cool air dries slowly. Warm the room, and the camera with it, to {room}.",
        )
    if humidity_percent > GOOD_PERCENT:
        return (
            "slow",
            "Damp air dries slowly and leaves marks. Wait, or dry the room to below 60 %.",
        )
    if temperature_c > GOOD_C[1]:
        return "slow", "Warm air dries the swab before the stroke ends. Cool the room to {room}."
    return "good", "Dry and warm enough for fluid."
