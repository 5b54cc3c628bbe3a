"""What ``backup``, ``restore`` and ``check`` print."""

from __future__ import annotations

from pathlib import Path

import typer

from neatpatch.api.server import data_folder
from neatpatch.core.common.words import counted
from neatpatch.services.safety.archive import back_up, restore
from neatpatch.services.safety.checking import check
from neatpatch.services.safety.merging import merge, merged_words
from neatpatch.store.datafolder import Library
from neatpatch.store.owner import owned


def print_backup(file: Path, data: Path | None) -> None:
    """Write an archive and say what is in it, and what could not be."""
    manifest = back_up(data_folder(data, demo=False), file)
    size_mb = sum(p.bytes for p in manifest.parts) / 1e6
    typer.echo(
        f"{file}: {counted(manifest.originals, 'original')} and the database, {size_mb:.1f} MB, "
        "read back and proved."
    )
    for sha256 in manifest.missing:
        typer.echo(f"Not whole: the stored file {sha256[:12]} is gone or was altered before.")


def print_restored(file: Path, data: Path | None) -> None:
    """Bring an archive back and say what came."""
    root = data_folder(data, demo=False)
    manifest = restore(file, root)
    typer.echo(
        f"{root}: restored {counted(manifest.originals, 'original')} and the database of "
        f"{manifest.made_at[:16].replace('T', ' ')} UTC. Serve it as ever."
    )


def print_merged(file: Path, data: Path | None) -> None:
    """Merge an archive into a folder that no server works on, and say what came."""
    root = data_folder(data, demo=False)
    with owned(root):
        came = merge(file, root, Library(root).database)
    typer.echo(f"{root}: {merged_words(came)} Serve it as ever.")


def print_check(data: Path | None, *, json: bool) -> None:
    """Check a data folder; exit code 1 where something is lost."""
    report = check(data_folder(data, demo=False))
    if json:
        typer.echo(report.model_dump_json())
    else:
        looked = f"{counted(report.originals, 'original')} and {counted(report.maps, 'map')}"
        for finding in report.found:
            typer.echo(
                f"{'Lost' if finding.lost else 'Mended' if finding.mended else 'Found'}: "
                f"{finding.words}"
            )
        typer.echo(f"Looked at {looked}: {'all is well.' if report.ok else 'not all is well.'}")
    if not report.ok:
        raise SystemExit(1)
