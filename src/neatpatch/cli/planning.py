"""``plan``: the arithmetic of the hand, done before the camera is opened."""

from __future__ import annotations

from pathlib import Path
from typing import Annotated, cast, get_args

import typer
from pydantic import BaseModel

from neatpatch.cli.parsing import read_map, sensor_size, size_of
from neatpatch.core.errors import BadArgumentError
from neatpatch.core.planners.dab import plan_dabs, plan_whole, targets_of
from neatpatch.core.planners.dry import FluidKind, plan_drying
from neatpatch.core.planners.loupe import plan_loupe
from neatpatch.core.planners.shoot import plan_shoot
from neatpatch.core.planners.swab import StrokeSchool, plan_swab

app = typer.Typer(help="Plans for the hand: swab, dab, dry, loupe, shoot.", no_args_is_help=True)
JsonFlag = Annotated[bool, typer.Option("--json", help="Print one JSON object and nothing else.")]
Sensor = Annotated[str, typer.Option(help="Sensor size in mm, like 36x24.")]


def _print(plan: BaseModel, json: bool) -> None:
    if json:
        typer.echo(plan.model_dump_json())
        return
    for name, value in plan.model_dump().items():
        rows = value if isinstance(value, list | tuple) else [value]
        typer.echo(f"{name.replace('_', ' ')}:")
        for row in rows:
            typer.echo(f"  {row}")


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
    json: JsonFlag = False,
) -> None:
    """Lanes, strokes, faces and drops of a swab."""
    size = sensor_size(sensor)
    assert size is not None
    school = cast(StrokeSchool, _one_of("--stroke", stroke, StrokeSchool))
    _print(plan_swab(size, swab, school), json)


@app.command()
def dab(
    sensor: Sensor,
    tip: Annotated[str, typer.Option(help="Size of the sticky tip in mm, like 8x6.")],
    map_file: Annotated[
        Path | None, typer.Option("--map", help="A map as written by map --json.")
    ] = None,
    whole: Annotated[bool, typer.Option("--whole", help="The whole sensor as a grid.")] = False,
    json: JsonFlag = False,
) -> None:
    """The fewest presses that lift every spot of a map."""
    size = sensor_size(sensor)
    assert size is not None
    tip_mm = size_of("--tip", tip, 0.5, 60)
    if whole == (map_file is not None):
        raise BadArgumentError("give either --map MAP.json or --whole.")
    if map_file is None:
        _print(plan_whole(size, tip_mm), json)
        return
    spot_map = read_map(map_file)
    targets = targets_of(spot_map.spots)
    if not targets and any(s.site in ("sensor", "unsure") for s in spot_map.spots):
        raise BadArgumentError(
            f"{map_file}: the map knows no millimetres. Make it anew with --sensor {sensor}."
        )
    _print(plan_dabs(size, tip_mm, targets), json)


@app.command()
def dry(
    temperature: Annotated[float, typer.Option(help="Room temperature in °C.")],
    humidity: Annotated[float, typer.Option(help="Relative humidity in %.")],
    fluid: Annotated[str, typer.Option(help="Kind of fluid.")] = "mild",
    json: JsonFlag = False,
) -> None:
    """How fast a film of fluid dries in this room."""
    kind = cast(FluidKind, _one_of("--fluid", fluid, FluidKind))
    _print(plan_drying(temperature, humidity, kind), json)


@app.command()
def loupe(
    flange: Annotated[float, typer.Option(help="Flange distance of the body in mm.")],
    loupe_range: Annotated[str, typer.Option(help="Distances it focuses on, in mm, like 40-46.")],
    json: JsonFlag = False,
) -> None:
    """Whether a loupe focuses on this body's sensor."""
    low, _, high = loupe_range.partition("-")
    try:
        reach = float(low), float(high)
    except ValueError:
        raise BadArgumentError(
            f"--loupe-range {loupe_range!r} is no range. Give two lengths in mm, like 40-46."
        ) from None
    _print(plan_loupe(flange, reach), json)


@app.command()
def shoot(
    focal_mm: Annotated[float, typer.Option(help="Focal length in mm.")] = 85.0,
    smallest_f: Annotated[float | None, typer.Option(help="The lens's smallest opening.")] = None,
    ev100: Annotated[float | None, typer.Option(help="Light reading at ISO 100.")] = None,
    json: JsonFlag = False,
) -> None:
    """The recipe of the test frame for a lens and a light."""
    _print(plan_shoot(focal_mm, smallest_f, ev100), json)
