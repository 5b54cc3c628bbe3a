"""What ``compare`` and ``advise`` do."""

from __future__ import annotations

from pathlib import Path

import typer
from pydantic import ValidationError

from neatpatch.cli.parsing import as_map, read_json, sensor_size
from neatpatch.cli.printing import advice_text, comparison_text
from neatpatch.core.advice import Facts, advise
from neatpatch.core.common.errors import BadArgumentError
from neatpatch.core.compare.comparing_maps import compare
from neatpatch.core.sensor.registration import register_frames


def print_comparison(before: Path, after: Path, sensor: str | None, *, json: bool) -> None:
    """Print what went, stayed, moved and came between two frames or maps."""
    size = sensor_size(sensor)
    old, new = as_map(before, size), as_map(after, size)
    registration = register_frames(old.frame, new.frame) if old.frame and new.frame else None
    fields = (old.field, new.field) if old.field and new.field else None
    comparison = compare(old.spot_map, new.spot_map, registration, fields)
    typer.echo(comparison.model_dump_json() if json else comparison_text(comparison))


def print_advice(facts_file: Path, *, json: bool) -> None:
    """Print the least risky next move for the facts in a file."""
    advice = advise(read_facts(facts_file))
    typer.echo(advice.model_dump_json() if json else advice_text(advice))


def read_facts(path: Path) -> Facts:
    """Facts from a JSON file, bare or under the key ``facts``; errors name what is wrong."""
    given = read_json(path)
    if not isinstance(given, dict):
        raise BadArgumentError(f"{path}: facts are one JSON object. See the README for an example.")
    if isinstance(given.get("facts"), dict):
        given = given["facts"]
    try:
        return Facts.model_validate(given)
    except ValidationError as error:
        raise BadArgumentError(f"{path}: {refusal_of(error)}") from error


def refusal_of(error: ValidationError) -> str:
    """The first fault of a refused record in one sentence, by the field's name."""
    first = error.errors()[0]
    where = ".".join(str(part) for part in first["loc"])
    if first["type"] == "extra_forbidden":
        return f"{where} is not a known field. Remove it, or correct its name."
    return f"{where}: {first['msg']}. Correct the value."
