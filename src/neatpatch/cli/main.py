"""The command line: a second door to the same core, for scripts and for measuring."""

from __future__ import annotations

import sys
import warnings
from pathlib import Path
from typing import Annotated, Any

import typer
from typer.core import TyperGroup

from neatpatch import __version__
from neatpatch.core.common.apertures import DEFAULT_WORKS_AT
from neatpatch.core.common.errors import NeatPatchError

app = typer.Typer(
    add_completion=False,
    pretty_exceptions_enable=False,
    rich_markup_mode=None,
    help="Measures the dust on a camera's sensor from a test frame.",
)
JsonFlag = Annotated[bool, typer.Option("--json", help="Print one JSON object and nothing else.")]
Share = Annotated[
    bool, typer.Option("--share", help="Let devices on the network in by a code, over TLS.")
]
ShareOn = Annotated[
    str | None, typer.Option(help="Address to share on; else this machine's on its network.")
]
SharePort = Annotated[
    int, typer.Option(help="Port to share on, or 0 for a free one.", min=0, max=65535)
]
Port = Annotated[int, typer.Option(min=0, max=65535, help="Port to serve on; 0 takes a free one.")]
Host = Annotated[str, typer.Option(help="Address to bind to; loopback unless you know why not.")]
Data = Annotated[Path | None, typer.Option(help="Folder for the database and the originals.")]


@app.command("map")
def map_command(
    frames: Annotated[list[Path], typer.Argument(help="Test frames of one body.")],
    sensor: Annotated[str | None, typer.Option(help="Sensor size in mm, like 23.5x15.6.")] = None,
    height_mm: Annotated[float | None, typer.Option(help="Known stack height in mm.")] = None,
    works_at: Annotated[
        float, typer.Option(help="Smallest aperture worked at.")
    ] = DEFAULT_WORKS_AT,
    json: JsonFlag = False,
) -> None:
    """Measure what lies on the sensor from one or more test frames."""
    from neatpatch.cli.parsing import read_frame_named, sensor_size, within
    from neatpatch.cli.printing import map_text
    from neatpatch.core.measure.map_building import MapOptions, build_map

    options = MapOptions(
        sensor_mm=sensor_size(sensor),
        height_mm=within("--height-mm", height_mm, 0.05, 100, "mm"),
        works_at=within("--works-at", works_at, 0.5, 128, "") or DEFAULT_WORKS_AT,
    )
    spot_map = build_map([read_frame_named(path) for path in frames], options)
    typer.echo(spot_map.model_dump_json() if json else map_text(spot_map))


@app.command("predict")
def predict_command(
    map_file: Annotated[Path, typer.Argument(help="A map as written by map --json.")],
    f_number: Annotated[float, typer.Option("--f", help="The other aperture.")],
    json: JsonFlag = False,
) -> None:
    """Tell how a map's spots would look at another aperture."""
    from neatpatch.cli.parsing import read_map
    from neatpatch.cli.printing import prediction_text
    from neatpatch.core.maps.prediction import predict

    prediction = predict(read_map(map_file), f_number)
    typer.echo(prediction.model_dump_json() if json else prediction_text(prediction))


@app.command("compare")
def compare_command(
    before: Annotated[Path, typer.Argument(help="The earlier frame, or its map as JSON.")],
    after: Annotated[Path, typer.Argument(help="The later frame, or its map as JSON.")],
    sensor: Annotated[str | None, typer.Option(help="Sensor size in mm, like 23.5x15.6.")] = None,
    json: JsonFlag = False,
) -> None:
    """Tell what went, stayed, moved and came between two frames of one body."""
    from neatpatch.cli.judge_commands import print_comparison

    print_comparison(before, after, sensor, json=json)


@app.command("advise")
def advise_command(
    facts_file: Annotated[Path, typer.Argument(help="What is known, as JSON.")],
    json: JsonFlag = False,
) -> None:
    """Say the least risky next move for the facts in a file."""
    from neatpatch.cli.judge_commands import print_advice

    print_advice(facts_file, json=json)


class _Plans(TyperGroup):
    """The plans' commands, loaded when one of them is wanted."""

    def list_commands(self, ctx: Any) -> list[str]:
        return _plans().list_commands(ctx)

    def get_command(self, ctx: Any, cmd_name: str) -> Any:
        return _plans().get_command(ctx, cmd_name)


def _plans() -> TyperGroup:
    from neatpatch.cli import plan_commands

    group = typer.main.get_command(plan_commands.app)
    assert isinstance(group, TyperGroup)
    return group


plans = typer.Typer(
    cls=_Plans,
    no_args_is_help=True,
    rich_markup_mode=None,
    help="Plans for the hand: swab, dab, air, dry, loupe, shoot, power.",
)
app.add_typer(plans, name="plan")


@app.command()
def simulate(
    out: Annotated[Path, typer.Option(help="Folder to write the frame and its truth into.")],
    seed: Annotated[int, typer.Option(min=0, help="The same seed gives the same frame.")] = 1,
    sensor: Annotated[str, typer.Option(help="Sensor size in mm.")] = "23.5x15.6",
    width_px: Annotated[int, typer.Option(min=256, max=12000, help="Pixels across.")] = 6000,
    f_number: Annotated[float, typer.Option("--f", min=0.9, max=64)] = 22.0,
    iso: Annotated[int, typer.Option(min=25, max=102400)] = 100,
    stack_mm: Annotated[float, typer.Option(min=0.1, max=10)] = 1.5,
    exit_pupil_mm: Annotated[float, typer.Option(min=30, max=1000)] = 70.0,
    blades: Annotated[int, typer.Option(min=0, max=12, help="0 for a round opening.")] = 7,
    specks: Annotated[int, typer.Option(min=0, max=2000)] = 30,
    fibres: Annotated[int, typer.Option(min=0, max=200)] = 2,
    droplets: Annotated[int, typer.Option(min=0, max=200)] = 3,
    residues: Annotated[int, typer.Option(min=0, max=100)] = 1,
    lens_dust: Annotated[int, typer.Option(min=0, max=50)] = 0,
    texture: Annotated[float, typer.Option(min=0, max=0.5)] = 0.0,
    level: Annotated[float, typer.Option(min=0.001, max=2, help="Exposure, 1 is full.")] = 0.38,
    quality: Annotated[int, typer.Option(min=10, max=100, help="JPEG quality.")] = 94,
    dng: Annotated[bool, typer.Option("--dng", help="Write a DNG instead of a JPEG.")] = False,
) -> None:
    """Write a test frame of an invented camera, with the truth beside it."""
    from neatpatch.cli.parsing import sensor_size
    from neatpatch.simulation.frames import Recipe, write_simulated

    recipe = Recipe(
        seed=seed,
        sensor_mm=sensor_size(sensor) or (23.5, 15.6),
        width_px=width_px,
        f_number=f_number,
        iso=iso,
        stack_mm=stack_mm,
        exit_pupil_mm=exit_pupil_mm,
        blades=blades,
        counts={
            "speck": specks,
            "fibre": fibres,
            "droplet": droplets,
            "residue": residues,
            "soft": lens_dust,
        },
        texture=texture,
        level=level,
        quality=quality,
        dng=dng,
    )
    for path in write_simulated(recipe, out):
        typer.echo(str(path))


@app.command()
def serve(
    data: Data = None,
    host: Host = "127.0.0.1",
    port: Port = 8719,
    watch: Annotated[
        Path | None, typer.Option(help="Folder whose new pictures are taken in by themselves.")
    ] = None,
    share: Share = False,
    share_on: ShareOn = None,
    share_port: SharePort = 8720,
) -> None:
    """Serve the page and the API on this machine, and with --share to paired devices."""
    from neatpatch.cli.serve_command import ServeOptions, run

    run(
        ServeOptions(
            data=data,
            host=host,
            port=port,
            watched=watch,
            share=share,
            share_on=share_on,
            share_port=share_port,
        )
    )


@app.command()
def demo(
    data: Data = None,
    host: Host = "127.0.0.1",
    port: Port = 8719,
    share: Share = False,
    share_on: ShareOn = None,
    share_port: SharePort = 8720,
) -> None:
    """Fill a folder with the made-up archive, once, and serve it."""
    from neatpatch.cli.serve_command import ServeOptions, run

    run(
        ServeOptions(
            data=data,
            host=host,
            port=port,
            demo=True,
            share=share,
            share_on=share_on,
            share_port=share_port,
        )
    )


@app.command()
def arrivals(
    photos: Annotated[list[Path], typer.Argument(help="Pictures of one body, or folders.")],
    sensor: Annotated[str | None, typer.Option(help="Sensor size in mm, like 23.5x15.6.")] = None,
    json: JsonFlag = False,
) -> None:
    """Find marks that keep their place in everyday pictures, and when each came and went."""
    from neatpatch.cli.picture_commands import print_arrivals

    print_arrivals(photos, sensor, json=json)


@app.command()
def habits(
    folder: Annotated[Path, typer.Argument(help="A folder of your pictures.")],
    json: JsonFlag = False,
) -> None:
    """Count the apertures and focal lengths of a folder's pictures; only metadata is read."""
    from neatpatch.cli.picture_commands import print_habits

    print_habits(folder, json=json)


@app.command()
def verify(
    copy: Annotated[Path, typer.Argument(help="A patched copy.")],
    original: Annotated[Path, typer.Argument(help="The picture it was made of.")],
    json: JsonFlag = False,
) -> None:
    """Show where a patched copy differs from its original."""
    from neatpatch.cli.picture_commands import print_verified

    print_verified(copy, original, json=json)


@app.command()
def patch(
    photos: Annotated[list[Path], typer.Argument(help="Pictures, or folders of them.")],
    map_file: Annotated[Path, typer.Option("--map", help="A map as written by map --json.")],
    out: Annotated[Path, typer.Option(help="Folder for the patched copies.")],
    sensor: Annotated[str | None, typer.Option(help="Sensor size in mm, like 23.5x15.6.")] = None,
    json: JsonFlag = False,
) -> None:
    """Write copies of pictures with the shadows of a map's spots taken out."""
    from neatpatch.cli.picture_commands import print_patched

    print_patched(photos, map_file, out, sensor, json=json)


@app.command()
def report(
    visit: Annotated[int, typer.Argument(help="The visit's number, as its address shows it.")],
    out: Annotated[Path, typer.Option(help="The file to write: .pdf or .html.")],
    data: Data = None,
) -> None:
    """Write a visit's report for the owner of the camera."""
    from neatpatch.cli.report_command import write_report

    write_report(visit, out, data)


@app.command()
def backup(
    file: Annotated[Path, typer.Argument(help="The archive to write, like backup.zip.")],
    data: Data = None,
) -> None:
    """Write everything into one archive, also while the folder is being served."""
    from neatpatch.cli.backup_commands import print_backup

    print_backup(file, data)


@app.command()
def restore(
    file: Annotated[Path, typer.Argument(help="An archive that `backup` wrote.")],
    data: Data = None,
    merge: Annotated[
        bool, typer.Option("--merge", help="Add what a folder in use lacks; nothing is doubled.")
    ] = False,
) -> None:
    """Bring an archive back into an empty folder, or merge it into one in use."""
    from neatpatch.cli.backup_commands import print_merged, print_restored

    (print_merged if merge else print_restored)(file, data)


@app.command()
def check(data: Data = None, json: JsonFlag = False) -> None:
    """Hold every stored original against its hash, and the database against its rules."""
    from neatpatch.cli.backup_commands import print_check

    print_check(data, json=json)


@app.command()
def version() -> None:
    """Print the version."""
    typer.echo(__version__)


_STOPPED = 130
"""What a command gives when Ctrl-C ended it."""


def main() -> None:
    """Run the command line; every error that a user can cause is one line and exit code 2."""
    warnings.simplefilter("ignore")  # numerical remarks on damaged files are no news to the user
    try:
        code = app(standalone_mode=False)
    except NeatPatchError as error:
        _fail(str(error))
    except typer.TyperException as error:
        _fail(f"{error.format_message()} Try 'neatpatch --help'.")
    except typer.Abort:
        code = _STOPPED
    except BrokenPipeError:
        raise SystemExit(0) from None
    except OSError as error:
        _fail(f"{error.filename or 'file'}: {error.strerror or error}. Check the path and rights.")
    except Exception as error:  # noqa: BLE001 - a fault of ours is one line, too
        print(f"neatpatch: this is a fault of Neat Patch ({error!r}).", file=sys.stderr)
        raise SystemExit(1) from None
    if code == _STOPPED:
        print("neatpatch: stopped. What was finished stays.", file=sys.stderr)
    raise SystemExit(code)


def _fail(message: str) -> None:
    print("neatpatch: " + " ".join(message.split()), file=sys.stderr)
    raise SystemExit(2)


if __name__ == "__main__":
    main()
