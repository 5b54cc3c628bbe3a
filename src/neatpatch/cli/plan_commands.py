"""``plan``: the arithmetic of the hand, done before the camera is opened."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import replace
from pathlib import Path
from typing import Annotated, Literal, cast, get_args

import typer
from pydantic import BaseModel

from neatpatch.cli.parsing import read_map, sensor_size, size_of
from neatpatch.core.common.errors import BadArgumentError
from neatpatch.core.common.records import FluidKind
from neatpatch.core.common.words import counted
from neatpatch.core.maps.mount_view import POSES, Aim, Pose, aims, to_mount
from neatpatch.core.plans.dab import Axes, Target, plan_dabs, plan_whole, targets_of
from neatpatch.core.plans.drying import Film, plan_drying
from neatpatch.core.plans.loupe import plan_loupe
from neatpatch.core.plans.power import plan_power
from neatpatch.core.plans.swab import Hand, StrokeSchool, Tool, Wiping, plan_swab
from neatpatch.core.plans.test_frame import plan_shoot, trial_exposure_of

app = typer.Typer(rich_markup_mode=None)
MapFile = Annotated[Path | None, typer.Option("--map", help="A map as written by map --json.")]
AIR_CAUTIONS = (
    "Opening straight down; blow upward.",
    "Nozzle outside the mount, never touching.",
)
_PLAY_MM = 0.5
"""How far a spot may lie beyond the edge: sizes are rounded."""
HandFlag = Annotated[str, typer.Option(help="The hand that works: right or left.")]
JsonFlag = Annotated[bool, typer.Option("--json", help="Print one JSON object and nothing else.")]
Sensor = Annotated[str, typer.Option(help="Sensor size in mm, like 36x24.")]


def _print(plan: BaseModel, json: bool) -> None:
    if json:
        typer.echo(plan.model_dump_json())
        return
    for name, value in plan.model_dump().items():
        typer.echo(f"{name.replace('_', ' ')}: {_plain(value)}")


def _plain(value: object) -> str:
    """A value for people: rows below each other, names before values."""
    if isinstance(value, dict):
        return ", ".join(f"{k.replace('_', ' ')} {_plain(v)}" for k, v in value.items())
    if isinstance(value, list | tuple):
        if all(isinstance(v, int | float) for v in value):
            return " / ".join(f"{v:g}" for v in value) or "none"
        return "".join(f"\n  {_plain(v)}" for v in value)
    if value is None:
        return "not known"
    if isinstance(value, bool):
        return "yes" if value else "no"
    return f"{value:g}" if isinstance(value, float) else str(value)


def _one_of(name: str, value: str, kind: object) -> str:
    known = get_args(kind)
    if value not in known:
        raise BadArgumentError(f"{name} {value!r} is not known. Use one of: {', '.join(known)}.")
    return value


@app.command()
def swab(
    sensor: Sensor,
    swab: Annotated[float, typer.Option(help="Width of the swab's tip in mm.")],
    stroke: Annotated[str, typer.Option(help="School of the stroke.")] = "same_way",
    tool: Annotated[str, typer.Option(help="Kind of tool.")] = "swab",
    fluid: Annotated[str | None, typer.Option(help="Kind of fluid.")] = None,
    chamber: Annotated[
        float | None, typer.Option(help="Distance of the chamber's walls across the swab, mm.")
    ] = None,
    hand: HandFlag = "right",
    edges_by_face: Annotated[
        bool, typer.Option("--edges-by-face", help="One swab for two lanes, a face for each edge.")
    ] = False,
    map_file: MapFile = None,
    json: JsonFlag = False,
) -> None:
    """Lanes, strokes, faces and drops of a swab; with a map, what each stroke passes."""
    size = sensor_size(sensor)
    assert size is not None
    plan = plan_swab(
        size,
        swab,
        Wiping(
            stroke=cast(StrokeSchool, _one_of("--stroke", stroke, StrokeSchool)),
            tool=cast(Tool, _one_of("--tool", tool, Tool)),
            fluid=None if fluid is None else cast(FluidKind, _one_of("--fluid", fluid, FluidKind)),
            hand=cast(Hand, _one_of("--hand", hand, Hand)),
            chamber_mm=chamber,
            edges_by_face=edges_by_face,
        ),
        targets=[] if map_file is None else _in_mount(_targets(map_file, size)),
    )
    _print(plan, json)


def _targets(map_file: Path, size: tuple[float, float], *, proven: bool = False) -> list[Target]:
    """What the map has on this sensor; ``proven`` leaves out, and names, what may lie elsewhere."""
    spots = read_map(map_file, size).spots
    if proven and any(s.site == "unsure" for s in spots):
        marks = sum(1 for s in spots if s.site == "unsure")
        spots = tuple(s for s in spots if s.site != "unsure")
        words = counted(
            marks,
            "mark that may not lie on the sensor is",
            "marks that may not lie on the sensor are",
        )
        typer.echo(f"neatpatch: {words} left out. Prove the place with a second frame.", err=True)
    targets = targets_of(spots)
    if any(
        abs(t.x_mm) > size[0] / 2 + _PLAY_MM or abs(t.y_mm) > size[1] / 2 + _PLAY_MM
        for t in targets
    ):
        raise BadArgumentError(
            f"{map_file}: spots of this map lie outside a sensor of {size[0]:g} x {size[1]:g} mm. "
            "Give the size of the map's own sensor, width first as the picture is stored."
        )
    return targets


def _in_mount(targets: Sequence[Target], pose: Pose = "top_away") -> list[Target]:
    shown = []
    for t in targets:
        x_mm, y_mm = to_mount(t.x_mm, t.y_mm, pose)
        shown.append(replace(t, x_mm=x_mm, y_mm=y_mm))
    return shown


@app.command()
def dab(
    sensor: Sensor,
    tip: Annotated[str, typer.Option(help="Size of the sticky tip in mm, like 8x6.")],
    map_file: MapFile = None,
    whole: Annotated[bool, typer.Option("--whole", help="The whole sensor as a grid.")] = False,
    patches_per_sheet: Annotated[
        int | None, typer.Option(help="Sticky patches on a sheet.")
    ] = None,
    hand: HandFlag = "right",
    axes: Annotated[
        str, typer.Option(help="Axes of the presses: picture, as stored, or mount, as swab's.")
    ] = "picture",
    json: JsonFlag = False,
) -> None:
    """The fewest presses that lift every sensor spot of a map."""
    facing = cast(Axes, _one_of("--axes", axes, Axes))
    size = sensor_size(sensor)
    assert size is not None
    tip_mm = size_of("--tip", tip, 0.5, 60)
    if whole == (map_file is not None):
        raise BadArgumentError("give either --map MAP.json or --whole.")
    left = _one_of("--hand", hand, Hand) == "left"
    if map_file is None:
        plan = plan_whole(size, tip_mm, patches_per_sheet=patches_per_sheet, from_right=left)
    else:
        targets = _targets(map_file, size, proven=True)
        targets = _in_mount(targets) if facing == "mount" else targets
        plan = plan_dabs(
            size, tip_mm, targets, patches_per_sheet=patches_per_sheet, from_right=left
        )
    _print(plan.model_copy(update={"axes": facing}), json)


class AirPlan(BaseModel):
    """Where to aim, fullest zone first; ``come_from``: where the air comes from."""

    pose: Pose
    axes: Literal["mount"] = "mount"
    aims: list[Aim]
    cautions: list[str]


@app.command()
def air(
    sensor: Sensor,
    map_file: Annotated[Path, typer.Option("--map", help="A map as written by map --json.")],
    pose: Annotated[str, typer.Option(help="How the camera lies.")] = "overhead",
    json: JsonFlag = False,
) -> None:
    """Where to aim with the blower, and from where, in the words of the mount view."""
    size = sensor_size(sensor)
    assert size is not None
    if pose not in POSES:
        raise BadArgumentError(f"--pose {pose!r} is not known. Use one of: {', '.join(POSES)}.")
    targets = _targets(map_file, size)
    zones = aims([(t.id, t.x_mm, t.y_mm) for t in targets], *size, pose)
    _print(AirPlan(pose=pose, aims=list(zones), cautions=list(AIR_CAUTIONS)), json)


@app.command()
def power(
    lockup_minutes: Annotated[
        float | None, typer.Option(help="Minutes a full battery held the lock-up, by your note.")
    ] = None,
    battery: Annotated[float | None, typer.Option(help="Charge of the battery in %.")] = None,
    mains: Annotated[bool, typer.Option("--mains", help="Run from the mains.")] = False,
    json: JsonFlag = False,
) -> None:
    """How long the mirror lock-up may stay open on this battery."""
    _print(plan_power(lockup_minutes, battery, mains), json)


@app.command()
def dry(
    temperature: Annotated[float, typer.Option(help="Room temperature in °C.")],
    humidity: Annotated[float, typer.Option(help="Relative humidity in %.")],
    fluid: Annotated[str, typer.Option(help="Kind of fluid.")] = "mild",
    camera_c: Annotated[
        float | None, typer.Option(help="Temperature of the camera itself in °C.")
    ] = None,
    film_um: Annotated[str, typer.Option(help="Thickness of the film in µm.")] = "3-15",
    air_m_s: Annotated[str, typer.Option(help="Speed of the air in m/s.")] = "0.05-0.2",
    json: JsonFlag = False,
) -> None:
    """How fast a film of fluid dries in this room, and how a cold camera warms up in it."""
    kind = cast(FluidKind, _one_of("--fluid", fluid, FluidKind))
    film = Film(
        thickness_um=_range("--film-um", film_um, "µm"), air_m_s=_range("--air-m-s", air_m_s, "m/s")
    )
    _print(plan_drying(temperature, humidity, kind, film, camera_c), json)


def _range(name: str, text: str, unit: str) -> tuple[float, float]:
    low, _, high = text.partition("-")
    try:
        return float(low), float(high)
    except ValueError:
        raise BadArgumentError(
            f"{name} {text!r} is no range. Give two numbers in {unit}, like 3-15."
        ) from None


@app.command()
def loupe(
    flange: Annotated[float, typer.Option(help="Flange distance of the body in mm.")],
    loupe_range: Annotated[str, typer.Option(help="Distances it focuses on, in mm, like 40-46.")],
    json: JsonFlag = False,
) -> None:
    """Whether a loupe focuses on this body's sensor."""
    _print(plan_loupe(flange, _range("--loupe-range", loupe_range, "mm")), json)


@app.command()
def shoot(
    focal_mm: Annotated[float, typer.Option(help="Focal length in mm.")] = 85.0,
    smallest_f: Annotated[float | None, typer.Option(help="The lens's smallest opening.")] = None,
    ev100: Annotated[float | None, typer.Option(help="Light reading at ISO 100.")] = None,
    trial: Annotated[
        Path | None, typer.Option(help="Map of a trial frame, whose exposure is put right.")
    ] = None,
    json: JsonFlag = False,
) -> None:
    """The recipe of the test frame for a lens and a light."""
    tried = None
    if trial is not None:
        tried = trial_exposure_of(read_map(trial))
        if tried is None:
            raise BadArgumentError(
                f"{trial}: its frame does not tell aperture, ISO and time. Use --ev100 instead."
            )
    _print(plan_shoot(focal_mm, smallest_f, ev100, tried), json)
