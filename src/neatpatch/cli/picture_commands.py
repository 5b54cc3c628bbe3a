"""What ``patch`` and ``arrivals`` do."""

from __future__ import annotations

import shutil
import sys
from hashlib import sha256
from pathlib import Path

import typer
from platformdirs import user_cache_path
from pydantic import ValidationError

from neatpatch.cli.parsing import read_json, read_map, sensor_size
from neatpatch.core.arrivals.marks_as_map import marks_as_map
from neatpatch.core.arrivals.records import Arrivals
from neatpatch.core.common.errors import BadArgumentError, NeatPatchError
from neatpatch.core.common.records import SpotMap
from neatpatch.core.common.words import counted
from neatpatch.core.patching.records import PatchDone, PhotoPatch
from neatpatch.core.pictures.changes import Verified
from neatpatch.core.pictures.habits import Habits
from neatpatch.core.sensor.fingerprint import Fingerprint, fingerprint_of
from neatpatch.images.read import read_frame
from neatpatch.services.pictures.arrivals import arrivals_in
from neatpatch.services.pictures.folders import pictures_in, require_room, targets_for
from neatpatch.services.pictures.habits import habits_in
from neatpatch.services.pictures.patching import Patching, patch_all
from neatpatch.services.pictures.verify import verify


def print_patched(
    photos: list[Path], map_file: Path, out: Path, sensor: str | None, *, json: bool
) -> None:
    """Write patched copies and print what was done to each."""
    run = _patching(map_file, sensor)
    pictures = pictures_in(photos, leave_out=out)
    if out.exists() and not out.is_dir():
        raise BadArgumentError(f"{out} is a file. Give a folder for the copies.")
    pairs = list(zip([p for p, _ in pictures], targets_for(pictures, out), strict=True))
    require_room([source for source, _ in pairs], out)
    done: list[PhotoPatch | None] = [None] * len(pairs)
    for count, (index, photo) in enumerate(patch_all(run, pairs), start=1):
        done[index] = photo
        print(f"{count} of {len(pairs)}: {_line(photo)}", file=sys.stderr)
    result = PatchDone(photos=tuple(p for p in done if p is not None))
    if json:
        typer.echo(result.model_dump_json())
    else:
        written = sum(p.out is not None for p in result.photos)
        typer.echo(f"{written} of {len(pairs)} pictures patched into {out}.")


def print_arrivals(photos: list[Path], sensor: str | None, *, json: bool) -> None:
    """Print the marks found in everyday pictures, with their dates."""
    size = sensor_size(sensor)
    pictures = [p for p, _ in pictures_in(photos)]

    def told(done: int, total: int, what: str) -> None:
        if done == total or done % 20 == 0:
            print(f"{done} of {total} {what}", file=sys.stderr)

    workplace = _workplace(photos)
    found = arrivals_in(pictures, workplace, size, told)
    shutil.rmtree(workplace, ignore_errors=True)
    typer.echo(found.model_dump_json() if json else _arrivals_text(found))


def print_habits(folder: Path, *, json: bool) -> None:
    """Print the apertures and focal lengths of a folder's pictures."""

    def told(done: int, total: int) -> None:
        if done % 500 == 0:
            print(f"{done} of {total} read", file=sys.stderr)

    found = habits_in(folder, told)
    typer.echo(found.model_dump_json(by_alias=True) if json else _habits_text(found))


def _habits_text(found: Habits) -> str:
    lines = [f"{counted(found.pictures, 'picture')} read."]
    for words, counts in (("f/{}", found.f_numbers), ("{} mm", found.focal_mm)):
        lines += [
            f"{words.format(value):>8}  {n:6}  {100 * n / found.pictures:5.1f} %"
            for value, n in counts.items()
        ]
    lines += [f"Not read: {s.path}: {s.why}" for s in found.skipped]
    return "\n".join(lines)


def print_verified(copy: Path, original: Path, *, json: bool) -> None:
    """Print the places where a copy differs from its original."""
    found = verify(copy, original)
    typer.echo(found.model_dump_json(by_alias=True) if json else _verified_text(found))


def _verified_text(found: Verified) -> str:
    lines = [f"{counted(len(found.places), 'place')} changed."]
    lines += [
        f"{p.x_px:.0f}, {p.y_px:.0f} px: {p.outer_px:.0f} px wide, {p.changed_px} pixels"
        for p in found.places
    ]
    if not found.told:
        lines.append("The copy does not say where it was patched.")
    same = "Nothing else differs." if found.same_outside else "Other pixels differ, too."
    return "\n".join([*lines, same])


def _workplace(photos: list[Path]) -> Path:
    """Where a search keeps what it has read, so that one that was stopped goes on."""
    key = sha256("|".join(str(p.resolve()) for p in photos).encode()).hexdigest()[:16]
    return user_cache_path("neatpatch") / "arrivals" / key


def _arrivals_text(found: Arrivals) -> str:
    lines = [f"{counted(len(found.spots), 'mark')} in {counted(found.frames_used, 'picture')}."]
    for spot in found.spots:
        came = (spot.first_with or "")[:10]
        since = f" (not there on {spot.last_without[:10]})" if spot.last_without else ""
        gone = f", gone by {spot.first_without_again[:10]}" if spot.first_without_again else ""
        lines.append(
            f"{spot.id}: at {spot.x_px:.0f}, {spot.y_px:.0f} px, depth {100 * spot.depth:.0f} %, "
            f"seen from {came}{since}{gone}; in {spot.seen_in} of {spot.could_see} pictures."
        )
    lines += [f"Not used: {s.path}: {s.why}" for s in found.frames_skipped]
    return "\n".join(lines)


def _patching(map_file: Path, sensor: str | None) -> Patching:
    spot_map = _map_or_arrivals(map_file, sensor)
    try:
        return Patching(spot_map=spot_map, reference=_reference(spot_map))
    except BadArgumentError as error:
        raise BadArgumentError(f"{map_file}: {error}") from error


def _map_or_arrivals(map_file: Path, sensor: str | None) -> SpotMap:
    given = read_json(map_file)
    if isinstance(given, dict) and given.get("schema") == "neatpatch.arrivals/1":
        try:
            return marks_as_map(Arrivals.model_validate(given))
        except ValidationError as error:
            first = error.errors()[0]
            raise BadArgumentError(
                f"{map_file}: these are no arrivals ({first['msg'].lower()}). "
                "Write them with 'neatpatch arrivals FOLDER --json'."
            ) from error
    return read_map(map_file, sensor_size(sensor))


def _reference(spot_map: SpotMap) -> Fingerprint | None:
    """The sensor's fingerprint from the map's own frame, where that file is still there."""
    known = spot_map.frames[0]
    try:
        frame = read_frame(Path(known.path))
    except (NeatPatchError, OSError):
        return None
    return fingerprint_of(frame) if frame.facts.sha256 == known.sha256 else None


def _line(photo: PhotoPatch) -> str:
    name = Path(photo.path).name
    if photo.why_not:
        return f"{name}: not patched. {photo.why_not}"
    return f"{name}: {photo.restored} restored, {photo.filled} filled, {len(photo.left)} left."
